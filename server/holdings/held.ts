import { eq, inArray, sql, type SQL } from 'drizzle-orm';
import { setOwn } from '../../core/boundary/index.ts';
import type { OfHolding } from '../../core/forms/index.ts';
import { givenId } from '../../core/steps/index.ts';
import type { Value } from '../../core/values/index.ts';
import type { Reader } from '../db/database.ts';
import { holding, run } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { changesOf } from './change.ts';

/** A holding that is not over, nor being given back. */
export interface HeldThing {
  holder: string;
  /** The manager of whoever has it, where what they hold is told to them: not what a confidential request gave. */
  manager: string | null;
  /** The action that gave it. */
  gave: string | null;
  /** The last day it is lent for. */
  until: string | null;
}
/** Whether it is what a field offers. */
export const isOffered = (thing: HeldThing, { gave, lent }: OfHolding): boolean => thing.gave === (gave ?? null) && (!lent || thing.until !== null);

/** Of a holding (`h`) that somebody has and keeps for now. */
export const isKept: SQL = sql`h.ended_at is null and h.ending_at is null`;
/** The manager of whoever has a holding (`h`), as far as they may know of it. */
const manager: SQL = sql`(select p.manager_id from person p where p.id = h.person_id
  and not exists (select from run join revision v on v.id = run.revision_id where run.id = h.run_id and v.definition -> 'confidential' is not null))`;

/** Who may name a holding in a request of theirs: whoever has it where it is for them, their manager where it is for that person. */
export const mayName = (thing: HeldThing, by: string, whom = by): boolean => thing.holder === whom && (whom === by || thing.manager === by);

/** The holdings with these ids that somebody keeps. */
export async function heldThings(tx: Reader, ids: string[]): Promise<Map<string, HeldThing>> {
  const wanted = ids.filter(isId);
  if (wanted.length === 0) return new Map();
  const { rows } = await tx.execute<HeldThing & { id: string; [k: string]: unknown }>(
    sql`select h.id, h.person_id as holder, h.action as gave, h.until::text as until, ${manager} as manager from holding h where h.id = any(${sql.param(wanted)}::uuid[]) and ${isKept}`,
  );
  return new Map(rows.map(({ id, ...thing }) => [id, thing]));
}

/**
 * The holdings of an action that `whom` keeps, by a part of what they are called; those that end first come first. None to anybody but
 * themselves and their manager.
 */
export async function findHeld(
  tx: Reader,
  { by, whom, gave, lent, q, few }: { by: string; whom: string; gave: string; lent: boolean; q: string; few: number },
): Promise<{ id: string; name: string; until: string | null }[]> {
  const { rows } = await tx.execute<{ id: string; name: string; until: string | null }>(sql`
    select h.id, ${heldName} as name, h.until::text as until from holding h where h.person_id = ${whom}::uuid and h.action = ${gave} and (h.until is not null or ${!lent}) and ${isKept}
      and (${whom === by} or ${manager} = ${by}::uuid) and (${q} = '' or strpos(lower(${heldName}), lower(${q})) > 0)
    order by h.until nulls last, h.since desc, h.id limit ${few}`);
  return rows;
}

/** What a holding (`h`) is called. */
export const heldName: SQL = sql`coalesce(case jsonb_typeof(h.what) when 'string' then h.what #>> '{}' end,
  (select g.name from access_group g where g.id::text = h.what ->> 'group'), h.kind)`;

/**
 * What the actions took and answered that gave these holdings, by the names of their slots. What was done to them since counts under the
 * same names, the last of it most; the last day (`untilOf` names its slot) is the one that holds now.
 */
export async function slotsOfHeld(
  tx: Reader,
  ids: string[],
  untilOf: (gave: string) => string | undefined,
): Promise<Map<string, Record<string, Value>>> {
  const wanted = ids.filter(isId);
  if (wanted.length === 0) return new Map();
  const rows = await tx
    .select({ id: holding.id, key: holding.key, until: holding.until, gave: holding.action, state: run.state })
    .from(holding)
    .innerJoin(run, eq(run.id, holding.runId))
    .where(inArray(holding.id, wanted));
  const changes = await changesOf(tx, wanted);
  return new Map(
    rows.map(({ id, key, until, gave, state }) => {
      const given = state.given?.find((g) => givenId(g) === key);
      const slots: Record<string, Value> = { ...given?.inputs, ...given?.outputs };
      for (const change of changes.get(id) ?? [])
        for (const [name, value] of Object.entries(change)) if (Object.hasOwn(slots, name)) setOwn(slots, name, value);
      const last = gave === null ? undefined : untilOf(gave);
      if (last !== undefined && until !== null) setOwn(slots, last, until);
      return [id, slots];
    }),
  );
}
