import { z } from 'zod';
import { Audience } from '../items/index.ts';

/** Who belongs to a group by itself: everybody who works here and of whom one of these lines is true. */
export const Belonging = Audience.min(1, 'Say who belongs to the group: one line at least.');

const version = z.coerce
  .number('Read the page anew.')
  .int('Read the page anew.')
  .min(0, 'Read the page anew.')
  .max(1_000_000_000, 'Read the page anew.');

/** As many as somebody saw beside the button that they pressed. */
const seen = z.coerce.number('Read the page anew.').int('Read the page anew.').min(0).max(10_000_000).prefault('0');

/** How many come in and go out, as somebody saw it. */
export const SeenMoving = z.object({ in: seen, out: seen });

/** A condition that ends: the version of it that somebody saw. */
export const EndCondition = z.object({ version });

/** A condition as it is kept: the lines as JSON, why, the version of the one that it was made from (0: there was none), and how many move by it. */
export const KeepCondition = SeenMoving.extend({
  version,
  members: z
    .string()
    .max(40_000)
    .transform((text, ctx): unknown => {
      try {
        return JSON.parse(text);
      } catch {
        ctx.addIssue({ code: 'custom', message: 'Who belongs to the group could not be read.' });
        return z.NEVER;
      }
    })
    .pipe(Belonging),
  why: z.string().trim().min(1, 'Say why; whoever is let in reads this.').max(300, 'At most 300 characters.').prefault(''),
});

/** The groups that a condition asks about, by their ids; each once. */
export const groupsRead = (members: Audience): string[] => [...new Set(members.flatMap((l) => (l.group ? [l.group.group] : [])))];

/**
 * What of who belongs to a group by itself depends on that again, as sentences. `reads` gives the groups that the condition of another group asks
 * about: those who keep each other in by it would never come out again.
 */
export function checkBelonging(group: string, members: Audience, reads: ReadonlyMap<string, readonly string[]>): string[] {
  const asked = groupsRead(members);
  const own = asked.includes(group) ? ['Who is in this group cannot depend on who is in it already. Take that line out.'] : [];
  const round =
    own.length === 0 && reaches(asked, group, reads)
      ? ['A group that is named here takes its own members from this one: each would keep the other’s in for good. Take it out.']
      : [];
  return [...own, ...round];
}

/** Whether one of these groups is, by the conditions of any others, made of `group`. */
function reaches(from: readonly string[], group: string, reads: ReadonlyMap<string, readonly string[]>): boolean {
  const [seen, next] = [new Set<string>(), [...from]];
  for (let at = next.pop(); at !== undefined; at = next.pop()) {
    if (at === group) return true;
    if (seen.has(at)) continue;
    seen.add(at);
    next.push(...(reads.get(at) ?? []));
  }
  return false;
}

/** How many at once come in or go out without a word, at most: so many, or this part of those who are in by the condition. */
export const unasked = { atLeast: 20, part: 0.1 };

/** So many people come in, and so many go out. */
export interface Moving {
  in: number;
  out: number;
}

/**
 * Whether so many are moved without asking anybody. More at once are rather a fault in what is known of people than a change of them;
 * unless somebody who may has said yes to as many (`sure`).
 */
export function movesUnasked(moving: Moving, { inByIt, sure }: { inByIt: number; sure: Moving }): boolean {
  const most = Math.max(unasked.atLeast, Math.floor(inByIt * unasked.part));
  return moving.in <= Math.max(most, sure.in) && moving.out <= Math.max(most, sure.out);
}

/** How many come in and go out, in words: “12 come in and 1 goes out”. */
export function movingWords({ in: comeIn, out }: Moving): string {
  const parts = [
    comeIn > 0 ? `${comeIn.toLocaleString('en')} ${comeIn === 1 ? 'comes' : 'come'} in` : '',
    out > 0 ? `${out.toLocaleString('en')} ${out === 1 ? 'goes' : 'go'} out` : '',
  ].filter(Boolean);
  return parts.join(' and ') || 'nobody comes in or goes out';
}
