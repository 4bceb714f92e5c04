import { sql } from 'drizzle-orm';
import { own } from '../../core/boundary/index.ts';
import type { FieldProblem, Form } from '../../core/forms/index.ts';
import { isEmpty } from '../../core/values/index.ts';
import type { Reader, Tx } from '../db/database.ts';
import { isId } from '../ids.ts';

/** Answers of a form of an item, of which some must be the only ones. */
export interface Given {
  itemId: string;
  form: Form;
  answers: Record<string, unknown>;
  /** The request they are of already. */
  caseId?: string;
  /** By whom and under which key they were sent: the same form sent again is not another. */
  once?: { by: string; key: string };
}

/** One answer that must be the only one, by which of those given it is of. */
interface Wanted {
  nth: number;
  field: string;
  among: 'open' | 'rows' | 'groups';
  item: string;
  case: string | null;
  by: string | null;
  key: string | null;
  table: string | null;
  column: string | null;
  value: unknown;
}

const wantedIn = (all: readonly Given[]): Wanted[] =>
  all.flatMap(({ itemId, form, answers, caseId, once }, nth) =>
    form.fields.flatMap((f): Wanted[] => {
      const value = own(answers, f.id) as Parameters<typeof isEmpty>[0];
      // What a system says is asked outside of any transaction.
      if (!f.unique || f.unique.among === 'system' || isEmpty(value) || !isId(itemId)) return [];
      const rows = f.unique.among === 'rows' ? f.unique : undefined;
      if (rows && !isId(rows.table ?? '')) return [];
      const of = { nth, field: f.id, item: itemId, case: caseId ?? null, by: once?.by ?? null, key: once?.key ?? null, value };
      return [{ ...of, among: f.unique.among, table: rows?.table ?? null, column: rows?.column ?? null }];
    }),
  );

/** Whether a kept value is the one that is wanted: texts whatever their capitals, all else by what they are. */
const same = (kept: ReturnType<typeof sql>) => sql`case when jsonb_typeof(w.value) = 'string'
  then jsonb_typeof(${kept}) = 'string' and lower(${kept} #>> '{}') = lower(w.value #>> '{}') else ${kept} = w.value end`;

const keyOf = (w: Wanted): string => `${w.item} ${w.field} ${JSON.stringify(w.value).toLowerCase()}`;

/** Two that are sent at once wait for one another, so that the second sees what the first has opened. */
export async function holdUnique(tx: Tx, all: readonly Given[]): Promise<void> {
  const open = wantedIn(all).filter((w) => w.among === 'open');
  if (open.length === 0) return;
  const keys = open.map(keyOf);
  await tx.execute(
    sql`select pg_advisory_xact_lock(k) from (select distinct hashtextextended(t, 7) as k from unnest(${sql.param(keys)}::text[]) t order by 1) keys`,
  );
}

/**
 * What of these answers is taken: by an open request for the same item, a row of a table, or a group of that name; and, of those that
 * are given together, by one before. By the place of those they are of.
 */
export async function takenAmong(tx: Reader, all: readonly Given[]): Promise<Map<number, FieldProblem[]>> {
  const wanted = wantedIn(all);
  const taken = new Map<number, FieldProblem[]>();
  if (wanted.length === 0) return taken;
  const tell = (nth: number, field: string, sentence: string) => {
    const told = taken.get(nth) ?? [];
    if (!told.some((p) => p.field === field)) taken.set(nth, [...told, { field, sentence }]);
  };
  const label = (w: Pick<Wanted, 'nth' | 'field'>) => all[w.nth]?.form.fields.find((f) => f.id === w.field)?.label ?? '';
  const { rows } = await tx.execute<{ nth: number; field: string; among: Wanted['among']; of: string | null }>(sql`
    with w as (select * from jsonb_to_recordset(${JSON.stringify(wanted)}::jsonb)
      as w(nth int, field text, among text, item uuid, "case" uuid, by uuid, key text, "table" uuid, "column" text, value jsonb))
    select w.nth, w.field, w.among, null as of from w where w.among = 'open' and exists (
      select 1 from service_case c where c.item_id = w.item and c.outcome is null and c.id is distinct from w."case"
        and (c.requester_id, c.idempotency_key) is distinct from (w.by, w.key) and ${same(sql`(c.answers -> w.field)`)})
    union all
    select w.nth, w.field, w.among, t.name from w join reference_table t on t.id = w."table" where w.among = 'rows' and exists (
      select 1 from reference_row r where r.table_id = w."table" and r.retired_at is null and ${same(sql`(r.cells -> w."column")`)})
    union all
    select w.nth, w.field, w.among, g.name from w join access_group g on lower(g.name) = lower(w.value #>> '{}') and not g.gone where w.among = 'groups'`);
  const whose: Record<Wanted['among'], (of: string) => string> = {
    open: () => 'an open request asks for it already',
    rows: (of) => `it stands in “${of}” already`,
    groups: (of) => `there is a group “${of}” already`,
  };
  for (const row of rows) tell(row.nth, row.field, `${label(row)} is taken: ${whose[row.among](row.of ?? '')}. Choose another.`);
  const first = new Map<string, Wanted>();
  for (const w of wanted.filter((x) => x.among === 'open')) {
    const before = first.get(keyOf(w));
    if (!before) first.set(keyOf(w), w);
    else if (before.key === null || before.by !== w.by || before.key !== w.key)
      tell(w.nth, w.field, `${label(w)} is taken: ${whose.open('')}. Choose another.`);
  }
  return taken;
}
