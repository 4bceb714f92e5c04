import { z } from 'zod';
import { line } from '../boundary/index.ts';
import type { Finding } from '../plans/index.ts';
import { GroupValue, LocationValue, PersonValue, type Value, type ValueNames } from '../values/index.ts';

/** Some of those who may ask: everybody of whom all that is stated here is true. A place counts for all that lies within it. */
export const AudienceLine = z.object({
  department: line(120).optional(),
  job: line(120).optional(),
  location: LocationValue.optional(),
  /** Its members and owners. */
  group: GroupValue.optional(),
  person: PersonValue.optional(),
});
export type AudienceLine = z.infer<typeof AudienceLine>;

/** Who may ask: everybody of whom one of these lines is true. */
export const Audience = z.array(AudienceLine).max(50);
export type Audience = z.infer<typeof Audience>;

/** What an audience names by its id. */
export const namedInAudience = (audience: Audience | undefined): Value[] =>
  (audience ?? []).flatMap((l): Value[] => [l.location ?? null, l.group ?? null, l.person ?? null].filter((v) => v !== null));

/** Whether a line states nothing, and so is true of nobody. */
const saysNothing = (l: AudienceLine): boolean => Object.values(l).every((v) => v === undefined || v === '');

/** One line in words, in the plural: "hydrographers of Charts at Lunnick Station". */
function lineWords(l: AudienceLine, names: ValueNames): string {
  if (l.person) return names('person', l.person.person) ?? 'somebody who is not known any more';
  const who = l.job ? `everybody who works as ${l.job}` : l.department || l.location || l.group ? 'everybody' : 'nobody yet';
  return [
    who,
    l.department && `of ${l.department}`,
    l.location && `at ${names('location', l.location.location) ?? 'a place that is not known any more'}`,
    l.group && `in ${names('group', l.group.group) ?? 'a group that is not known any more'}`,
  ]
    .filter(Boolean)
    .join(' ');
}

/** Who may ask, in words: "everybody of Charts; everybody at Lunnick Station; Tuva Fossness". */
export const audienceWords = (audience: Audience, names: ValueNames): string =>
  audience.length === 0 ? 'nobody' : audience.map((l) => lineWords(l, names)).join('; ');

/** What the check finds in lines about people; `of`: what they say. */
export function checkAudience(audience: Audience | undefined, names: ValueNames, of = 'who may ask'): Finding[] {
  if (!audience) return [];
  const tell = (sentence: string, mend: string): Finding => ({ code: 'unset-setting', severity: 'stops', sentence, mend });
  if (audience.length === 0) return [tell('Nobody may ask for this.', 'Say who may ask, or offer it to everyone.')];
  return audience.flatMap((l, i) => {
    if (saysNothing(l)) return [tell(`Line ${i + 1} of ${of} says nothing.`, 'Fill it in, or take it out.')];
    const gone =
      (l.location && names('location', l.location.location) === undefined) ||
      (l.group && names('group', l.group.group) === undefined) ||
      (l.person && names('person', l.person.person) === undefined);
    return gone ? [tell(`Line ${i + 1} of ${of} names something that is not known any more.`, 'Pick another, or take the line out.')] : [];
  });
}
