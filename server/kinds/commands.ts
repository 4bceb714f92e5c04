import { and, eq, ne, sql } from 'drizzle-orm';
import { levelWords, type PriorityGrid } from '../../core/targets/index.ts';
import { withGone } from '../../core/statuses/index.ts';
import { checkGates, checkKind, gatedMoves, shippedKinds, TicketKind } from '../../core/tickets/index.ts';
import { keptDocument, kindFormat } from '../../core/documents/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { db, type Tx } from '../db/database.ts';
import { ticketKind } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { holdTo, notAllowed, notFound, refuse, type Refusal, type Result } from '../refusal.ts';
import { gatesCatalogue } from './gates.ts';
import { addJobs } from '../runtime/jobs.ts';

/** Begins a kind of ticket, like the shipped one of that name (`like`), else like an incident; nobody reports it until its designer says so. */
export async function createKind(viewer: Viewer, input: { name: string; like?: string }): Promise<Result<{ id: string }>> {
  if (!has(viewer, 'designer')) return notAllowed('design ticket kinds');
  const model = shippedKinds.find((k) => k.name === (input.like ?? input.name)) ?? shippedKinds[0]!;
  const held = holdTo(TicketKind, { ...model, name: input.name, offered: false });
  if (!held.ok) return held;
  const definition = held.value;
  return db().transaction(async (tx): Promise<Result<{ id: string }>> => {
    const [made] = await tx
      .insert(ticketKind)
      .values({ name: definition.name, definition, changedBy: viewer.id })
      .onConflictDoNothing()
      .returning({ id: ticketKind.id });
    if (!made) return taken(definition.name);
    await record(tx, { actor: viewer.id, action: 'create', object: 'kind', objectId: made.id, detail: { name: definition.name } });
    return { ok: true, id: made.id };
  });
}

/**
 * Changes a kind of ticket. What stops a map from being kept is refused with what is wrong. Open tickets in a status that is taken away go
 * where `goes` says, by the status they are in; a change that says nothing of such is refused with how many there are. What is due is
 * reckoned anew afterwards, and the history of each ticket says why.
 */
export async function changeKind(
  viewer: Viewer,
  input: { id: string; version: number; definition: unknown; goes?: Record<string, string> },
): Promise<Result<{ version: number }>> {
  if (!has(viewer, 'designer')) return notAllowed('design ticket kinds');
  if (!isId(input.id)) return notFound('This kind');
  const held = holdTo(TicketKind, input.definition);
  if (!held.ok) return held;
  const definition = held.value;
  const [stops] = checkKind(definition).filter((f) => f.stops);
  if (stops) return refuse('has-findings', stops.sentence);
  const goes = new Map(Object.entries(input.goes ?? {}));
  return db().transaction(async (tx): Promise<Result<{ version: number }>> => {
    const gates = gatedMoves(definition).length > 0 ? checkGates(definition, await gatesCatalogue(tx, definition)) : [];
    const ungated = gates.find((f) => f.stops);
    if (ungated) return refuse('has-findings', ungated.sentence);
    const [now] = await tx
      .select({ version: ticketKind.version, definition: ticketKind.definition })
      .from(ticketKind)
      .where(eq(ticketKind.id, input.id))
      .for('no key update');
    if (!now) return notFound('This kind');
    if (now.version !== input.version)
      return refuse(
        'changed-meanwhile',
        'Somebody else has changed this kind meanwhile. Nothing of theirs was overwritten; what you changed is still here.',
      );
    const [same] = await tx
      .select({ id: ticketKind.id })
      .from(ticketKind)
      .where(and(eq(sql`lower(${ticketKind.name})`, definition.name.toLowerCase()), ne(ticketKind.id, input.id)));
    if (same) return taken(definition.name);
    const left = new Set(definition.map.statuses.map((s) => s.id));
    const { rows } = await tx.execute<{ status: string; n: number }>(
      sql`select status, count(*)::int as n from ticket where kind_id = ${input.id} and ended_at is null group by status`,
    );
    const lost = rows.filter((r) => !left.has(r.status) && !left.has(goes.get(r.status) ?? ''));
    if (lost.length > 0) {
      const names = lost.map((l) => `“${now.definition.map.statuses.find((s) => s.id === l.status)?.name ?? l.status}” (${l.n} open)`);
      return refuse(
        'invalid',
        `Say where the tickets go that are in ${names.join(' and in ')}.`,
        lost.map((l) => ({
          field: `goes.${l.status}`,
          sentence: `${l.n === 1 ? '1 open ticket is' : `${l.n} open tickets are`} in it. Say where they go.`,
        })),
      );
    }
    const used = await levelsUsed(tx, input.id, definition.priority);
    if (used) return used;
    const version = now.version + 1;
    const kept = { ...definition, map: withGone(now.definition.map, definition.map) };
    await tx
      .update(ticketKind)
      .set({ name: definition.name, definition: kept, version, changedBy: viewer.id, changedAt: new Date() })
      .where(eq(ticketKind.id, input.id));
    await record(tx, {
      actor: viewer.id,
      action: 'change',
      object: 'kind',
      objectId: input.id,
      detail: { version, definition: keptDocument(kindFormat, kept), goes: Object.fromEntries(goes) },
    });
    await addJobs(tx, 'recount', [
      { payload: { why: 'kind', kind: input.id, goes: Object.fromEntries(goes) }, key: `recount:${input.id}:${version}` },
    ]);
    return { ok: true, version };
  });
}

/** An impact, urgency or priority that open tickets have and the grid lacks. */
async function levelsUsed(tx: Tx, id: string, grid: PriorityGrid): Promise<Refusal | undefined> {
  const left = [...grid.impacts, ...grid.urgencies, ...grid.priorities].map((l) => l.id);
  const { rows } = await tx.execute<{ level: string; n: number }>(sql`
    select level, count(*)::int as n from ticket t, unnest(array[t.state ->> 'impact', t.state ->> 'urgency', t.priority]) level
    where t.kind_id = ${id} and t.ended_at is null and level <> all(${sql.param(left)}::text[]) group by level order by level limit 1`);
  const [lost] = rows;
  if (!lost) return undefined;
  const [before] = await tx.select({ definition: ticketKind.definition }).from(ticketKind).where(eq(ticketKind.id, id));
  const old = before!.definition.priority;
  const words = levelWords([...old.impacts, ...old.urgencies, ...old.priorities], lost.level);
  return refuse(
    'invalid',
    `${lost.n === 1 ? '1 open ticket is' : `${lost.n} open tickets are`} judged “${words}”. Keep it, or judge them anew first.`,
  );
}

const taken = (name: string) =>
  refuse('taken', `There is a kind called “${name}” already.`, [
    { field: 'name', sentence: `There is a kind called “${name}” already. Choose another name.` },
  ]);
