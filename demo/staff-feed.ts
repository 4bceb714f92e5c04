import { proposedFacts, type Happening, type StaffRule } from '../core/staff/index.ts';
import type { ItemDefinition } from '../core/items/index.ts';
import type { DemoPerson } from './organisation.ts';

/** What names an employee of the institute: the first was the first. */
export const staffNumber = (staff: DemoPerson[], key: string): string => String(10001 + staff.findIndex((s) => s.key === key));

type Line = { from: string; record: Record<string, string> };
const day = (n: number) => new Date(Date.now() + n * 86_400_000).toISOString().slice(0, 10);

const namesOf = (name: string) => {
  const at = name.lastIndexOf(' ');
  return { given: name.slice(0, at), family: name.slice(at + 1) };
};

/** Everybody who works at the institute, as its staff office has known them for years. */
export const everybody = (staff: DemoPerson[]): Line[] => staff.map((s) => ({ from: '2024-01-08', record: recordOf(staff, s, {}) }));

function recordOf(staff: DemoPerson[], s: DemoPerson, more: Record<string, string>): Record<string, string> {
  const number = staffNumber(staff, s.key);
  return {
    employment: `${number}-1`,
    staffNumber: number,
    ...namesOf(s.name),
    department: s.department,
    jobRole: s.jobRole,
    place: s.place,
    contract: 'Permanent',
    firstDay: `${2012 + (staff.indexOf(s) % 12)}-0${1 + (staff.indexOf(s) % 9)}-01`,
    ...(s.manager && { manager: staffNumber(staff, s.manager) }),
    ...more,
  };
}

/** What the office tells of this week: two who start, one of them called as somebody is already; one whose job no item knows; one who moves; one who has a last day. */
export function thisWeek(staff: DemoPerson[]): Line[] {
  const of = (department: string) => staff.filter((s) => s.department === department && s.key.includes('.'));
  const comes = (number: string, name: string, more: Record<string, string>): Line => ({
    from: day(0),
    record: { employment: `${number}-1`, staffNumber: number, ...namesOf(name), contract: 'Permanent', firstDay: day(25), ...more },
  });
  const vessels = { department: 'Vessels', place: 'Kittiwake', manager: staffNumber(staff, 'vessels-head') };
  const charts = { department: 'Charts', place: 'Chart Hall', manager: staffNumber(staff, 'charts-head') };
  const [moves, leaves] = [of('Hydrography')[3]!, of('Vessels')[5]!];
  return [
    comes('20001', 'Ingrid Skellig', { ...vessels, jobRole: 'deck technician', contract: 'For a season', lastDay: day(210) }),
    comes('20002', 'Liv Kelpvik', { ...charts, jobRole: 'chart editor' }),
    comes('20003', 'Torunn Vardholm', { ...charts, jobRole: 'cartographer' }),
    { from: day(30), record: recordOf(staff, moves, { ...vessels, jobRole: 'mate' }) },
    { from: day(0), record: recordOf(staff, leaves, { lastDay: day(90) }) },
  ];
}

/** What follows what the feed tells: the items for those who start, come back, move and leave. */
export function staffRules(items: Record<'starting' | 'moving' | 'leaving', { id: string; definition: ItemDefinition }>, asks: string) {
  const rule = (
    { id, definition }: { id: string; definition: ItemDefinition },
    by: Partial<Record<string, StaffRule['answers'][number]['from']>> = {},
  ): StaffRule => ({
    item: id,
    asks,
    answers: proposedFacts(definition.form.fields).map((a) => ({ ...a, from: by[a.field] ?? a.from })),
  });
  // Until somebody else is named, whoever leads them shows them around.
  const begins = rule(items.starting, { mentor: 'manager' });
  const rules: [Happening, StaffRule][] = [
    ['starts', begins],
    ['returns', begins],
    ['moves', rule(items.moving)],
    ['leaves', rule(items.leaving)],
  ];
  return rules;
}
