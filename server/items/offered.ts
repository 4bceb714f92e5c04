import { and, asc, eq, isNotNull, isNull, or, sql } from 'drizzle-orm';
import { categoryPath, type ItemDefinition } from '../../core/items/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { asksOf } from './audience.ts';
import { item, revision } from '../db/schema/index.ts';
import { anywhere } from '../lists/like.ts';
import { definitionOf } from './definitions.ts';

/** What an item is found by: what it is called, also by others, what it is for, where it stands; without accents and capitals. */
const found = sql`lower(unaccent(${revision.name} || ' ' || coalesce(${revision.alsoCalled}, '') || ' ' || ${revision.summary} || ' ' || ${revision.category}))`;
/** A word that is not in it counts as misspelt while it is so much like one that is (pg_trgm). */
const alike = 0.45;

/** What the viewer may ask for. */
async function forViewer(viewer: Viewer) {
  const asks = await asksOf(db(), viewer);
  return sql`(${asks.forSelf(sql`${revision.audience}`)} or ${asks.forOthers(sql`${revision.onBehalf}`)})`;
}

/**
 * What the viewer can ask for. Every typed word has to be found, as a part of a word or misspelt; what is called so comes first. Without words
 * all of it, by category; `within` one of them, and what lies in it. `any`: one of the words is enough, those with most of them first.
 */
export async function browse(viewer: Viewer, search: string, most = 500, within = '', any = false) {
  const words = search.trim().split(/\s+/).filter(Boolean).slice(0, 6);
  const plain = (word: string) => sql`lower(unaccent(${word}))`;
  const likeness = (word: string) =>
    sql`case when ${found} like '%' || replace(replace(replace(${plain(word)}, '\\', '\\\\'), '%', '\\%'), '_', '\\_') || '%' then 1 else word_similarity(${plain(word)}, ${found}) end`;
  const isFound = (word: string) => sql`${likeness(word)} >= ${alike}`;
  const many = sql`(${sql.join(
    words.map((word) => sql`(${isFound(word)})::int`),
    sql` + `,
  )})`;
  const mine = await forViewer(viewer);
  const named = sql`word_similarity(${plain(search.trim())}, lower(unaccent(${revision.name})))`;
  return db()
    .select({
      id: item.id,
      name: revision.name,
      summary: revision.summary,
      category: revision.category,
    })
    .from(item)
    .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(
      and(
        eq(item.kind, 'item'),
        isNull(item.archivedAt),
        mine,
        within === '' ? undefined : standsWithin(within),
        ...(any ? [or(...words.map(isFound))] : words.map(isFound)),
      ),
    )
    .orderBy(...(any ? [sql`${many} desc`] : []), ...(words.length > 0 ? [sql`${named} desc`] : [asc(revision.category)]), asc(revision.name))
    .limit(most);
}

/** Whether an item stands under a category, or one within it, however its parts are parted. */
function standsWithin(within: string) {
  const path = categoryPath(within).toLowerCase();
  const its = sql`lower(btrim(regexp_replace(${revision.category}, '\\s*/\\s*', ' / ', 'g'), ' /'))`;
  return sql`(${its} = ${path} or starts_with(${its}, ${`${path} / `}))`;
}

/** The categories of all that the viewer may ask for, one for each item. */
export async function offeredCategories(viewer: Viewer): Promise<string[]> {
  const rows = await db()
    .select({ category: revision.category })
    .from(item)
    .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(and(eq(item.kind, 'item'), isNull(item.archivedAt), await forViewer(viewer)));
  return rows.map((r) => r.category);
}

/** The items that somebody asked for last, and those that everybody asks for most: of the last two thousand requests. */
export async function askedBefore(viewer: Viewer): Promise<{ lately: Offer[]; most: Offer[] }> {
  const [few, many] = [4, 6];
  const mine = await forViewer(viewer);
  const { rows } = await db().execute<Offer & { lately: string | null; often: number }>(sql`
    with mine as (
      select item_id as id, max(number) as lately from (
        select item_id, number from service_case where requester_id = ${viewer.id} and kind = 'request' order by number desc limit 50) c group by item_id
    ), often as (
      select item_id as id, count(*)::int as often from (
        select item_id from service_case where kind = 'request' order by number desc limit 2000) c group by item_id
    )
    select ${item.id} as id, ${revision.name} as name, ${revision.summary} as summary, mine.lately, coalesce(often.often, 0) as often
    from ${item} join ${revision} on ${revision.itemId} = ${item.id} and ${revision.number} = ${item.publishedRevision}
      left join mine on mine.id = ${item.id} left join often on often.id = ${item.id}
    where ${item.kind} = 'item' and ${item.archivedAt} is null and (mine.id is not null or often.id is not null) and ${mine}`);
  const offer = ({ id, name, summary }: Offer): Offer => ({ id, name, summary });
  return {
    lately: rows
      .filter((r) => r.lately !== null)
      .toSorted((a, b) => Number(b.lately) - Number(a.lately))
      .slice(0, few)
      .map(offer),
    most: rows
      .filter((r) => r.often > 0)
      .toSorted((a, b) => b.often - a.often || (a.name < b.name ? -1 : 1))
      .slice(0, many)
      .map(offer),
  };
}
interface Offer {
  id: string;
  name: string;
  summary: string;
  [more: string]: unknown;
}

/** The published form of an item, for somebody who may ask for it. */
export async function offeredItem(viewer: Viewer, itemId: string): Promise<Offered | undefined> {
  const asks = await asksOf(db(), viewer);
  const [forSelf, forOthers] = [asks.forSelf(sql`${revision.audience}`), asks.forOthers(sql`${revision.onBehalf}`)];
  const [row] = await db()
    .select({
      id: item.id,
      revision: revision.number,
      revisionId: revision.id,
      forSelf: sql<boolean>`${forSelf}`,
      forOthers: sql<boolean>`${forOthers}`,
    })
    .from(item)
    .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(and(eq(item.id, itemId), eq(item.kind, 'item'), isNull(item.archivedAt), sql`(${forSelf} or ${forOthers})`));
  if (!row) return undefined;
  const { revisionId, ...offered } = row;
  return { ...offered, definition: await definitionOf(db(), revisionId) };
}
/** An item as it is offered to somebody, and for whom they may ask. */
export interface Offered {
  id: string;
  revision: number;
  definition: ItemDefinition;
  forSelf: boolean;
  forOthers: boolean;
}

/** Items that are or were offered, by a part of their name: to those who may ask for them, and to those who work on requests or read of them. */
export async function findItems(viewer: Viewer, q: string, few = 8): Promise<{ id: string; name: string; detail: string }[]> {
  const like = anywhere(q.toLowerCase());
  return db()
    .select({ id: item.id, name: item.name, detail: item.category })
    .from(item)
    .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(
      and(
        eq(item.kind, 'item'),
        isNotNull(item.publishedRevision),
        sql`lower(${item.name}) like ${like}`,
        viewer.roles.length > 0 ? undefined : await forViewer(viewer),
      ),
    )
    .orderBy(sql`lower(${item.name}) not like ${like.slice(1)}`, asc(item.name))
    .limit(few);
}
