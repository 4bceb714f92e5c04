import { eq, sql } from 'drizzle-orm';
import { happened, standingOf, type StaffChange, type StaffHappening, type StaffRecord, type Standing } from '../../core/staff/index.ts';
import { now } from '../clock.ts';
import type { Tx } from '../db/database.ts';
import { staffFeed, type Followed } from '../db/schema/index.ts';
import { addJobs } from '../runtime/jobs.ts';
import { putAside } from '../set-aside/put-aside.ts';
import { passLastDaysOn } from './last-days.ts';

/** Of starts, returns and last days on one page so many are followed by themselves; more at once are more likely a fault than a change. */
export const mostAtOnce = 20;
const weighs: ReadonlySet<StaffHappening['kind']> = new Set(['starts', 'returns', 'leaves']);

/** What is known of somebody: their staff numbers, and what each employment says. */
interface Known {
  id: string;
  numbers: Set<string>;
  employments: Map<string, StaffRecord>;
}
interface Happened extends StaffHappening {
  change: StaffChange;
  whose: string;
  standing: Standing;
}

/**
 * Takes over lines of the feed in their order, after the line `after` (elsewhere they are taken over already): what each employment says,
 * how its person stands then, and what happened to them, each once. Whom the feed tells of for the first time and who works here already has
 * not started. Gives how many lines were taken over.
 */
export async function takeOver(tx: Tx, after: number, changes: StaffChange[], last: number, etag: string | null): Promise<number> {
  const [feed] = await tx.select({ after: staffFeed.after }).from(staffFeed).where(eq(staffFeed.id, 1)).for('update');
  if (feed?.after !== after) return 0;
  const people = await knownOf(tx, changes);
  const happenings: Happened[] = [];
  const touched = new Set<Known>();
  for (const change of changes) {
    const { record } = change;
    const known = people.whose(record);
    if ('why' in known) {
      await putAside(tx, {
        source: 'staff',
        key: `line ${change.number}`,
        what: `Line ${change.number} of the staff feed`,
        cause: known.why,
        payload: change,
      });
      continue;
    }
    const before = known.employments.size > 0 ? standingOf([...known.employments.values()]) : undefined;
    known.employments.set(record.employment, record);
    touched.add(known);
    const standing = standingOf([...known.employments.values()]);
    happenings.push(...happened(before, standing).map((h) => ({ ...h, change, whose: known.id, standing })));
  }
  await keepPeople(tx, [...touched]);
  await keepHappenings(tx, happenings, touched);
  await passLastDaysOn(tx);
  await tx.update(staffFeed).set({ after: last, etag }).where(eq(staffFeed.id, 1));
  return changes.length;
}

/** Whoever the lines may be about, as they are known; and whose a record is, or why nobody can say. */
async function knownOf(tx: Tx, changes: StaffChange[]) {
  const numbers = changes.flatMap(({ record }) => [record.staffNumber, ...(record.formerly === null ? [] : [record.formerly])]);
  const employments = changes.map(({ record }) => record.employment);
  const { rows } = await tx.execute<{ whose: string; numbers: string[]; record: StaffRecord }>(sql`
    select p.id as whose, p.numbers, e.record from staff_person p join staff_employment e on e.whose = p.id where p.id in (
      select id from staff_person where numbers && ${sql.param(numbers)}::text[]
      union select whose from staff_employment where employment = any(${sql.param(employments)}::text[]))`);
  const byNumber = new Map<string, Known>();
  const byEmployment = new Map<string, Known>();
  const add = (known: Known, { employment }: StaffRecord, numbers: string[]): void => {
    byEmployment.set(employment, known);
    for (const number of numbers) {
      known.numbers.add(number);
      byNumber.set(number, known);
    }
  };
  const people = new Map<string, Known>();
  for (const r of rows) {
    const known = people.get(r.whose) ?? { id: r.whose, numbers: new Set(), employments: new Map() };
    people.set(r.whose, known);
    known.employments.set(r.record.employment, r.record);
    add(known, r.record, r.numbers);
  }
  return {
    whose(record: StaffRecord): Known | { why: string } {
      const { staffNumber, formerly, employment } = record;
      const [now, then] = [byNumber.get(staffNumber), formerly === null ? undefined : byNumber.get(formerly)];
      if (now && then && now !== then) return { why: `${staffNumber} and ${formerly} are known as two people; nobody can say that they are one.` };
      const of = byEmployment.get(employment);
      const known = now ?? then ?? { id: formerly ?? staffNumber, numbers: new Set<string>(), employments: new Map<string, StaffRecord>() };
      if (of && of !== known) return { why: `The employment ${employment} is that of ${of.id} already.` };
      add(known, record, [staffNumber, ...(formerly === null ? [] : [formerly])]);
      return known;
    },
  };
}

async function keepPeople(tx: Tx, people: Known[]): Promise<void> {
  const rows = people.map((p) => {
    const standing = standingOf([...p.employments.values()]);
    return { id: p.id, numbers: [...p.numbers], standing, last: standing.lastDay };
  });
  await tx.execute(sql`
    insert into staff_person (id, numbers, standing, last_day)
    select id, array(select jsonb_array_elements_text(numbers)), standing, last from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb)
      as r(id text, numbers jsonb, standing jsonb, last date)
    on conflict (id) do update set numbers = excluded.numbers, standing = excluded.standing, last_day = excluded.last_day`);
  const employments = people.flatMap((p) => [...p.employments.values()].map((record) => ({ employment: record.employment, whose: p.id, record })));
  await tx.execute(sql`
    insert into staff_employment (employment, whose, record)
    select employment, whose, record from jsonb_to_recordset(${JSON.stringify(employments)}::jsonb) as r(employment text, whose text, record jsonb)
    on conflict (employment) do update set record = excluded.record where staff_employment.record is distinct from excluded.record`);
}

/** What happened is told once, and what follows it is to be done. */
async function keepHappenings(tx: Tx, all: Happened[], people: ReadonlySet<Known>): Promise<void> {
  const at = now();
  const today = at.toISOString().slice(0, 10);
  const numbers = new Map([...people].map((p) => [p.id, [...p.numbers]]));
  const { rows: here } = await tx.execute<{ number: string }>(sql`
    select staff_number as number from person where active and staff_number = any(${sql.param([...numbers.values()].flat())}::text[])`);
  const isHere = new Set(here.map((h) => h.number));
  const { rows: rules } = await tx.execute<{ kind: string }>(sql`select kind from staff_rule where not off`);
  const ruled = new Set(rules.map((r) => r.kind));
  const worksHere = (h: Happened) => h.kind === 'starts' && numbers.get(h.whose)!.some((n) => isHere.has(n));
  const stateOf = (h: Happened): Followed => {
    const begins = h.kind === 'starts' || h.kind === 'returns';
    if (begins && h.standing.lastDay !== null && h.standing.lastDay < today) return 'over';
    return ruled.has(h.kind) ? 'open' : 'noRule';
  };
  const told = all.filter((h) => !worksHere(h)).map((h) => ({ ...h, state: stateOf(h) }));
  const tooMany = told.filter((h) => h.state === 'open' && weighs.has(h.kind)).length > mostAtOnce;
  const rows = told.map((h) => ({
    number: h.change.number,
    kind: h.kind,
    whose: h.whose,
    staff: h.change.record.staffNumber,
    name: `${h.standing.given} ${h.standing.family}`.trim(),
    from: h.change.from,
    standing: h.standing,
    changed: h.changed,
    state: tooMany && h.state === 'open' ? 'held' : h.state,
  }));
  const { rows: kept } = await tx.execute<{ id: string; state: string }>(sql`
    insert into staff_happening (number, kind, whose, staff_number, name, "from", standing, changed, at, state)
    select number, kind, whose, staff, name, "from", standing, changed, ${at.toISOString()}::timestamptz, state from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb)
      as r(number bigint, kind text, whose text, staff text, name text, "from" date, standing jsonb, changed jsonb, state text)
    on conflict do nothing returning id, state`);
  const open = kept.filter((k) => k.state === 'open');
  await addJobs(
    tx,
    'staffHappening',
    open.map(({ id }) => ({ payload: { id }, key: `staff:${id}` })),
  );
}
