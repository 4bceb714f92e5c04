import { and, asc, eq, sql } from 'drizzle-orm';
import { KeptView } from '../../core/posts/index.ts';
import { askedOf, isList, lists, recordKinds, writeAsked, type ListAsked, type ListName, type RecordKind } from '../../core/lists/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { keptView } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { holdTo, notFound, refuse, type Result } from '../refusal.ts';

const mostViews = 30;

/** Keeps a list as it is asked under a name of the viewer's own; under a name they have already it takes that one's place. */
export async function keepView(viewer: Viewer, input: { list: string; asked: string; name: string }): Promise<Result<{ name: string }>> {
  const { list } = input;
  if (!isList(list)) return notFound('This list');
  const held = holdTo(KeptView, input);
  if (!held.ok) return held;
  const { name } = held.value;
  const asked = writeAsked(lists[list], askedOf(list, input.asked));
  return db().transaction(async (tx) => {
    const has = await tx.$count(keptView, and(eq(keptView.personId, viewer.id), eq(keptView.list, list)));
    if (has >= mostViews) return refuse('invalid', `Of one list ${mostViews} views are kept. Forget one of them first.`);
    await tx.execute(sql`
      insert into kept_view (person_id, list, name, asked) values (${viewer.id}, ${list}, ${name}, ${asked})
      on conflict (person_id, list, lower(name)) do update set asked = excluded.asked, name = excluded.name`);
    return { ok: true, name };
  });
}

/** Forgets a view of the viewer's own. */
export async function forgetView(viewer: Viewer, id: string): Promise<Result<{ name: string }>> {
  if (!isId(id)) return notFound('This view');
  const [gone] = await db()
    .delete(keptView)
    .where(and(eq(keptView.id, id), eq(keptView.personId, viewer.id)))
    .returning({ name: keptView.name });
  return gone ? { ok: true, name: gone.name } : notFound('This view');
}

/** The views the viewer keeps of a list, by name. */
export const keptViews = (viewer: Viewer, list: ListName) =>
  db()
    .select({ id: keptView.id, name: keptView.name, asked: keptView.asked })
    .from(keptView)
    .where(and(eq(keptView.personId, viewer.id), eq(keptView.list, list)))
    .orderBy(asc(sql`lower(${keptView.name})`));

const tables: Record<RecordKind, string> = { person: 'person', item: 'item', team: 'team', location: 'location', kind: 'ticket_kind' };

/** The names of what the filters of a list hold by an id. */
export async function namesOfFilters(name: ListName, asked: ListAsked): Promise<Record<string, string>> {
  const wanted = recordKinds.flatMap((kind) => {
    const ids = Object.entries(lists[name].filters).flatMap(([key, f]) => (f.is === 'record' && f.of === kind ? (asked.wanted[key] ?? []) : []));
    return ids.length > 0 ? [sql`select id, name from ${sql.identifier(tables[kind])} where id = any(${sql.param(ids.filter(isId))}::uuid[])`] : [];
  });
  if (wanted.length === 0) return {};
  const { rows } = await db().execute<{ id: string; name: string }>(sql.join(wanted, sql` union all `));
  return Object.fromEntries(rows.map((r) => [r.id, r.name]));
}
