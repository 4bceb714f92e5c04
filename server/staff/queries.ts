import { and, eq, isNotNull, sql } from 'drizzle-orm';
import { proposedFacts, staffHappenings, type Happening } from '../../core/staff/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { item, person, revision, staffFeed, staffRule } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { definitionOf } from '../items/definitions.ts';
import { hasFeed } from './feed.ts';

const mayRead = (viewer: Viewer) => has(viewer, 'designer', 'administrator');

/** How the feed stands: when it was read last and what came of it, what follows each happening, how many wait for a word. */
export async function staffFeedFor(viewer: Viewer) {
  if (!mayRead(viewer)) return undefined;
  const [[feed], rules, { rows: waiting }] = await Promise.all([
    db()
      .select({ askedAt: staffFeed.askedAt, beganAt: staffFeed.beganAt, endedAt: staffFeed.endedAt, lines: staffFeed.lines, cause: staffFeed.cause })
      .from(staffFeed),
    db()
      .select({ kind: staffRule.kind, item: item.name })
      .from(staffRule)
      .innerJoin(item, eq(item.id, staffRule.itemId))
      .where(eq(staffRule.off, false)),
    db().execute<{ held: number; open: number; people: number }>(sql`
      select (select count(*)::int from staff_happening where state = 'held') as held,
        (select count(*)::int from staff_happening where state = 'open') as open, (select count(*)::int from staff_person) as people`),
  ]);
  /** It is being read, or was asked for and has not begun. */
  const underWay =
    feed !== undefined &&
    ((feed.beganAt !== null && (feed.endedAt === null || feed.endedAt < feed.beganAt)) ||
      (feed.askedAt !== null && (feed.beganAt === null || feed.beganAt < feed.askedAt)));
  return { isSetUp: hasFeed(), feed, underWay, rules: new Map(rules.map((r) => [r.kind, r.item])), ...waiting[0]! };
}

/** The rule for a happening as it is kept (also where nothing follows for now), the items it can ask for, and the fields of the one it asks for (or `itemId` would). */
export async function staffRuleFor(viewer: Viewer, kind: string, itemId: string | undefined) {
  if (!has(viewer, 'designer') || !Object.hasOwn(staffHappenings, kind)) return undefined;
  const [rule] = await db()
    .select({
      itemId: staffRule.itemId,
      asksId: staffRule.asksId,
      asks: person.name,
      answers: staffRule.answers,
      off: staffRule.off,
      version: staffRule.version,
    })
    .from(staffRule)
    .innerJoin(person, eq(person.id, staffRule.asksId))
    .where(eq(staffRule.kind, kind as Happening));
  const items = await db()
    .select({ id: item.id, name: item.name })
    .from(item)
    .where(and(eq(item.kind, 'item'), isNotNull(item.publishedRevision), sql`${item.archivedAt} is null`))
    .orderBy(sql`lower(${item.name})`)
    .limit(1000);
  const chosen = itemId !== undefined && isId(itemId) && items.some((i) => i.id === itemId) ? itemId : rule?.itemId;
  const [published] = chosen
    ? await db()
        .select({ revisionId: revision.id })
        .from(item)
        .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
        .where(eq(item.id, chosen))
    : [];
  const fields = published ? (await definitionOf(db(), published.revisionId)).form.fields : [];
  const answers = rule?.itemId === chosen && rule ? rule.answers : proposedFacts(fields);
  return { kind: kind as Happening, rule, items, chosen, fields, answers };
}
