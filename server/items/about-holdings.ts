import { sql } from 'drizzle-orm';
import { hasHoldings, type Answers, type Form } from '../../core/forms/index.ts';
import { typedAs } from '../../core/values/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { item, revision } from '../db/schema/index.ts';
import { heldThings, isOffered, mayName } from '../holdings/held.ts';
import { asksOf } from './audience.ts';

/** An item that is asked for about something that somebody holds. */
export interface ItemAbout {
  id: string;
  name: string;
  /** Only about what is lent until a day. */
  lent: boolean;
}

/**
 * The items that the viewer may ask for about what these actions gave: those whose forms ask for such a holding. `forOthers`: of what
 * others hold.
 */
export async function itemsAbout(viewer: Viewer, actions: string[], forOthers: boolean): Promise<Map<string, ItemAbout[]>> {
  const found = new Map<string, ItemAbout[]>();
  if (actions.length === 0) return found;
  const asks = await asksOf(db(), viewer);
  const may = forOthers ? asks.forOthers(sql`${revision.onBehalf}`) : asks.forSelf(sql`${revision.audience}`);
  const { rows } = await db().execute<ItemAbout & { gave: string; [k: string]: unknown }>(sql`
    select distinct ${item.id} as id, ${revision.name} as name, f ->> 'gave' as gave, coalesce((f ->> 'lent')::boolean, false) as lent
    from ${item} join ${revision} on ${revision.itemId} = ${item.id} and ${revision.number} = ${item.publishedRevision}
      cross join jsonb_array_elements(${revision.definition} -> 'form' -> 'fields') f
    where ${item.kind} = 'item' and ${item.archivedAt} is null and ${revision.definition} @> '{"form":{"fields":[{"kind":"holding"}]}}'
      and f ->> 'kind' = 'holding' and f ->> 'gave' = any(${sql.param([...new Set(actions)])}::text[]) and ${may}
    order by name`);
  for (const { gave, ...about } of rows) found.set(gave, [...(found.get(gave) ?? []), about]);
  return found;
}

/** What a form begins with that is asked for about a holding, and whose it is where it is somebody else's; undefined where the viewer may not name it, or the form does not ask for such. */
export async function begunAbout(viewer: Viewer, form: Form, holding: string): Promise<{ answers: Answers; whom: string | undefined } | undefined> {
  const thing = (await heldThings(db(), [holding])).get(holding);
  if (!thing || !mayName(thing, viewer.id, thing.holder)) return undefined;
  const field = form.fields.find((f) => hasHoldings(f.kind) && !f.held && isOffered(thing, f));
  const value = field && typedAs(holding, 'holding');
  return field && value ? { answers: { [field.id]: value }, whom: thing.holder === viewer.id ? undefined : thing.holder } : undefined;
}
