import { sql, type SQL } from 'drizzle-orm';
import type { Tx } from '../db/database.ts';
import type { Lists } from './systems.ts';

/**
 * What a system has of one action's things, as rows `(what jsonb, person_id uuid, until date, outputs jsonb, job text)`: whose it is where
 * it says so, what it calls it while it is under way.
 */
export type Theirs = SQL;

/**
 * Compares what a system has with what is held here, and keeps each difference once. A thing is the same by what it is and whose; where the
 * system does not say whose, by what it is alone. What was given, or is being given or taken back, since the reading began is not judged.
 * What is not there is missing only where the reading was whole. A difference that is not found any more is gone; one that was left as it
 * is stays so as long as it stands. Of a reading that was not whole nothing is taken for gone either.
 */
export async function compare(
  tx: Tx,
  { system, spec, theirs, began, whole }: { system: string; spec: Lists['spec']; theirs: Theirs; began: Date; whole: boolean },
): Promise<void> {
  const { gives } = spec;
  const at = sql`${began.toISOString()}::timestamptz`;
  const thingIsInput = spec.inputs.some((i) => i.name === gives.what);
  /** Calls that may have to do with a thing, and were not answered before the reading began. */
  const underWay = sql`select from flying f where coalesce(f.inputs -> ${gives.person}::text ->> 'person' = t.person_id::text, true)
      and coalesce(f.job = t.job, true) ${thingIsInput ? sql`and coalesce(f.inputs -> ${gives.what}::text = t.what, true)` : sql``}`;
  await tx.execute(sql`
    with theirs as materialized (${theirs}),
    ours as materialized (select id, what, person_id, until, ending_at, since, run_id from holding where action = ${spec.id} and ended_at is null),
    flying as materialized (
      select inputs, job from call where action = ${spec.id} and begun_at is not null and (closed_at is null or closed_at >= ${at})),
    found as (
      select 'unknown' as "is", t.what, t.person_id, null::uuid as holding_id, t.until, t.outputs from theirs t
      where t.person_id is not null and not exists (select from ours o where o.what = t.what and o.person_id = t.person_id)
        and not exists (${underWay})
      union all
      select 'unknown', t.what, null, null, t.until, t.outputs from theirs t
      where t.person_id is null and not exists (select from ours o where o.what = t.what) and not exists (${underWay})
      union all
      select 'missing', o.what, o.person_id, o.id, null, '{}'::jsonb from ours o
      where ${whole}::boolean and o.ending_at is null and o.since < ${at}
        and not exists (select from theirs t where t.what = o.what and t.person_id = o.person_id)
        and not exists (select from theirs t where t.what = o.what and t.person_id is null)
        and not exists (select from call c where c.run_id = o.run_id and starts_with(c.key, 'undo:') and c.begun_at is not null
          and (c.closed_at is null or c.closed_at >= ${at}))
      union all
      select 'until', o.what, o.person_id, o.id, t.until, t.outputs from ours o
        join theirs t on t.what = o.what and (t.person_id is null or t.person_id = o.person_id)
      where o.ending_at is null and o.since < ${at} and t.until is not null and t.until is distinct from o.until),
    kept as (
      insert into difference (system, action, kind, what, person_id, "is", holding_id, until, outputs, found_at, seen_at)
      select distinct on ("is", what, person_id) ${system}::text, ${spec.id}::text, ${gives.kind}::text, what, person_id, "is", holding_id, until, outputs, ${at}, ${at}
      from found order by "is", what, person_id
      on conflict (action, "is", md5(what::text), coalesce(person_id, '00000000-0000-0000-0000-000000000000'::uuid)) where state in ('open', 'left')
      do update set seen_at = excluded.seen_at, holding_id = excluded.holding_id, outputs = excluded.outputs, until = excluded.until,
        -- What was left as it was, was so for what it said then.
        state = case when difference.until is distinct from excluded.until then 'open' else difference.state end
      returning id)
    update difference d set state = 'gone'
    where d.action = ${spec.id} and d.state in ('open', 'left') and d.seen_at < ${at} and ${whole}::boolean
      and not exists (select from kept where kept.id = d.id)`);
}
