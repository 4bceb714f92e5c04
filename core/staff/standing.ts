import type { StaffRecord } from './record.ts';

/** Where somebody works and as what; what a move changes. */
const standingPlace = ['department', 'jobRole', 'place', 'manager'] as const;

/** How somebody stands by all their employments: one stay, from its first day to its last. */
export type Standing = Pick<StaffRecord, 'given' | 'family' | 'department' | 'jobRole' | 'place' | 'manager' | 'contract' | 'firstDay' | 'lastDay'>;

/** What may happen to somebody, as a feed tells it. */
export type Happening = 'starts' | 'returns' | 'otherDay' | 'moves' | 'renamed' | 'leaves' | 'stays';

/** Something that happened, with what of their standing is otherwise than before. */
export interface StaffHappening {
  kind: Happening;
  changed: (keyof Standing)[];
}

const never = '9999-12-31';
const end = (r: Pick<StaffRecord, 'lastDay'>): string => r.lastDay ?? never;
const dayAfter = (day: string): string => (day === never ? day : new Date(Date.parse(day) + 86_400_000).toISOString().slice(0, 10));

/**
 * How somebody stands by their employments (of which there is one at least): what holds of them is what the one says that ends last, of
 * those the one that began last. Employments at once, or without a day between them, are one stay: who has two, or goes over from one to
 * the next, neither starts nor leaves.
 */
export function standingOf(employments: StaffRecord[]): Standing {
  const sorted = employments.toSorted((a, b) => compare(end(b), end(a)) || compare(b.firstDay, a.firstDay) || compare(b.employment, a.employment));
  const main = sorted[0]!;
  let { firstDay } = main;
  // Sorted by their ends, each may only lengthen the stay that the ones before it make.
  for (const e of sorted) if (e.firstDay < firstDay && dayAfter(end(e)) >= firstDay) ({ firstDay } = e);
  const { given, family, department, jobRole, place, manager, contract, lastDay } = main;
  return { given, family, department, jobRole, place, manager, contract, firstDay, lastDay };
}
const compare = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

/**
 * What happened to somebody, from how they stood before (undefined: nobody knew of them) and how they stand now. One change may be
 * several: another name and another department. Nothing happened where nothing differs: the same thing told again is not told twice.
 */
export function happened(before: Standing | undefined, now: Standing): StaffHappening[] {
  if (!before) return [{ kind: 'starts', changed: [] }];
  const differs = (keys: readonly (keyof Standing)[]) => keys.filter((key) => before[key] !== now[key]);
  // Another stay, with days between: whatever else is new comes with it.
  if (before.lastDay !== null && now.firstDay > dayAfter(before.lastDay)) return [{ kind: 'returns', changed: differs(['firstDay', 'lastDay']) }];
  const all: StaffHappening[] = [];
  const [begins, renamed, moved, ends] = [differs(['firstDay']), differs(['given', 'family']), differs(standingPlace), differs(['lastDay'])];
  if (begins.length > 0) all.push({ kind: 'otherDay', changed: begins });
  if (renamed.length > 0) all.push({ kind: 'renamed', changed: renamed });
  if (moved.length > 0) all.push({ kind: 'moves', changed: moved });
  if (ends.length > 0) all.push({ kind: now.lastDay === null ? 'stays' : 'leaves', changed: ends });
  return all;
}
