import { sql, type SQL } from 'drizzle-orm';
import { Value } from '../../core/values/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { keyset, pageBy, type Key } from '../lists/keyset.ts';
import { allOf } from '../lists/narrow.ts';
import { namesFor, readIn } from '../people/names.ts';
import { maySeeInside } from '../requests/confidential.ts';
import { endedByOthers } from '../systems/index.ts';
import { hasLeft } from './day.ts';
import { costsOfHoldings } from './costs.ts';
import { isOutgrown } from './movers.ts';
import { valueWords } from '../words.ts';

const id: Key = { of: sql`h.id`, as: 'uuid' };
export const bySince: Key[] = [{ of: sql`h.since`, as: 'timestamptz' }, id];
export const byRequest: Key[] = [{ of: sql`service_case.number`, as: 'bigint' }, id];

/** A holding (`h`) with the request that gave it and who has it. */
export const holdingFrom = sql`holding h join run on run.id = h.run_id join service_case on service_case.id = run.case_id
  join revision on revision.id = run.revision_id join person on person.id = h.person_id`;

type Row = {
  id: string;
  kind: string;
  what: unknown;
  /** The action that gave it. */
  gave: string | null;
  since: string;
  endedAt: string | null;
  endingAt: string | null;
  endingWhy: string | null;
  endingBy: string | null;
  /** Whoever has it gives it back themselves. */
  byHolder: boolean;
  /** Whoever has it does not let go of it themselves. */
  byOthers: boolean;
  until: string | null;
  who: string;
  job: string | null;
  lastDay: string | null;
  hasLeft: boolean;
  /** It is from a job that they had before. */
  outgrown: boolean;
  number: string;
  item: string;
  isTheirs: boolean;
  sees: boolean;
  agreed: { name: string; comment: string; at: string }[];
  sortKeys: string[];
};

/** Conditions of holdings alone; `each`: these keys (a subquery) of what they are of, so that an index gives each of them in order. */
export interface OfHoldings {
  ofHoldings: (SQL | undefined)[];
  each?: { of: SQL; keys: SQL };
}

/** Holdings in order, a page at a time, each with how it came: since when, by which request, and who agreed to it. */
export async function holdingsWhere(
  where: (SQL | undefined)[] | OfHoldings,
  of: { keys: Key[]; down: boolean; cursor: string | undefined; size: number },
  viewer: Viewer,
) {
  const { after, orderBy, sortKeys } = keyset(of.keys, of.down, of.cursor);
  const limit = sql.raw(String(of.size + 1));
  // What asks about holdings alone finds the page among these first; the rest is looked up for that page only.
  const first = (conditions: (SQL | undefined)[]) =>
    sql`select h.id, h.since from holding h where ${allOf([...conditions, after])} order by ${orderBy} limit ${limit}`;
  const found = ({ ofHoldings, each }: OfHoldings) =>
    each
      ? sql`unnest(array(${each.keys})) as k(key) cross join lateral (${first([...ofHoldings, sql`${each.of} = k.key`])}) h`
      : sql`(${first(ofHoldings)}) h`;
  const foundFirst = Array.isArray(where) ? undefined : sql`h.id = any(array(select h.id from ${found(where)} order by ${orderBy} limit ${limit}))`;
  const { rows } = await db().execute<Row>(sql`
    select h.id, h.kind, h.what, h.action as gave, h.since, h.ended_at as "endedAt", h.ending_at as "endingAt", h.ending_why as "endingWhy", (select name from person b where b.id = h.ending_by) as "endingBy", coalesce(h.ending_by = h.person_id, false) as "byHolder", coalesce(h.action = any(${sql.param(endedByOthers)}::text[]), false) as "byOthers", h.until::text as until, person.name as who, person.job_role as job, person.last_day::text as "lastDay", ${hasLeft(now())} as "hasLeft", ${isOutgrown} as outgrown, service_case.number, revision.name as item,
      ${sortKeys} as "sortKeys", (service_case.requester_id = ${viewer.id} or coalesce(service_case.for_id = ${viewer.id}, false)) as "isTheirs",
      ${maySeeInside(viewer)} as sees,
      coalesce((select json_agg(json_build_object('name', d.name, 'comment', d.comment, 'at', d.at) order by d.at) from (
        select d.name, a.comment, a.decided_at as at from gate g join approval a on a.gate_id = g.id and a.status = 'approved'
          join person d on d.id = a.person_id where g.run_id = h.run_id
        -- What came by itself came on somebody's word.
        union all select d.name, coalesce(service_case.answers ->> 'why', ''), service_case.opened_at from item i join person d on d.id = coalesce((service_case.answers -> 'by' ->> 'person')::uuid, service_case.requester_id)
          where i.id = service_case.item_id and i.kind = 'byItself') d), '[]') as agreed
    from ${holdingFrom} where ${Array.isArray(where) ? allOf([...where, after]) : foundFirst}
    order by ${orderBy} limit ${limit}`);
  const page = pageBy(rows, of.size);
  const values = new Map(page.rows.map((r) => [r.id, Value.safeParse(r.what).data ?? null]));
  const names = readIn(viewer.zone, await namesFor(db(), values.values()));
  const costs = await costsOfHoldings(
    db(),
    page.rows.flatMap((r) => (r.endedAt === null ? [r.id] : [])),
  );
  return {
    next: page.next,
    rows: page.rows.map(({ what: _, sortKeys: _k, agreed, number, since, endedAt, endingAt, ...r }) => ({
      ...r,
      /** What it costs as long as it is held, in words. */
      costs: endedAt === null && r.sees ? (costs.get(r.id) ?? []) : [],
      what: valueWords(values.get(r.id), names) || 'something that is gone',
      since: new Date(since),
      endedAt: endedAt === null ? null : new Date(endedAt),
      endingAt: endingAt === null ? null : new Date(endingAt),
      number: Number(number),
      agreed: agreed.map((a) => ({ ...a, at: new Date(a.at) })),
    })),
  };
}
