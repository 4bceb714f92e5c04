import { and, eq, sql } from 'drizzle-orm';
import { EquipmentKind, StockLevel, StockPlace } from '../../core/posts/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { equipmentKind, location, stockLevel, stockPlace, team } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { holdTo, notAllowed, notFound, refuse, type Result } from '../refusal.ts';
import { lockKind, settleKind } from './stock.ts';
import { mayArrangeStock } from './whose.ts';

const wrongAt = (field: string, sentence: string) => refuse('invalid', sentence, [{ field, sentence }]);

/** There is another kind of equipment from now on; plans state it by its name, so that stays. */
export async function addEquipmentKind(viewer: Viewer, input: { name: string; marked: string }): Promise<Result<{ id: string }>> {
  if (!mayArrangeStock(viewer)) return notAllowed('add kinds of equipment');
  const held = holdTo(EquipmentKind, input);
  if (!held.ok) return held;
  const { name, marked } = held.value;
  return db().transaction(async (tx): Promise<Result<{ id: string }>> => {
    const [row] = await tx
      .insert(equipmentKind)
      .values({ name, marked: marked === 'each', changedBy: viewer.id, changedAt: now() })
      .onConflictDoNothing()
      .returning({ id: equipmentKind.id });
    if (!row) return refuse('taken', `There is a kind “${name}” already.`, [{ field: 'name', sentence: `There is a kind “${name}” already.` }]);
    await record(tx, { actor: viewer.id, action: 'add-kind', object: 'equipment', objectId: row.id, detail: { name, marked } });
    return { ok: true, id: row.id };
  });
}

/** Equipment stands at a place from now on, kept by a team; or another team keeps what stands there. */
export async function keepStockAt(viewer: Viewer, input: { place: string; team: string; told?: string }): Promise<Result> {
  if (!mayArrangeStock(viewer)) return notAllowed('say where equipment stands');
  const held = holdTo(StockPlace, input);
  if (!held.ok) return held;
  const { place, team: its, told: isTold } = held.value;
  return db().transaction(async (tx): Promise<Result> => {
    const told = isTold === 'on';
    if (!isId(place) || (await tx.$count(location, eq(location.id, place))) === 0)
      return wrongAt('place', 'This place is not known. Choose one from the list.');
    if (!isId(its) || (await tx.$count(team, eq(team.id, its))) === 0) return wrongAt('team', 'This team is not known. Choose one from the list.');
    await tx
      .insert(stockPlace)
      .values({ locationId: place, teamId: its, told })
      .onConflictDoUpdate({ target: stockPlace.locationId, set: { teamId: its, told } });
    await record(tx, { actor: viewer.id, action: 'keep-at', object: 'equipment', objectId: place, detail: { team: its, told } });
    return { ok: true };
  });
}

/** Below so many free of a kind at a place more are to be ordered, up to so many; both empty: none are. */
export async function setStockLevel(viewer: Viewer, input: { kind: string; place: string; least: string; upTo: string }): Promise<Result> {
  if (!mayArrangeStock(viewer)) return notAllowed('say when equipment is ordered');
  const held = holdTo(StockLevel, input);
  if (!held.ok) return held;
  const level = held.value;
  if (!isId(input.kind) || !isId(input.place)) return notFound('This kind, or this place,');
  return db().transaction(async (tx): Promise<Result> => {
    const { rows } = await tx.execute<{ there: boolean }>(
      sql`select exists (select from equipment_kind where id = ${input.kind}::uuid) and exists (select from stock_place where location_id = ${input.place}::uuid) as there`,
    );
    if (!rows[0]!.there) return notFound('This kind, or this place,');
    const kind = await lockKind(tx, input.kind);
    const at = { kindId: input.kind, locationId: input.place };
    if (level)
      await tx
        .insert(stockLevel)
        .values({ ...at, ...level })
        .onConflictDoUpdate({ target: [stockLevel.kindId, stockLevel.locationId], set: level });
    else await tx.delete(stockLevel).where(and(eq(stockLevel.kindId, input.kind), eq(stockLevel.locationId, input.place)));
    await record(tx, {
      actor: viewer.id,
      action: 'set-level',
      object: 'equipment',
      objectId: input.kind,
      detail: { place: input.place, ...(level ?? { none: true }) },
    });
    await settleKind(tx, kind);
    return { ok: true };
  });
}
