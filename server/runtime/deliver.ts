import { eq, inArray, sql } from 'drizzle-orm';
import { keptDocument, runFormat } from '../../core/documents/index.ts';
import { advance, type Effect, type IgnoredReason, type RunEvent, type RunState } from '../../core/engine/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import { now } from '../clock.ts';
import type { Tx } from '../db/database.ts';
import { run, serviceCase } from '../db/schema/index.ts';
import { lookUp } from './approvers.ts';
import { definitionOf } from '../items/definitions.ts';
import { instantFor } from './hours.ts';
import { readRows, rowsWhere } from '../tables/read.ts';
import { bindFiles, filesOf } from '../files/whose.ts';
import { writeEffects } from './effects.ts';
import { addJobs } from './jobs.ts';
import { routeRun } from '../routing/route.ts';

export interface Delivered {
  state: RunState;
  /** Set when the event came too late or twice: recorded, and of no effect. */
  ignored?: IgnoredReason;
}

/**
 * The rows of runs, locked until the transaction ends. Whoever changes anything of a run locks it first, and whoever
 * locks several locks them in the order of their ids, so that two transactions never wait for each other. The keys of
 * rows never change: the lock leaves whoever only names a run (a message about it) to go on.
 */
export const lockRuns = (tx: Tx, runIds: string[]) =>
  tx
    .select({
      id: run.id,
      caseId: run.caseId,
      kind: serviceCase.kind,
      number: serviceCase.number,
      revisionId: run.revisionId,
      requesterId: serviceCase.requesterId,
      seq: run.seq,
      state: run.state,
    })
    .from(run)
    .innerJoin(serviceCase, eq(serviceCase.id, run.caseId))
    .where(inArray(run.id, [...new Set(runIds)]))
    .orderBy(run.id)
    .for('no key update', { of: run });
type LockedRun = Awaited<ReturnType<typeof lockRuns>>[number] & { isFirst?: boolean };

export async function lockRun(tx: Tx, runId: string): Promise<LockedRun> {
  const [row] = await lockRuns(tx, [runId]);
  if (!row) throw new Error(`There is no run ${runId}.`);
  return row;
}

/** Gives one event to a run, inside the caller's transaction. */
export const deliver = async (tx: Tx, runId: string, event: RunEvent, at = now()): Promise<Delivered> =>
  deliverTo(tx, await lockRun(tx, runId), event, at);

/** The same to a run that is locked already. */
export async function deliverTo(tx: Tx, run: LockedRun, event: RunEvent, at = now()): Promise<Delivered> {
  const [played] = await deliverAll(tx, [{ run, events: [event] }], at);
  const ignored = played!.events[0]!.ignored;
  return { state: played!.state, ...(ignored && { ignored }) };
}

/**
 * Gives events to runs that are locked: advances them, appends the events, writes what the effects call for with their
 * jobs, stores the snapshots. However many runs there are, the statements are the same few.
 */
export async function deliverAll(tx: Tx, given: { run: LockedRun; events: RunEvent[] }[], at = now()): Promise<Played[]> {
  const all: Played[] = [];
  for (const { run, events } of given) all.push(await play(tx, run, events, at));
  await appendEvents(tx, all, at);
  await bindFiles(
    tx,
    all.flatMap(({ run, events }) => events.flatMap((e) => (e.ignored ? [] : filesOf(e.event).map((id) => ({ id, caseId: run.caseId }))))),
  );
  const moved = all.filter((p) => p.seq > p.run.seq);
  if (moved.length === 0) return all;
  await writeEffects(
    tx,
    moved.map(({ run, seq, definition, state, effects }) => ({ run: { ...run, seq, definition, answers: state.answers }, effects })),
    at,
  );
  await storeSnapshots(tx, moved, at);
  return all;
}

interface Played {
  run: LockedRun;
  definition: ItemDefinition;
  state: RunState;
  seq: number;
  /** In their order; the first is the first that was given. */
  events: { seq: number; event: RunEvent; ignored?: IgnoredReason }[];
  effects: Effect[];
}

/**
 * Advances a run by events. Look-ups, rows and instants the plan asks for are answered within the same transaction, as events of their
 * own, so that a replay needs no database.
 */
async function play(tx: Tx, run: LockedRun, given: RunEvent[], at: Date): Promise<Played> {
  const definition = await definitionOf(tx, run.revisionId);
  const played: Played = { run, definition, state: run.state, seq: run.seq, events: [], effects: [] };
  for (const event of given) {
    const waiting = [event];
    for (let next = waiting.shift(); next; next = waiting.shift()) {
      const { state, effects } = advance(definition.plan, played.state, next, at.toISOString());
      const first = effects[0];
      if (first?.effect === 'ignored') {
        played.events.push({ seq: played.seq, event: next, ignored: first.reason });
        continue;
      }
      played.state = state;
      played.events.push({ seq: ++played.seq, event: next });
      // Instants first: what is looked up may end the step that waits for one.
      for (const effect of effects)
        if (effect.effect === 'reckon')
          waiting.push({ type: 'reckoned', key: effect.key, names: effect.names, at: await instantFor(tx, run, effect.wanted) });
      for (const effect of effects) {
        if (effect.effect === 'reckon') continue;
        if (effect.effect === 'find') {
          const { wanted } = effect;
          const found =
            wanted.from === 'routed'
              ? await routeRun(tx, { ...run, definition, answers: played.state.answers }, wanted)
              : await lookUp(tx, wanted, run.requesterId, effect.stated);
          waiting.push({ type: 'found', key: effect.key, ...found });
        }
        if (effect.effect === 'findRows') waiting.push({ type: 'rowsFound', key: effect.key, rows: await rowsWhere(tx, effect.table, effect.where) });
        else if (effect.effect === 'readRows') waiting.push({ type: 'rowsRead', key: effect.key, rows: await readRows(tx, effect.rows) });
        else played.effects.push(effect);
      }
    }
  }
  return played;
}

async function appendEvents(tx: Tx, all: Played[], at: Date): Promise<void> {
  const rows = all.flatMap(({ run, events }) => events.map((e) => ({ runId: run.id, ...e })));
  if (rows.length === 0) return;
  await tx.execute(sql`
    insert into run_event (run_id, seq, at, event, ignored)
    select (e ->> 'runId')::uuid, (e ->> 'seq')::int, ${at.toISOString()}::timestamptz, e -> 'event', e ->> 'ignored'
    from jsonb_array_elements(${JSON.stringify(rows)}::jsonb) with ordinality as given(e, nth) order by nth`);
}

async function storeSnapshots(tx: Tx, moved: Played[], at: Date): Promise<void> {
  const rows = moved.map(({ run, seq, state, effects }) => {
    const finished = effects.find((e) => e.effect === 'finished');
    return {
      id: run.id,
      caseId: run.caseId,
      kind: run.kind,
      was: run.seq,
      seq,
      state: keptDocument(runFormat, state),
      endedAt: finished && at,
      outcome: finished?.outcome,
      reason: finished?.reason,
    };
  });
  const given = sql`jsonb_to_recordset(${JSON.stringify(rows)}::jsonb)
      as c(id uuid, "caseId" uuid, was int, seq int, state jsonb, "endedAt" timestamptz, outcome text, reason text)`;
  const { rowCount } = await tx.execute(sql`
    update run r set state = c.state, seq = c.seq, ended_at = coalesce(c."endedAt", r.ended_at), outcome = coalesce(c.outcome, r.outcome)
    from ${given} where r.id = c.id and r.seq = c.was`);
  if (rowCount !== rows.length) throw new Error('A run moved while it was locked.');
  // A ticket has a life of its own: it goes where the run asked whether it may, or stays.
  await addJobs(
    tx,
    'ticketTime',
    rows.flatMap((r) => (r.outcome && r.kind === 'ticket' ? [{ payload: { caseId: r.caseId }, key: `asked:${r.id}` }] : [])),
  );
  // A request ends with its run.
  if (rows.some((r) => r.outcome))
    await tx.execute(sql`
      update service_case k set ended_at = c."endedAt", outcome = c.outcome, reason = c.reason
      from ${given} where k.id = c."caseId" and c.outcome is not null and k.kind = 'request'`);
}
