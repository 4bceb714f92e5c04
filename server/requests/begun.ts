import { and, eq, inArray } from 'drizzle-orm';
import { alias } from 'drizzle-orm/pg-core';
import { lookedUpFrom, nothingKnown, type CellsOf, type Facts, type Form, type Known, type SlotsOf } from '../../core/forms/index.ts';
import { isHolding, isRow, rowId, type Row, type Value } from '../../core/values/index.ts';
import { own } from '../../core/boundary/index.ts';
import type { Reader } from '../db/database.ts';
import { person } from '../db/schema/index.ts';
import { heldThings, mayName, slotsOfHeld } from '../holdings/held.ts';
import { actionSpecs } from '../systems/index.ts';
import { readRows } from '../tables/read.ts';

/** What forms begin with, of several people and several answers, read in one go. */
export interface KnownOfAll {
  /** `whom`: whom it is asked for, where that is somebody else. */
  of: (personId: string, whom?: string) => Known;
}

/** Whose facts, which rows and which holdings the forms begin with; nothing is read where no form looks anything up. */
export async function knownFor(tx: Reader, asked: { by: string; form: Form; answers: Record<string, unknown> }[]): Promise<KnownOfAll> {
  const looking = asked.filter((a) => a.form.fields.some((f) => f.prefill));
  if (looking.length === 0) return { of: () => nothingKnown };
  const facts = await factsOf(tx, [...new Set(looking.map((a) => a.by))]);
  const from = looking.flatMap((a) => a.form.fields.flatMap((f) => own(a.answers, lookedUpFrom(f) ?? '') ?? []));
  const cells = await cellsOf(tx, from);
  const slots = await slotsIn(tx, from);
  return { of: (id, whom) => ({ asker: facts.get(id) ?? nothingKnown.asker, cells, slots: slots(id, whom) }) };
}

/** The same of one person and one form. */
export const knownOf = async (tx: Reader, by: string, form: Form, answers: Record<string, unknown>, whom?: string) =>
  (await knownFor(tx, [{ by, form, answers }])).of(by, whom);

async function factsOf(tx: Reader, ids: string[]): Promise<Map<string, Facts>> {
  const boss = alias(person, 'boss');
  const rows = await tx
    .select({
      id: person.id,
      manager: boss.id,
      name: person.name,
      mail: person.email,
      department: person.department,
      job: person.jobRole,
      place: person.locationId,
    })
    .from(person)
    .leftJoin(boss, and(eq(boss.id, person.managerId), boss.active))
    .where(inArray(person.id, ids));
  return new Map(
    rows.map((r) => [
      r.id,
      {
        self: { person: r.id },
        manager: r.manager === null ? null : { person: r.manager },
        name: r.name,
        mail: r.mail,
        department: r.department,
        job: r.job,
        place: r.place === null ? null : { location: r.place },
      },
    ]),
  );
}

async function cellsOf(tx: Reader, values: unknown[]): Promise<CellsOf> {
  const wanted = values.filter(isRow);
  const cells = new Map(wanted.length > 0 ? (await readRows(tx, wanted)).map((r) => [rowId(r), r.cells ?? undefined]) : []);
  return (row: Row) => cells.get(rowId(row)) as Record<string, Value> | undefined;
}

/** What holdings were given with, to those who may name them. */
async function slotsIn(tx: Reader, values: unknown[]): Promise<(by: string, whom?: string) => SlotsOf> {
  const ids = values.flatMap((v) => (isHolding(v) ? [v.holding] : []));
  if (ids.length === 0) return () => () => undefined;
  const held = await heldThings(tx, ids);
  const specs = await actionSpecs(tx);
  const slots = await slotsOfHeld(tx, [...held.keys()], (gave) => specs.find((s) => s.id === gave)?.gives?.until);
  return (by, whom) => (id) => {
    const thing = held.get(id);
    return thing && mayName(thing, by, whom) ? slots.get(id) : undefined;
  };
}
