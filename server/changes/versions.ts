import { and, desc, eq, lt, sql } from 'drizzle-orm';
import { isDate } from '../../core/calendar/index.ts';
import { hoursFormat, kindFormat, readDocument, routingFormat, type Format } from '../../core/documents/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { changeLog, person } from '../db/schema/index.ts';
import { isId } from '../ids.ts';

/** What is live and keeps its versions in the log of changes. */
const formats = { kind: kindFormat, routing: routingFormat, hours: hoursFormat } as const;
type Versioned = keyof typeof formats;
type DefinitionOf<V extends Versioned> = (typeof formats)[V] extends Format<infer T> ? T : never;

const most = 200;
/** An entry of the log that holds a version; the first of a thing is its second, since it is begun blank. */
const kept = (object: Versioned, id: string) =>
  and(eq(changeLog.object, object), eq(changeLog.objectId, id), sql`${changeLog.detail} ? 'definition'`);

/** The versions of something that is live, the newest first; undefined to those who do not design. */
export async function versionsOf(viewer: Viewer, object: Versioned, id: string) {
  if (!has(viewer, 'designer') || !isId(id)) return undefined;
  return db()
    .select({ version: sql<number>`(${changeLog.detail} ->> 'version')::int`, at: changeLog.at, by: person.name })
    .from(changeLog)
    .leftJoin(person, eq(person.id, changeLog.actorId))
    .where(kept(object, id))
    .orderBy(desc(changeLog.at), desc(changeLog.id))
    .limit(most);
}

/** Something that is live as it was under a version, or at the end of a day as it runs where the viewer is; undefined where nothing is kept of then. */
export async function versionOf<V extends Versioned>(
  viewer: Viewer,
  object: V,
  id: string,
  asked: { version: number } | { day: string },
): Promise<{ version: number; at: Date; by: string | null; definition: DefinitionOf<V> } | undefined> {
  if (!has(viewer, 'designer') || !isId(id)) return undefined;
  if ('day' in asked && !isDate(asked.day)) return undefined;
  const [row] = await db()
    .select({
      version: sql<number>`(${changeLog.detail} ->> 'version')::int`,
      at: changeLog.at,
      by: person.name,
      definition: sql`${changeLog.detail} -> 'definition'`,
    })
    .from(changeLog)
    .leftJoin(person, eq(person.id, changeLog.actorId))
    .where(
      and(
        kept(object, id),
        'day' in asked
          ? lt(changeLog.at, sql`((${asked.day}::date + 1)::timestamp at time zone ${viewer.zone})`)
          : sql`(${changeLog.detail} ->> 'version')::bigint = ${asked.version}::bigint`,
      ),
    )
    .orderBy(desc(changeLog.at), desc(changeLog.id))
    .limit(1);
  return row && { ...row, definition: readDocument(formats[object] as Format<object>, row.definition) as DefinitionOf<V> };
}
