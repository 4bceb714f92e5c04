import { sql } from 'drizzle-orm';
import { tell as tellStep } from '../core/testing/samples.ts';
import { db, type Tx } from '../server/db/database.ts';
import { createItem, publish, saveDraft } from '../server/items/commands.ts';
import { followHappenings, keepStaffRule, readFeedNow } from '../server/staff/commands.ts';
import { viewerFor } from '../server/testing/parties.ts';
import { good, type Organisation } from './generated.ts';

/** The staff office tells who starts and moves, some of it nonsense, while it is moody itself and workers are killed. */

/** How many people it knows of; all are called the same. */
const many = 30;
const departments = ['Tides', 'Charts', 'Vessels'];
interface Line {
  number: number;
  staffNumber: string;
  department: string;
  sane: boolean;
}
/** What was told, as the office has it. */
const told: Line[] = [];
let rounds = 0;

/** Publishes what follows, and the rules. */
export async function keepStaff(org: Organisation): Promise<void> {
  const designer = viewerFor(org.people['dan']!, 'designer');
  const fields = [{ id: 'who', kind: 'text' as const, label: 'Staff number', required: true }];
  for (const [kind, name] of [
    ['starts', 'Somebody of the feed starts'],
    ['moves', 'Somebody of the feed moves'],
  ] as const) {
    const made = good(await createItem(designer, { name }));
    const draft = { name, summary: '', category: 'Generated', form: { fields }, plan: { steps: [tellStep('end', 'Done')] } };
    const saved = good(await saveDraft(designer, { id: made.id, version: 1, draft }));
    good(await publish(designer, { id: made.id, version: saved.version, note: '' }));
    const answers = [{ field: 'who', from: 'staffNumber' as const, words: '' }];
    good(await keepStaffRule(designer, { kind, version: 0, rule: { item: made.id, asks: org.people['runa']!, answers } }));
  }
}

/** Tells a few changes, and sometimes has them read at once. */
export async function tellStaff(chance: (n: number) => number, admin: ReturnType<typeof viewerFor>): Promise<void> {
  const lines = Array.from({ length: 1 + chance(3) }, () => ({
    staffNumber: `F-${chance(many)}`,
    department: departments[chance(departments.length)]!,
    sane: chance(6) > 0,
  }));
  const body = lines.map((l) => ({
    from: '2026-11-26',
    record: {
      employment: `${l.staffNumber}-1`,
      staffNumber: l.staffNumber,
      given: 'Sol',
      family: 'Marsten',
      department: l.department,
      firstDay: l.sane ? '2026-03-02' : '2026-02-30',
    },
  }));
  const answer = await fetch(new URL('/_change', process.env['STAFF_URL']), {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  const kept = (await answer.json()) as { number: number }[];
  told.push(...lines.map((l, i) => ({ ...l, number: kept[i]!.number })));
  rounds++;
  if (chance(2) === 0) await readFeedNow(admin);
}

/** Has what is told read to its end, what waited for a word let go, and waits until all of it was asked for. */
export async function readStaffOnce(admin: ReturnType<typeof viewerFor>): Promise<void> {
  const last = Math.max(0, ...told.map((l) => l.number));
  const began = Date.now();
  for (let n = 0; ; n++) {
    const { rows } = await db().execute<{ after: number; open: number; held: number }>(sql`
      select coalesce((select after from staff_feed), 0)::int as after, (select count(*)::int from staff_happening where state = 'open') as open,
        (select count(*)::int from staff_happening where state = 'held') as held`);
    const { after, open, held } = rows[0]!;
    if (after === last && open === 0 && held === 0) return;
    if (Date.now() - began > 60_000) throw new Error(`The staff feed is read to ${after} of ${last}; ${open} happenings are open, ${held} held.`);
    if (n % 20 === 0) await readFeedNow(admin);
    if (held > 0) await followHappenings(admin, { ids: 'held' });
    await new Promise((done) => setTimeout(done, 200));
  }
}

/** How many requests were begun by what the feed told. */
export async function begunByStaff(tx: Tx): Promise<number> {
  const { rows } = await tx.execute<{ n: number }>(sql`select count(*)::int as n from service_case where idempotency_key like 'staff %'`);
  return rows[0]!.n;
}

/** Holds what was told against what was asked for; gives what is wrong, in sentences. */
export async function lookAtStaff(tx: Tx): Promise<string[]> {
  const wrong: string[] = [];
  // What must have followed, reckoned from what was told alone.
  const expected: string[] = [];
  const stands = new Map<string, string>();
  for (const l of told.toSorted((a, b) => a.number - b.number)) {
    if (!l.sane) continue;
    const before = stands.get(l.staffNumber);
    if (before === undefined) expected.push(`${l.number} starts ${l.staffNumber}`);
    else if (before !== l.department) expected.push(`${l.number} moves ${l.staffNumber}`);
    stands.set(l.staffNumber, l.department);
  }
  const { rows } = await tx.execute<{ what: string; state: string; answers: number; requests: number }>(sql`
    select h.number || ' ' || h.kind || ' ' || h.staff_number as what, h.state,
      (select count(*)::int from service_case c where c.idempotency_key = 'staff ' || h.id) as requests,
      (select count(*)::int from service_case c where c.idempotency_key = 'staff ' || h.id and c.number = h.request and c.answers ->> 'who' = h.staff_number) as answers
    from staff_happening h order by h.number, h.kind`);
  const had = rows.map((r) => r.what);
  for (const e of expected) if (!had.includes(e)) wrong.push(`The staff feed told “${e}”, and nothing was made of it.`);
  for (const h of had) if (!expected.includes(h)) wrong.push(`“${h}” is said to have happened, which the staff feed did not tell.`);
  for (const r of rows)
    if (r.state !== 'asked' || r.requests !== 1 || r.answers !== 1)
      wrong.push(`“${r.what}” is ${r.state}, with ${r.requests} requests, ${r.answers} of them its own.`);
  const { rows: aside } = await tx.execute<{ n: number }>(sql`select count(distinct key)::int as n from set_aside where source = 'staff'`);
  const odd = told.filter((l) => !l.sane).length;
  if (aside[0]!.n !== odd) wrong.push(`${odd} lines of the staff feed make no sense and ${aside[0]!.n} are set aside.`);
  console.log(`  ${told.length} lines of the staff feed in ${rounds} rounds, ${odd} of them nonsense; ${rows.length} things happened`);
  return wrong;
}
