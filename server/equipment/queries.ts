import { sql, type SQL } from 'drizzle-orm';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { isId } from '../ids.ts';
import { maySeeInside } from '../requests/confidential.ts';
import { issueName } from './wanted.ts';
import { keepsAt, mayArrangeStock } from './whose.ts';

/** So many lines of each kind are shown. */
const most = 200;

/** Something that is to be handed out, is out, or is to come back. */
export interface IssueLine {
  id: string;
  name: string;
  kind: string;
  marked: boolean;
  mark: string | null;
  who: string;
  job: string | null;
  /** Where its piece stands, or came from. */
  place: string | null;
  placeId: string | null;
  /** Where it is wanted. */
  wantedAt: string | null;
  until: string | null;
  ready: boolean;
  deniedWhy: string | null;
  /** Of the request that wants it; null where the viewer may not see inside. */
  number: number | null;
  since: Date;
}

/** Whether the viewer keeps anything in stock. */
export async function seesStock(viewer: Viewer): Promise<boolean> {
  const { rows } = await db().execute<{ sees: boolean }>(
    sql`select exists (select from stock_place p where ${keepsAt(viewer, sql`p.location_id`)}) as sees`,
  );
  return rows[0]!.sees;
}

/** What there is to do with the equipment of the places that the viewer keeps, or of one of them; undefined where they keep none. */
export async function counterOf(viewer: Viewer, place?: string) {
  if (!(await seesStock(viewer))) return undefined;
  const at =
    place !== undefined && isId(place)
      ? sql`p.location_id = ${place}::uuid and ${keepsAt(viewer, sql`p.location_id`)}`
      : keepsAt(viewer, sql`p.location_id`);
  const [toHandOut, back, waiting, orders] = await Promise.all([
    issues(viewer, sql`i.state = 'setAside' and ${at}`, sql`i.created_at`),
    issues(
      viewer,
      sql`(i.state = 'dueBack' or (i.state = 'out' and i.denied_at is not null and i.received_at is null)) and ${at}`,
      sql`coalesce(i.due_back_at, i.denied_at)`,
    ),
    issues(viewer, sql`i.state = 'waiting'`, sql`i.created_at`),
    ordersAt(at),
  ]);
  return { toHandOut, back, waiting, orders };
}

/** How many pieces are to be handed out or taken in where the viewer keeps what stands there. */
export async function counterCount(viewer: Viewer): Promise<number> {
  const { rows } = await db().execute<{ n: number }>(
    sql`select count(*)::int as n from (select from equipment_issue i join piece p on p.id = i.piece_id
      where i.state in ('setAside', 'dueBack') and ${keepsAt(viewer, sql`p.location_id`)} limit 1001) c`,
  );
  return rows[0]!.n;
}

async function issues(viewer: Viewer, where: SQL, since: SQL): Promise<IssueLine[]> {
  const { rows } = await db().execute<
    Omit<IssueLine, 'name' | 'since' | 'number'> & { no: string; since: string; number: string | null; [k: string]: unknown }
  >(sql`
    select i.id, i.number as no, k.name as kind, k.marked, p.mark, w.name as who, w.job_role as job, at.name as place, p.location_id as "placeId", wanted.name as "wantedAt",
      i.until::text as until, i.ready_at is not null as ready, i.denied_why as "deniedWhy", case when ${maySeeInside(viewer)} then service_case.number end as number,
      ${since} as since
    from equipment_issue i join equipment_kind k on k.id = i.kind_id join person w on w.id = i.person_id
      left join piece p on p.id = i.piece_id left join location at on at.id = p.location_id left join location wanted on wanted.id = i.place_id
      left join run on run.id = i.run_id left join service_case on service_case.id = run.case_id
    where ${where} order by ${since}, i.id limit ${most}`);
  return rows.map(({ no, since: day, number, ...r }) => ({
    ...r,
    name: issueName(Number(no)),
    since: new Date(day),
    number: number === null ? null : Number(number),
  }));
}

async function ordersAt(at: SQL) {
  interface Row extends Record<string, unknown> {
    id: string;
    kindId: string;
    kind: string;
    placeId: string;
    place: string;
    wanted: number;
    ordered: boolean;
    reference: string;
    expected: string | null;
    since: string;
  }
  const { rows } = await db().execute<Row>(sql`
    select p.id, p.kind_id as "kindId", k.name as kind, p.location_id as "placeId", l.name as place, p.wanted, p.state = 'ordered' as ordered, p.reference, p.expected::text as expected,
      p.changed_at as since
    from stock_order p join equipment_kind k on k.id = p.kind_id join location l on l.id = p.location_id
    where p.state in ('toOrder', 'ordered') and ${at} order by p.state desc, k.name, l.name limit ${most}`);
  return rows.map((r) => ({ ...r, since: new Date(r.since) }));
}

/** How many of each kind there are, by state, at the places that the viewer keeps; undefined where they keep none. */
export async function stockFor(viewer: Viewer) {
  if (!(await seesStock(viewer))) return undefined;
  interface Row extends Record<string, unknown> {
    kindId: string;
    kind: string;
    marked: boolean;
    placeId: string;
    place: string;
    free: number;
    setAside: number;
    out: number;
    repair: number;
    missing: number;
    least: number | null;
  }
  const n = (state: string) => sql`count(x.id) filter (where x.state = ${state})::int`;
  const { rows } = await db().execute<Row>(sql`
    select k.id as "kindId", k.name as kind, k.marked, p.location_id as "placeId", l.name as place, ${n('free')} as free, ${n('setAside')} as "setAside", ${n('out')} as out,
      ${n('repair')} as repair, ${n('missing')} as missing, v.least
    from equipment_kind k cross join stock_place p join location l on l.id = p.location_id
      left join piece x on x.kind_id = k.id and x.location_id = p.location_id left join stock_level v on v.kind_id = k.id and v.location_id = p.location_id
    where ${keepsAt(viewer, sql`p.location_id`)}
    group by k.id, p.location_id, l.name, v.least order by k.name, l.name limit 500`);
  return rows;
}

/** What was handed over to the viewer, and they have not said that they have it. */
export async function toConfirm(viewer: Viewer) {
  interface Row extends Record<string, unknown> {
    id: string;
    what: string;
    by: string | null;
    at: string;
    denied: boolean;
  }
  const { rows } = await db().execute<Row>(sql`
    select i.id, i.what, b.name as by, i.out_at as at, i.denied_at is not null as denied
    from equipment_issue i left join person b on b.id = i.out_by
    where i.person_id = ${viewer.id} and i.state = 'out' and i.received_at is null order by i.out_at, i.id limit ${most}`);
  return rows.map((r) => ({ ...r, at: new Date(r.at) }));
}

/** Which kinds of equipment there are, where they stand, and of how many more are ordered; undefined where the viewer does not say so. */
export async function stockArrangement(viewer: Viewer) {
  if (!mayArrangeStock(viewer)) return undefined;
  const kinds = await db().execute<{ id: string; name: string; marked: boolean; pieces: number }>(sql`
    select k.id, k.name, k.marked, (select count(*) from piece p where p.kind_id = k.id and p.state <> 'retired')::int as pieces from equipment_kind k order by k.name limit 500`);
  const places = await db().execute<{ id: string; name: string; team: string; teamId: string; told: boolean }>(sql`
    select l.id, l.name, t.name as team, t.id as "teamId", p.told from stock_place p join location l on l.id = p.location_id join team t on t.id = p.team_id order by l.name limit 500`);
  const levels = await db().execute<{ kind: string; place: string; least: number; upTo: number }>(
    sql`select kind_id as kind, location_id as place, least, up_to as "upTo" from stock_level limit 5000`,
  );
  return { kinds: kinds.rows, places: places.rows, levels: levels.rows };
}

/** Who reads of every piece there is: who keeps some, who arranges them, and who reads the Ledger. */
export async function readsPieces(viewer: Viewer): Promise<boolean> {
  return has(viewer, 'auditor') || mayArrangeStock(viewer) || (await seesStock(viewer));
}
