import { sql } from 'drizzle-orm';
import { Belonging, type Moving } from '../../core/groups/index.ts';
import { audienceWords, namedInAudience, type Audience } from '../../core/items/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { isId } from '../ids.ts';
import { namesFor } from '../people/names.ts';
import { comesTo } from './condition.ts';
import { mayKeep, readsAllGroups } from './whose.ts';

/** So many groups are shown, and so many people by name. */
const most = { groups: 500, people: 50 };

interface Group {
  id: string;
  name: string;
  purpose: string;
  members: number;
  /** Who is in it by itself, in words. */
  condition: string | undefined;
  held: Moving | null;
}

const owns = (viewer: Viewer, group: string) =>
  sql`exists (select from group_person o where o.group_id = ${sql.raw(group)} and o.person_id = ${viewer.id}::uuid and o."as" = 'owner')`;

/** The groups that the viewer owns; to whoever reads all conditions, those that have one, and those that nobody owns, as well. */
export async function groupsFor(viewer: Viewer): Promise<Group[]> {
  const { rows } = await db().execute<Omit<Group, 'condition'> & { lines: Audience | null; [k: string]: unknown }>(sql`
    select g.id, g.name, g.purpose, c.held, case when c.ended is null then c.members end as lines,
      (select count(*)::int from group_person m where m.group_id = g.id and m."as" = 'member') as members
    from access_group g left join group_condition c on c.group_id = g.id
    where not g.gone and (${owns(viewer, 'g.id')} or (${readsAllGroups(viewer)} and (c.ended is null and c.group_id is not null
      or not exists (select from group_person o join person p on p.id = o.person_id and p.active where o.group_id = g.id and o."as" = 'owner'))))
    order by lower(g.name), g.id limit ${most.groups}`);
  const names = await namesFor(
    db(),
    rows.flatMap((r) => namedInAudience(r.lines ?? [])),
  );
  return rows.map(({ lines, ...g }) => ({ ...g, condition: lines ? audienceWords(lines, names.of) : undefined }));
}

/** Somebody who comes in, goes out, or did not come in. */
interface Somebody {
  id: string;
  name: string;
  job: string | null;
}

/** A group with who is in it by itself. `tried`: the condition that is looked at, which need not be kept. */
export interface GroupPage {
  id: string;
  name: string;
  purpose: string;
  owners: string[];
  mayKeep: boolean;
  members: number;
  /** So many of them by the condition that is kept. */
  byIt: number;
  kept:
    | { members: Audience; why: string; version: number; ended: boolean; by: string; at: string; lookedAt: string | null; held: Moving | null }
    | undefined;
  tried: Audience;
  /** What stands in the condition by its id, in words. */
  names: Record<string, string>;
  /** Of so many it holds; so many come in and go out, some of them by name; so many are in it otherwise, and stay. */
  comes: { belong: number; in: number; out: number; coming: Somebody[]; going: Somebody[]; otherwise: number };
  underWay: number;
  refused: (Somebody & { why: string })[];
  /** Whom somebody took out by hand. */
  takenOut: (Somebody & { by: string; why: string })[];
}

/** A group, to those who may know of its condition; undefined to others. `tried`: a condition to be looked at instead of the one that is kept. */
export async function groupFor(viewer: Viewer, id: string, tried?: unknown): Promise<GroupPage | undefined> {
  if (!isId(id)) return undefined;
  const may = await mayKeep(db(), viewer, id);
  if (!may && !readsAllGroups(viewer)) return undefined;
  type Kept = {
    lines: Audience;
    why: string;
    version: number;
    ended: string | null;
    by: string;
    at: string;
    lookedAt: string | null;
    held: Moving | null;
  };
  const { rows } = await db().execute<{
    id: string;
    name: string;
    purpose: string;
    owners: string[];
    members: number;
    kept: Kept | null;
    [k: string]: unknown;
  }>(sql`
    select g.id, g.name, g.purpose, (select count(*)::int from group_person m where m.group_id = g.id and m."as" = 'member') as members,
      coalesce((select json_agg(p.name order by p.name, p.id) from group_person o join person p on p.id = o.person_id and p.active
        where o.group_id = g.id and o."as" = 'owner'), '[]') as owners,
      (select json_build_object('lines', c.members, 'why', c.why, 'version', c.version, 'ended', c.ended, 'by', p.name, 'at', c.kept_at, 'lookedAt', c.looked_at, 'held', c.held)
        from group_condition c join person p on p.id = c.kept_by where c.group_id = g.id) as kept
    from access_group g where g.id = ${id}::uuid and not g.gone`);
  const [group] = rows;
  if (!group) return undefined;
  const { kept, ...its } = group;
  const asked = Belonging.safeParse(tried);
  const looked: Audience = asked.success ? asked.data : kept && kept.ended === null ? kept.lines : [];
  const [comes, names] = await Promise.all([comingTo(id, looked), namesFor(db(), namedInAudience([...looked, ...(kept?.lines ?? [])]))]);
  const named = Object.fromEntries(
    [...looked, ...(kept?.lines ?? [])].flatMap((l) =>
      (['location', 'group', 'person'] as const).flatMap((kind) => {
        const [value] = Object.values(l[kind] ?? {}) as string[];
        const name = value === undefined ? undefined : names.of(kind, value);
        return name === undefined ? [] : [[`${kind} ${value}`, name]];
      }),
    ),
  );
  return {
    ...its,
    mayKeep: may,
    ...comes,
    tried: looked,
    names: named,
    kept: kept
      ? {
          members: kept.lines,
          why: kept.why,
          version: kept.version,
          ended: kept.ended !== null,
          by: kept.by,
          at: kept.at,
          lookedAt: kept.lookedAt,
          held: kept.held,
        }
      : undefined,
  };
}

const somebody = sql`json_build_object('id', p.id, 'name', p.name, 'job', p.job_role)`;
const some = (of: string, key: string) => sql`coalesce((select json_agg(x.who) from (
  select ${somebody} as who from ${sql.raw(of)} s join person p on p.id = s.${sql.raw(key)} order by p.name, p.id limit ${most.people}) x), '[]')`;

/** What it comes to when a condition is held against who works here now. */
async function comingTo(id: string, lines: Audience): Promise<Pick<GroupPage, 'comes' | 'byIt' | 'underWay' | 'refused' | 'takenOut'>> {
  type Row = Omit<GroupPage['comes'], 'coming' | 'going'> & { coming: Somebody[]; going: Somebody[] } & Pick<
      GroupPage,
      'byIt' | 'underWay' | 'refused' | 'takenOut'
    >;
  const { rows } = await db().execute<Row & { [k: string]: unknown }>(sql`
    with ${comesTo(id, sql`${JSON.stringify(lines)}::jsonb`)}
    select (select count(*)::int from belongs) as belong, (select count(*)::int from coming) as "in", (select count(*)::int from going) as "out",
      ${some('coming', 'id')} as coming, ${some('going', 'person_id')} as going,
      (select count(*)::int from live where holding_id is not null and ended_at is null) as "byIt",
      (select count(*)::int from group_person m where m.group_id = ${id}::uuid and m."as" = 'member'
        and not exists (select from live l where l.person_id = m.person_id and l.holding_id is not null and l.ended_at is null)) as otherwise,
      (select count(*)::int from live where state = 'open' or under_way) as "underWay",
      coalesce((select json_agg(x.who) from (select json_build_object('id', p.id, 'name', p.name, 'job', p.job_role, 'why', l.why) as who
        from live l join person p on p.id = l.person_id where l.state = 'refused' order by p.name, p.id limit ${most.people}) x), '[]') as refused,
      coalesce((select json_agg(x.who) from (select json_build_object('id', p.id, 'name', p.name, 'job', p.job_role, 'why', coalesce(l.ending_why, ''), 'by', b.name) as who
        from live l join person p on p.id = l.person_id join person b on b.id = l.ending_by
        where l.ended_at is not null order by p.name, p.id limit ${most.people}) x), '[]') as "takenOut"`);
  const { belong, in: comeIn, out, coming, going, otherwise, ...rest } = rows[0]!;
  return { ...rest, comes: { belong, in: comeIn, out, coming, going, otherwise } };
}

/** Whether the viewer has anything to do with who is in groups by itself. */
export async function seesGroups(viewer: Viewer): Promise<boolean> {
  if (readsAllGroups(viewer)) return true;
  const { rows } = await db().execute<{ sees: boolean }>(
    sql`select exists (select from access_group g where not g.gone and ${owns(viewer, 'g.id')}) as sees`,
  );
  return rows[0]!.sees;
}
