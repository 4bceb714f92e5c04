import { and, asc, eq, sql } from 'drizzle-orm';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { accessGroup, item, person, revision, serviceCase } from '../db/schema/index.ts';
import { browse } from './counter.ts';
import { mayReadLedger } from './ledger.ts';
import { anywhere } from './like.ts';

const few = 8;
const like = (q: string) => anywhere(q.toLowerCase());

export interface Choice {
  id: string;
  name: string;
  detail: string;
}

/** People by a part of their name or address; those whose name begins with it first. */
export async function findPeople(q: string): Promise<Choice[]> {
  const rows = await db()
    .select({ id: person.id, name: person.name, jobRole: person.jobRole, department: person.department })
    .from(person)
    .where(and(eq(person.active, true), sql`(lower(${person.name}) like ${like(q)} or lower(${person.email}) like ${like(q)})`))
    .orderBy(sql`lower(${person.name}) not like ${like(q).slice(1)}`, asc(person.name))
    .limit(few);
  return rows.map((r) => ({ id: r.id, name: r.name, detail: [r.jobRole, r.department].filter(Boolean).join(', ') }));
}

export async function findGroups(q: string): Promise<Choice[]> {
  const rows = await db()
    .select({ id: accessGroup.id, name: accessGroup.name, purpose: accessGroup.purpose })
    .from(accessGroup)
    .where(and(eq(accessGroup.gone, false), sql`(lower(${accessGroup.name}) like ${like(q)} or lower(${accessGroup.purpose}) like ${like(q)})`))
    .orderBy(sql`lower(${accessGroup.name}) not like ${like(q).slice(1)}`, asc(accessGroup.name))
    .limit(few);
  return rows.map((r) => ({ id: r.id, name: r.name, detail: r.purpose }));
}

/** A name as typed, without scripts: the one person or group that is called exactly so. */
export async function resolveName(kind: 'person' | 'group', name: string): Promise<string | undefined> {
  const key = name.trim().toLowerCase();
  const rows =
    kind === 'person'
      ? await db()
          .select({ id: person.id })
          .from(person)
          .where(and(eq(person.active, true), sql`(lower(${person.name}) = ${key} or lower(${person.email}) = ${key})`))
          .limit(2)
      : await db()
          .select({ id: accessGroup.id })
          .from(accessGroup)
          .where(and(eq(accessGroup.gone, false), sql`lower(${accessGroup.name}) = ${key}`))
          .limit(2);
  return rows.length === 1 ? rows[0]?.id : undefined;
}

/** Items, requests and drafts the viewer may open, for the find-anything box. */
export async function findAnything(viewer: Viewer, q: string): Promise<{ label: string; detail: string; to: string; section: string }[]> {
  const trimmed = q.trim();
  const number = Number(/^r?-?(\d{1,12})$/i.exec(trimmed)?.[1]);
  const [offers, found, designed] = await Promise.all([
    browse(trimmed, few),
    Number.isFinite(number)
      ? db()
          .select({ number: serviceCase.number, requesterId: serviceCase.requesterId, item: revision.name })
          .from(serviceCase)
          .innerJoin(revision, eq(revision.id, serviceCase.revisionId))
          .where(eq(serviceCase.number, number))
      : [],
    has(viewer, 'designer')
      ? db()
          .select({ id: item.id, name: item.name })
          .from(item)
          .where(sql`lower(${item.name}) like ${like(trimmed)}`)
          .orderBy(item.name)
          .limit(few)
      : [],
  ]);
  const offered = offers.map((i) => ({ section: 'Ask for', label: i.name, detail: i.summary, to: `/counter/ask/${i.id}` }));
  const requests = found.flatMap((r) =>
    r.requesterId === viewer.id
      ? [{ section: 'My requests', label: `R-${r.number}`, detail: r.item, to: `/counter/requests/${r.number}` }]
      : mayReadLedger(viewer)
        ? [{ section: 'Ledger', label: `R-${r.number}`, detail: r.item, to: `/ledger/${r.number}` }]
        : [],
  );
  return [
    ...requests,
    ...offered,
    ...designed.map((d) => ({ section: 'Workshop', label: d.name, detail: 'Design this item', to: `/workshop/items/${d.id}/plan` })),
  ];
}
