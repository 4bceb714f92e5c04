import { z } from 'zod';
import type { Finding } from '../plans/index.ts';
import type { Value, ValueNames } from '../values/index.ts';
import { Audience, audienceWords, checkAudience, namedInAudience } from './audience.ts';

/** Who may ask for somebody else: managers for the people they lead, however far down; those of the lines for anybody. */
export const OnBehalf = z.object({ managers: z.boolean(), by: Audience });
export type OnBehalf = z.infer<typeof OnBehalf>;

/** What it names by its id. */
export const namedInOnBehalf = (onBehalf: OnBehalf | undefined): Value[] => namedInAudience(onBehalf?.by);

/** Who may ask for others, in words: “managers for the people they lead, and everybody of People office for anybody”. */
export const onBehalfWords = ({ managers, by }: OnBehalf, names: ValueNames): string =>
  [managers ? 'managers for the people they lead' : '', by.length > 0 ? `${audienceWords(by, names)} for anybody` : '']
    .filter(Boolean)
    .join(', and ') || 'nobody';

/** What the check finds in who may ask for others. */
export function checkOnBehalf(onBehalf: OnBehalf | undefined, names: ValueNames): Finding[] {
  if (!onBehalf) return [];
  if (!onBehalf.managers && onBehalf.by.length === 0)
    return [
      {
        code: 'unset-setting',
        severity: 'stops',
        sentence: 'It can be asked for on behalf of others, and nobody may do that.',
        mend: 'Say who may ask for others, or let everybody ask for themselves only.',
      },
    ];
  return onBehalf.by.length > 0 ? checkAudience(onBehalf.by, names, 'who may ask for others') : [];
}
