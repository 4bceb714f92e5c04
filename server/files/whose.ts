import { sql } from 'drizzle-orm';
import type { RunEvent } from '../../core/engine/index.ts';
import { namedIn, Value } from '../../core/values/index.ts';
import type { Reader, Tx } from '../db/database.ts';
import { isId } from '../ids.ts';

/** Whose a file is: who brought it, and the request it stands in. */
export type Owned = Map<string, { by: string | null; caseId: string | null }>;

/** Whose these files are; those that are not kept are left out. */
export async function ownersOf(tx: Reader, ids: string[]): Promise<Owned> {
  const wanted = ids.filter(isId);
  if (wanted.length === 0) return new Map();
  const { rows } = await tx.execute<{ id: string; by: string | null; case_id: string | null }>(
    sql`select id, by, case_id from stored_file where id = any(${sql.param(wanted)}::uuid[])`,
  );
  return new Map(rows.map((r) => [r.id, { by: r.by, caseId: r.case_id }]));
}

/** The files that values hold. */
export const filesIn = (values: Iterable<unknown>): string[] =>
  [...values].flatMap((v) => {
    const read = Value.safeParse(v);
    return read.success ? namedIn(read.data).flatMap((n) => (n.kind === 'file' && isId(n.id) ? [n.id] : [])) : [];
  });

/** The files that an event brings into its request. */
export function filesOf(event: RunEvent): string[] {
  const values = 'answers' in event ? event.answers : 'values' in event ? event.values : event.type === 'decided' ? event.corrections : undefined;
  return values ? filesIn(Object.values(values)) : [];
}

/** From now on these files stand in their requests, and are kept and seen with them, or with one word of them. One that stands in a request already stays there. */
export async function bindFiles(tx: Tx, bound: { id: string; caseId: string; wordId?: string }[], by?: string): Promise<void> {
  if (bound.length === 0) return;
  await tx.execute(sql`
    update stored_file f set case_id = b."caseId", word_id = b."wordId"
    from jsonb_to_recordset(${JSON.stringify(bound)}::jsonb) as b(id uuid, "caseId" uuid, "wordId" uuid)
    where f.id = b.id and f.case_id is null ${by === undefined ? sql`` : sql`and f.by = ${by}::uuid`}`);
}
