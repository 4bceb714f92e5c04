import { z } from 'zod';

/**
 * What no text of ours may hold: control characters other than line break, return and tab (Unicode general category Cc;
 * NUL is one, and PostgreSQL can keep it neither in text nor in JSON), and halves of surrogate pairs, which no UTF-8 can carry.
 */

const unkeepable = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f-\u009f]|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/;
const everyUnkeepable = new RegExp(unkeepable, 'g');

/** The first character a text cannot keep, as a reader would look for it; undefined when there is none. */
export function unkeepableIn(text: string): string | undefined {
  const found = unkeepable.exec(text);
  return found ? `U+${found[0].charCodeAt(0).toString(16).toUpperCase().padStart(4, '0')} at character ${found.index + 1}` : undefined;
}

const cannotKeep = { error: 'Holds a character that cannot be kept: a control character, or half of one.' };
const onlyKeepable = (s: string) => !unkeepable.test(s);

/** A text of several lines, at most so many UTF-16 units long, without what no text may hold. Refuses; changes nothing. */
export const text = (most: number): z.ZodString => z.string().max(most, `At most ${most} characters.`).refine(onlyKeepable, cannotKeep);

/** The same on one line: a name, a label, a subject. */
export const line = (most: number): z.ZodString => text(most).refine((s) => !/[\r\n\t]/.test(s), { error: 'Has to stand on one line.' });

/**
 * What a person typed, without the characters nobody sees and nobody types (they come along when something is pasted),
 * with line breaks as they are everywhere else. What was visible stays as it was.
 */
export const typed = (raw: string): string => raw.replace(/\r\n?/g, '\n').replace(everyUnkeepable, '');

/** The words of somebody outside, fit to be kept and shown: what cannot be kept is seen to have been there (U+FFFD). */
export function heard(raw: string, most: number): string {
  const words = raw.slice(0, most * 2).replace(everyUnkeepable, '\ufffd');
  // Cut by whole characters: a cut in the middle of one would leave half of it.
  return words.length <= most ? words : `${words.slice(0, most - 1).replace(/[\ud800-\udbff]$/, '')}…`;
}
