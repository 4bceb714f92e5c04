import { sql } from 'drizzle-orm';
import type { Viewer } from '../server/auth/viewer.ts';
import { setSystemOwners } from '../server/consents/commands.ts';
import { step, tell } from '../core/testing/samples.ts';
import type { Step } from '../core/plans/index.ts';
import { db } from '../server/db/database.ts';
import { addEquipmentKind, keepStockAt, setStockLevel } from '../server/equipment/arrange.ts';
import { handPiece, notReceived, pickPiece, receive, takeIn } from '../server/equipment/commands.ts';
import { addArrived, changePiece, countStock, orderStock } from '../server/equipment/pieces.ts';
import { counterOf } from '../server/equipment/queries.ts';
import { addLocation } from '../server/people/commands.ts';
import type { Result } from '../server/refusal.ts';
import { viewerFor } from '../server/testing/parties.ts';
import { good, publishPlan, type Organisation } from './generated.ts';

/** Equipment is asked for by many, handed over by several hands at once, counted wrongly, lost, and comes back. */
let kinds: { tablet: string; cable: string };
let places: string[];

/** The stock of two places, and an item that lends two things side by side; gives the item. */
export async function publishEquipment(org: Organisation): Promise<string> {
  const dan = viewerFor(org.people['dan']!, 'designer');
  kinds = {
    tablet: good(await addEquipmentKind(dan, { name: 'Tablet', marked: 'each' })).id,
    cable: good(await addEquipmentKind(dan, { name: 'Cable', marked: 'none' })).id,
  };
  places = [];
  for (const name of ['Stores', 'Shed']) {
    const place = good(await addLocation('host', { name, kind: 'building' })).id;
    good(await keepStockAt(dan, { place, team: org.teamId, told: 'on' }));
    good(await setStockLevel(dan, { kind: kinds.tablet, place, least: '2', upTo: '4' }));
    places.push(place);
  }
  await setSystemOwners('host', { system: 'equipment', people: [org.people['boss']!] });
  const lend = (id: string, kind: string): Step =>
    step('provision', id, {
      action: 'equipment.lend',
      inputs: { kind: { literal: kind }, person: { ref: 'request.requester' } },
      retries: { times: 2, firstPauseSeconds: 1, factor: 1 },
    });
  const branches = ['Tablet', 'Cable'].map((kind) => ({ id: kind.toLowerCase(), name: kind, block: [lend(`l${kind.toLowerCase()}`, kind)] }));
  const both = step('together', 'both', { join: 'all', branches });
  return publishPlan(org, 'A tablet and a cable', { undoWhen: ['withdrawn', 'failed'], steps: [both, tell('told', 'Tell')] });
}

let [arrived, handed, takenIn, quicker] = [0, 0, 0, 0];

/** What somebody else did a moment before is told. */
function told(...results: Result[]): number {
  for (const r of results)
    if (!r.ok) {
      if (!['ended', 'changed-meanwhile', 'invalid', 'not-found'].includes(r.code)) throw new Error(`${r.code}: ${r.sentence}`);
      quicker++;
    }
  return results.filter((r) => r.ok).length;
}

const arrive = async (admin: Viewer, chance: (n: number) => number): Promise<void> => {
  const place = places[chance(places.length)]!;
  const marks = `T-${++arrived}\nT-${++arrived}`;
  // The same twice at once: the second time they are known already.
  const tablets = () => addArrived(admin, { kind: kinds.tablet, place, marks, number: '' });
  told(...(await Promise.all([tablets(), tablets()])));
  told(await addArrived(admin, { kind: kinds.cable, place, marks: '', number: '2' }));
};

/** Whoever keeps the stock does something at the counter, often two of them the same at once; whoever got something says so, or not. */
export async function keepCounter(chance: (n: number) => number, admin: Viewer): Promise<void> {
  const counter = await counterOf(admin);
  if (!counter) throw new Error('Nobody keeps the stock.');
  const { toHandOut, back, waiting, orders } = counter;
  const roll = chance(10);
  const line = toHandOut[chance(Math.max(1, toHandOut.length))];
  if (waiting.length > 3 || roll === 0) await arrive(admin, chance);
  if (line && roll < 6) {
    const act = () => (chance(4) === 0 ? pickPiece(admin, { issue: line.id }) : handPiece(admin, { issue: line.id, mark: line.mark ?? '' }));
    handed += told(...(await Promise.all([act(), act()])));
  }
  const due = back[chance(Math.max(1, back.length))];
  if (due && roll > 3) {
    const how = ['fine', 'fine', 'repair', 'lost'][chance(4)]!;
    const act = () => takeIn(admin, { issue: due.id, place: places[chance(places.length)]!, how, note: '' });
    const done = told(...(await Promise.all([act(), act()])));
    if (done > 1) throw new Error('Something was taken in twice.');
    takenIn += done;
  }
  if (roll === 6)
    told(
      ...(await Promise.all(orders.slice(0, 1).map((o) => orderStock(admin, { order: o.id, drop: chance(2) === 0, reference: 'x', expected: '' })))),
    );
  if (roll === 7) await sayReceived(chance);
  if (roll === 8) await countWrongly(chance, admin);
  if (roll === 9) await mend(chance, admin);
}

async function sayReceived(chance: (n: number) => number): Promise<void> {
  const { rows } = await db().execute<{ id: string; who: string }>(
    sql`select id, person_id as who from equipment_issue where state = 'out' and received_at is null order by out_at desc limit 5`,
  );
  const some = rows[chance(Math.max(1, rows.length))];
  if (!some) return;
  const who = viewerFor(some.who);
  told(await (chance(3) === 0 ? notReceived(who, { issue: some.id, why: 'It is not here' }) : receive(who, { issue: some.id })));
}

/** A count leaves one out, or finds one that is handed out. */
async function countWrongly(chance: (n: number) => number, admin: Viewer): Promise<void> {
  if (chance(4) !== 0) return;
  const place = places[chance(places.length)]!;
  const { rows } = await db().execute<{ mark: string; state: string }>(
    sql`select mark, state from piece where kind_id = ${kinds.tablet} and location_id = ${place} and state in ('free', 'setAside', 'out') order by since desc limit 200`,
  );
  const here = rows.filter((r) => r.state !== 'out').map((r) => r.mark);
  const out = rows.find((r) => r.state === 'out')?.mark;
  const marks = [...here.slice(chance(2)), ...(out !== undefined && chance(3) === 0 ? [out] : [])].join('\n');
  told(await countStock(admin, { kind: kinds.tablet, place, marks, number: '', book: true }));
}

async function mend(chance: (n: number) => number, admin: Viewer): Promise<void> {
  const { rows } = await db().execute<{ id: string }>(sql`select id from piece where state in ('repair', 'missing') order by since limit 5`);
  const some = rows[chance(Math.max(1, rows.length))];
  if (some) told(await changePiece(admin, { piece: some.id, state: chance(3) === 0 ? 'retired' : 'free', note: '' }));
}

/** Whatever waits at the counter is done, so that every call is answered. */
export async function clearCounter(admin: Viewer): Promise<void> {
  const counter = await counterOf(admin);
  for (const line of counter?.toHandOut ?? []) handed += told(await handPiece(admin, { issue: line.id, mark: line.mark ?? '' }));
  for (const due of counter?.back ?? []) takenIn += told(await takeIn(admin, { issue: due.id, place: places[0]!, how: 'fine', note: '' }));
  if ((counter?.waiting.length ?? 0) > 0) await arrive(admin, () => 0);
}

/** Holds the books of the stock against each other; gives what is wrong. What is handed out is held against what people hold among the differences. */
export async function lookAtStock(): Promise<string[]> {
  const wrong: string[] = [];
  const { rows: states } = await db().execute<{ state: string; issue: string | null; n: number }>(sql`
    select p.state, i.state as issue, count(*)::int as n from piece p left join equipment_issue i on i.piece_id = p.id and i.state in ('setAside', 'out', 'dueBack') group by 1, 2`);
  const fits: Record<string, (string | null)[]> = { setAside: ['setAside'], out: ['out', 'dueBack'] };
  for (const s of states)
    if (!(fits[s.state] ?? [null]).includes(s.issue)) wrong.push(`${s.n} pieces are “${s.state}”, and what is wanted of them is “${s.issue}”.`);
  const { rows: lacking } = await db().execute<{ n: number }>(
    sql`select count(*)::int as n from equipment_issue where state in ('setAside', 'out', 'dueBack', 'back', 'lost') and piece_id is null`,
  );
  if (lacking[0]!.n > 0) wrong.push(`${lacking[0]!.n} are handed out or set aside without a piece.`);
  const { rows: idle } = await db().execute<{ n: number }>(sql`
    select count(*)::int as n from equipment_issue i where i.state = 'waiting' and exists (select from piece p where p.kind_id = i.kind_id and p.state = 'free')`);
  if (idle[0]!.n > 0) wrong.push(`${idle[0]!.n} wait, and a piece of the kind is free.`);
  const { rows: low } = await db().execute<{ n: number }>(sql`
    select count(*)::int as n from stock_level l where (select count(*) from piece p where p.kind_id = l.kind_id and p.location_id = l.location_id and p.state = 'free') >= l.least
      and exists (select from stock_order o where o.kind_id = l.kind_id and o.location_id = l.location_id and o.state = 'toOrder')`);
  if (low[0]!.n > 0) wrong.push(`${low[0]!.n} are to be ordered, and enough are free.`);
  const { rows: twice } = await db().execute<{ n: number }>(
    sql`select count(*)::int as n from (select from equipment_issue where call_id is not null group by call_id having count(*) > 1) t`,
  );
  if (twice[0]!.n > 0) wrong.push(`${twice[0]!.n} calls want more than one piece.`);
  const { rows: sum } = await db().execute<{ words: string }>(
    sql`select string_agg(state || ' ' || n, ', ' order by state) as words from (select state, count(*) as n from equipment_issue group by state) s`,
  );
  console.log(
    `  ${arrived} tablets came, ${handed} acts of picking and handing over, ${takenIn} taken in, ${quicker} times somebody else was quicker; at the end ${sum[0]!.words ?? 'nothing was wanted'}`,
  );
  return wrong;
}
