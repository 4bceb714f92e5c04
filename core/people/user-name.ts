import anyAscii from 'any-ascii';
import { z } from 'zod';
import { line } from '../boundary/index.ts';

/** The ways a user name is put together from the first of the given names and the family name. */
export const userNameForms = ['given.family', 'given', 'initialFamily', 'familyInitial'] as const;

/** How user names are made in a directory. */
export const UserNameRule = z.object({
  form: z.enum(userNameForms),
  /** A name is cut to so many signs, the number after it included. */
  most: z
    .number({ error: 'A whole number from 6 to 64.' })
    .int('A whole number from 6 to 64.')
    .min(6, 'At least 6 signs.')
    .max(64, 'At most 64 signs.'),
  /** What stands after the @ in the mail address that goes with it; empty: no address is made. */
  domain: line(200)
    .trim()
    .refine((d) => d === '' || /^[a-z0-9]([a-z0-9-]*[a-z0-9])?(\.[a-z0-9]([a-z0-9-]*[a-z0-9])?)+$/i.test(d), 'A domain such as example.org.'),
});
export type UserNameRule = z.infer<typeof UserNameRule>;

/** Short enough for most systems; no address is made that nobody asked for. */
export const defaultUserNames: UserNameRule = { form: 'given.family', most: 20, domain: '' };

/** A person's name in its two parts, as they write it. */
export interface FullName {
  given: string;
  family: string;
}

/** So many are tried at most; where none is free, somebody has to look. */
export const mostTried = 100;

/** In letters that every system takes: `a` to `z` and digits. Letters of other scripts are written as they sound. */
const plain = (name: string): string =>
  anyAscii(name.normalize('NFC'))
    .toLowerCase()
    .replace(/[^a-z0-9]/g, '');

const joined: Record<UserNameRule['form'], (given: string, family: string) => string[]> = {
  'given.family': (given, family) => [given, family],
  given: (given) => [given],
  initialFamily: (given, family) => [given.slice(0, 1) + family],
  familyInitial: (given, family) => [family + given.slice(0, 1)],
};

/**
 * The user names that may be made of a name, in the order in which they are to be tried: the name itself, then with 2, 3, … after it.
 * Each is of `a` to `z`, digits and dots, begins and ends with a letter or digit, is at most `rule.most` signs long, and none comes
 * twice. Nothing of the name can be written so: none. Somebody with one name only has it alone.
 */
export function userNames(rule: UserNameRule, name: FullName): string[] {
  const first = name.given.trim().split(/\s+/u)[0] ?? '';
  const [given, family] = [plain(first), plain(name.family)];
  const whole = given && family ? joined[rule.form](given, family).join('.') : given || family;
  if (whole === '') return [];
  const cut = (most: number) => whole.slice(0, most).replace(/\.+$/, '');
  const numbered = Array.from({ length: mostTried - 1 }, (_, i) => `${cut(rule.most - String(i + 2).length)}${i + 2}`);
  // A name that ends in digits may be cut to one that was there already.
  return [...new Set([cut(rule.most), ...numbered])];
}

/** The mail address that goes with a user name; undefined where none is made. */
export const addressFor = (rule: UserNameRule, userName: string): string | undefined =>
  rule.domain === '' ? undefined : `${userName}@${rule.domain.toLowerCase()}`;
