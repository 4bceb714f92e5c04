import { sql } from 'drizzle-orm';
import type { Step } from '../core/plans/index.ts';
import { machinePark } from '../demo/machine-park.ts';
import { setSystemOwners } from '../server/consents/commands.ts';
import { db, type Tx } from '../server/db/database.ts';
import { step, tell } from '../core/testing/samples.ts';
import { giveBack } from '../server/holdings/commands.ts';
import { submitRequest } from '../server/requests/submit.ts';
import { keepWebSystem } from '../server/systems/commands.ts';
import type { makeOrganisation } from '../server/testing/organisation.ts';
import { viewerFor } from '../server/testing/parties.ts';
import { atPark, machinesThere, parkAddress } from './park.ts';
import { lookAtDifferences } from './soak-differences.ts';
import { lookAtNotes } from './soak-notes.ts';
import { publishPlan } from './generated.ts';

/** Machines are made and taken down by a system that answers later: well, never, half way, twice, and while workers are killed. */

/** Registers the park, asked about and calling back, and publishes an item that makes a machine; gives the item. */
export async function publishMachines(org: Awaited<ReturnType<typeof makeOrganisation>>): Promise<string> {
  const whole = machinePark(parkAddress());
  const actions = whole.actions.map((a) => ({
    ...a,
    ...(a.later && { later: { ...a.later, within: 'PT1M', asked: { ...a.later.asked!, firstPauseSeconds: 1, mostPauseSeconds: 3 } } }),
  }));
  const kept = await keepWebSystem(viewerFor(org.people['dan']!, 'administrator'), {
    definition: { ...whole, actions },
    secret: process.env['MACHINES_TOKEN']!,
    answerKey: process.env['MACHINES_ANSWER_KEY'],
  });
  if (!kept.ok) throw new Error(kept.sentence);
  await setSystemOwners('host', { system: kept.id, people: [org.people['boss']!] });
  const none = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };
  const make = (id: string): Step =>
    ({
      id,
      kind: 'provision',
      name: `Make ${id}`,
      expected: none,
      action: `web.${kept.id}.make`,
      inputs: { size: { literal: 'Small' }, region: { literal: 'hall' }, days: { literal: 14 }, owner: { ref: 'request.requester' } },
      retries: { times: 2, firstPauseSeconds: 1, factor: 1 },
      note: { to: { ref: 'request.requester' }, openFor: 'P3D' },
    }) as Step;
  const look = {
    id: 'look',
    kind: 'task',
    name: 'Look at them',
    expected: none,
    assignee: { team: 'desk' },
    instructions: [{ text: [[{ text: 'They run.' }]] }],
    checklist: [],
    fields: [],
  } as Step;
  const told = {
    id: 'told',
    kind: 'tell',
    name: 'Tell',
    expected: none,
    to: { ref: 'request.requester' },
    subject: [[{ text: 'Your machines' }]],
    body: [{ text: [[{ text: 'They run.' }]] }],
  } as Step;
  const both = ['one', 'two'].map((id) => ({ id, name: id, block: [make(id)] }));
  const together = { id: 'both', kind: 'together', name: 'Both', expected: none, join: 'all', branches: both } as Step;
  longer = await publishLonger(org, kept.id);
  otherSize = await publishOtherSize(org, kept.id);
  return publishPlan(org, 'Two machines', { undoWhen: ['withdrawn', 'failed'], steps: [together, look, told] });
}

/** The item by which a machine is lent for longer. */
let longer = '';
async function publishLonger(org: Awaited<ReturnType<typeof makeOrganisation>>, park: string): Promise<string> {
  const extend = step('provision', 'extend', {
    action: `web.${park}.extend`,
    inputs: { holding: { ref: 'form.machine' }, days: { ref: 'form.days' } },
    retries: { times: 2, firstPauseSeconds: 1, factor: 1 },
  });
  return publishPlan(
    org,
    'A machine for longer',
    { steps: [extend, tell('told', 'Tell')] },
    {
      fields: [
        { id: 'machine', kind: 'holding', label: 'Machine', required: true, gave: `web.${park}.make`, lent: true },
        { id: 'size', kind: 'text', label: 'Size', required: false, held: 'locked', prefill: { holding: 'machine', slot: 'size' } },
        { id: 'days', kind: 'number', label: 'Days', required: true, min: 1, max: 180 },
      ],
    },
  );
}

/** The item by which a machine gets another size. */
let otherSize = '';
function publishOtherSize(org: Awaited<ReturnType<typeof makeOrganisation>>, park: string): Promise<string> {
  const resize = step('provision', 'resize', {
    action: `web.${park}.resize`,
    inputs: { holding: { ref: 'form.machine' }, size: { ref: 'form.to' } },
    retries: { times: 2, firstPauseSeconds: 1, factor: 1 },
  });
  return publishPlan(
    org,
    'Another size',
    { steps: [resize, tell('told', 'Tell')] },
    {
      fields: [
        { id: 'machine', kind: 'holding', label: 'Machine', required: true, gave: `web.${park}.make`, lent: true },
        { id: 'to', kind: 'text', label: 'Size', required: true },
      ],
    },
  );
}

let goneBefore = 0;
/** Somebody asks for a machine of theirs for longer, or of another size; gives the number. What is not theirs any more is refused, with that sentence. */
export async function askForLonger(chance: (n: number) => number, idempotencyKey: string): Promise<number | undefined> {
  const { rows } = await db().execute<{ id: string; who: string }>(
    sql`select id, person_id as who from holding where kind = 'machine' and until is not null and ended_at is null and ending_at is null order by since desc, id limit 10`,
  );
  const some = rows[chance(Math.max(1, rows.length))];
  if (!some) return undefined;
  const [itemId, more] = chance(2) === 0 ? [longer, { days: 15 + chance(100) }] : [otherSize, { to: ['Small', 'Medium', 'Large'][chance(3)]! }];
  const input = { itemId, revision: 1, idempotencyKey, answers: { machine: { holding: some.id }, ...more } };
  const made = await submitRequest(viewerFor(some.who), input);
  if (made.ok) return made.number;
  if (made.problems?.some((p) => p.field === 'machine') !== true) throw new Error(`${made.code}: ${made.sentence}`);
  goneBefore++;
  return undefined;
}

/** Each lease that the park has is what is held, or a difference says so; what it was asked to lend for longer stands with the holding. */
async function lookAtLeases(tx: Tx): Promise<string[]> {
  const wrong: string[] = [];
  const { rows: held } = await tx.execute<{ id: string; what: string; until: string | null; shown: boolean; ending: boolean }>(sql`
    select h.id, h.what #>> '{}' as what, h.until::text as until, h.ending_at is not null as ending,
      exists (select from difference d where d.holding_id = h.id and d."is" = 'until' and d.state in ('open', 'left')) as shown
    from holding h where h.kind = 'machine' and h.ended_at is null`);
  const there = new Map((await machinesThere()).map((m) => [m.address, m.until]));
  for (const h of held) {
    const until = there.get(h.what);
    if (until !== undefined && !h.ending && (until !== h.until) !== h.shown)
      wrong.push(`Machine ${h.what} is lent until ${until}, held until ${h.until}${h.shown ? ', and that is shown as a difference' : ''}.`);
  }
  // The answer of each call that lends for longer is kept with the holding, unless that was over by then.
  const { rows: calls } = await tx.execute<{ key: string; kept: boolean; over: boolean }>(sql`
    select c.idempotency_key as key, exists (select from holding_change x where x.run_id = c.run_id and x.action = c.action) as kept,
      exists (select from holding h where h.id::text = c.inputs -> 'holding' ->> 'holding' and h.ended_at <= c.closed_at) as over
    from call c where c.action ~ '^web\\..*\\.(extend|resize)$' and c.outputs is not null`);
  for (const c of calls) if (!c.kept && !c.over) wrong.push(`What the park did to a machine (${c.key}) does not stand with its holding.`);
  const resized = (await atPark<{ change: string }[]>('/_journal')).filter((j) => j.change === 'resized').length;
  console.log(
    `  ${calls.filter((c) => c.kept).length} machines lent for longer or asked to get another size, ${resized} got it; ${goneBefore} times it was gone before it was asked for`,
  );
  return wrong;
}

let given = 0;
/** Somebody gives something back, twice at once: it goes back once. */
export async function giveSomethingBack(chance: (n: number) => number): Promise<void> {
  const { rows } = await db().execute<{ id: string; who: string; kind: string }>(
    sql`select id, person_id as who, kind from holding where ended_at is null and ending_at is null order by id limit 20`,
  );
  const some = rows[chance(Math.max(1, rows.length))];
  if (!some) return;
  // Nobody closes their own account but who may close any.
  const back = () => giveBack(viewerFor(some.who, ...(some.kind === 'account' ? (['administrator'] as const) : [])), { id: some.id, why: '' });
  const both = await Promise.all([back(), back()]);
  if (both.filter((r) => r.ok).length > 1) throw new Error('It was given back twice.');
  for (const r of both) if (!r.ok && r.code !== 'ended') throw new Error(`${r.code}: ${r.sentence}`);
  if (both.some((r) => r.ok)) given++;
}

/** From now on machines are made at once, and those under way are ready: nothing is waited for longer than need be. */
export async function hurryMachines(): Promise<void> {
  await atPark('/_build', { ms: 0, ends: 'well' });
  await atPark('/_hurry/all', {});
}

/** Holds what the park has and did against what is on record here; gives what is wrong, in sentences. */
export async function lookAtMachines(tx: Tx): Promise<string[]> {
  const wrong: string[] = [];
  const journal = await atPark<{ change: string; id: string; key?: string }[]>('/_journal');
  const machines = await machinesThere();
  const made = journal.filter((j) => j.change === 'made');
  const keys = journal.flatMap((j) => (j.key ? [j.key] : []));
  if (new Set(keys).size !== keys.length) wrong.push(`The park did ${keys.length - new Set(keys).size} things twice.`);
  const { rows: calls } = await tx.execute<{ key: string; status: string; closed: boolean }>(
    sql`select idempotency_key as key, status, closed_at is not null as closed from call`,
  );
  const known = new Map(calls.map((c) => [`"${c.key}"`, c]));
  const unknown = keys.filter((k) => !known.has(k));
  if (unknown.length > 0) wrong.push(`The park did ${unknown.length} things by calls that are not on record.`);
  const { rows: held } = await tx.execute<{ what: string; ended: boolean; ending: boolean }>(
    sql`select what #>> '{}' as what, ended_at is not null as ended, ending_at is not null as ending from holding where kind = 'machine'`,
  );
  const open = new Set(held.filter((h) => !h.ended).map((h) => h.what));
  // What the park refused to take down was a task: whoever did it here said so, and pulled no plug.
  const { rows: byHand } = await tx.execute<{ what: string }>(sql`
    select h.what #>> '{}' as what from holding h where h.kind = 'machine' and exists (select from run_step s where s.run_id = h.run_id
      and (s.key = 'undo:' || h.key or starts_with(s.key, 'undo:' || h.key || '~')) and s."end" = 'takenOver')`);
  const said = new Set(byHand.map((h) => h.what));
  const keyOf = new Map(made.map((j) => [j.id, j.key]));
  for (const m of machines.filter((x) => x.state === 'running')) {
    const call = known.get(keyOf.get(m.id) ?? '');
    // What is still waited for is known by its call; what nobody asked for is shown as a difference, as is what came after it was given up.
    if (call && !open.has(m.address ?? '') && !said.has(m.address ?? '') && call.closed && call.status !== 'failed')
      wrong.push(`Machine ${m.id} runs, and no holding knows of it (its call: ${call.status}).`);
  }
  // What was said to be taken down, and was not, may have been taken over since: it was held before, and is held again.
  if (open.size !== held.filter((h) => !h.ended).length) wrong.push('A machine is held twice.');
  const { rows: answers } = await tx.execute<{ how: string; n: number }>(
    sql`select how || case when ok = 'yes' then '' else ' in vain' end as how, count(*)::int as n from call_try group by 1 order by 1`,
  );
  const statuses = new Map<string, number>();
  for (const [key, c] of known) if (made.some((j) => j.key === key)) statuses.set(c.status, (statuses.get(c.status) ?? 0) + 1);
  console.log(
    `  ${made.length} machines made (${[...statuses].map(([s, n]) => `${n} ${s}`).join(', ')}), ${journal.filter((j) => j.change === 'taken down').length} taken down, ${machines.filter((m) => m.state === 'running').length} run, ${said.size} said to be taken down by hand; ${given} things given back`,
  );
  console.log(`  exchanges with systems: ${answers.map((a) => `${a.n} ${a.how}`).join(', ')}`);
  wrong.push(...(await lookAtLeases(tx)), ...(await lookAtNotes(tx)), ...(await lookAtDifferences(tx)));
  return wrong;
}
