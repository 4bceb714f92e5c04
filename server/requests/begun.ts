import { and, eq, inArray } from 'drizzle-orm';
import { alias } from 'drizzle-orm/pg-core';
import { nothingKnown, type CellsOf, type Facts, type Form } from '../../core/forms/index.ts';
import { isRow, rowId, type Row, type Value } from '../../core/values/index.ts';
import type { Reader } from '../db/database.ts';
import { person } from '../db/schema/index.ts';
import { readRows } from '../tables/read.ts';

/** What forms begin with, of several people and several answers, read in one go. */
export interface Known {
  of: (personId: string) => { asker: Facts; cells: CellsOf };
}

/** Whose facts and which rows the forms begin with; nothing is read where no form looks anything up. */
export async function knownFor(tx: Reader, asked: { by: string; form: Form; answers: Record<string, unknown> }[]): Promise<Known> {
  const looking = asked.filter((a) => a.form.fields.some((f) => f.prefill));
  if (looking.length === 0) return { of: () => nothingKnown };
  const facts = await factsOf(tx, [...new Set(looking.map((a) => a.by))]);
  const cells = await cellsOf(
    tx,
    looking.flatMap((a) => a.form.fields.flatMap((f) => (f.prefill && 'row' in f.prefill ? [a.answers[f.prefill.row]] : []))),
  );
  return { of: (id) => ({ asker: facts.get(id) ?? nothingKnown.asker, cells }) };
}

/** The same of one person and one form. */
export const knownOf = async (tx: Reader, by: string, form: Form, answers: Record<string, unknown>) =>
  (await knownFor(tx, [{ by, form, answers }])).of(by);

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
