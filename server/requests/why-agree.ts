import { inArray } from 'drizzle-orm';
import { conditionReferences, conditionWords, type Condition } from '../../core/conditions/index.ts';
import { avoidances, type Agreement, type Avoidance } from '../../core/engine/index.ts';
import type { Answers, CellsOf, Field, Form } from '../../core/forms/index.ts';
import { namingOf, startPlaces } from '../../core/plans/index.ts';
import { inTermsOf, lineFor, type Policy } from '../../core/policies/index.ts';
import { basePlace, namedIn, rowId, type Value, listWords } from '../../core/values/index.ts';
import type { Tx } from '../db/database.ts';
import { policy } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { namesFor, type Names } from '../people/names.ts';
import { firstRows, tablesOf } from '../tables/read.ts';
import { valueWords } from '../words.ts';
import { shownOf } from './shown.ts';

/** So many rows of a table are tried for one that would not ask. */
const mostRows = 20;
/** So many answers that would not are named. */
const mostNamed = 3;

/**
 * Which answers lead to a gate, by the choices on the way and the line of its policy, and which would not; undefined where no answer
 * has a part in it. `raised` gives the gates that other answers would raise, with what stands in the rows that those pick.
 */
export async function whyAgree(
  tx: Tx,
  form: Form,
  answers: Answers,
  agreement: Agreement,
  raised: (answers: Answers, cells?: CellsOf) => Agreement[],
): Promise<string | undefined> {
  const asked = await policyOf(tx, agreement);
  const because = [...agreement.because, ...(asked?.because ?? [])].filter((c) => conditionReferences(c).every((ref) => ref.startsWith('form.')));
  if (because.length === 0) return undefined;
  const rows = await rowsInstead(tx, form, because);
  /** What would be picked in place of the present rows, and those as they are. */
  const cells = new Map(rows.flatMap((r) => r.rows.map((row) => [rowId(row.value), row.cells] as const)));
  const leadsThere = (given: Answers) =>
    raised(shownOf(form, given), (row) => cells.get(rowId(row))).some(
      (a) => a.gate.id === agreement.gate.id && !(asked && passes(asked.policy, a.wanted)),
    );
  const instead = avoidances(form, answers, because, leadsThere, (field) => rows.find((r) => r.field === field)?.rows.map((r) => r.value) ?? []);
  const tables = await tablesOf(
    tx,
    form.fields.flatMap((f) => f.table ?? []),
  );
  const names = await namesFor(tx, [...because.flatMap(literalsOf), ...instead.map((i) => i.value)]);
  const catalogue = { actions: [], people: {}, tables };
  const naming = namingOf(startPlaces(form, catalogue), catalogue);
  const place = (ref: string) => `“${naming.place(ref)}”`;
  const value = (v: Value, ref: string) => {
    const words = namedIn(v).length > 0 ? valueWords(v, names) : naming.value(v, ref);
    return naming.type?.(ref) === 'choice' ? `“${words}”` : words;
  };
  const why = listWords(
    because.map((c) => conditionWords(c, { ...naming, place, value })),
    'and',
  );
  return [`Because ${why}.`, ...insteadWords(instead.slice(0, mostNamed), names)].join(' ');
}

/** What would not ask, by the field where it would be answered: “Not asked with “Size”: Small or Medium.” */
function insteadWords(instead: Avoidance[], names: Names): string[] {
  if (instead.length === 0) return [];
  const fields = [...new Set(instead.map((i) => i.field))];
  const said = fields.map((field) => {
    const unit = field.kind === 'number' && field.unit ? ` ${field.unit}` : '';
    const values = instead.flatMap((i) => (i.field === field ? [`${valueWords(i.value, names, field)}${unit}`] : []));
    return `“${field.label}”: ${listWords(values, 'or')}`;
  });
  return [`Not asked with ${listWords(said, 'or')}.`];
}

/** The policy that a gate asks by, and the condition of its line in terms of the answers; undefined where it asks by none. */
async function policyOf(tx: Tx, { gate, wanted }: Agreement): Promise<{ policy: Policy; because: Condition[] } | undefined> {
  if (gate.approvers?.from !== 'policy' || wanted === undefined || wanted === 'nobody' || wanted.from !== 'policy' || !isId(wanted.policy))
    return undefined;
  const [row] = await tx
    .select({ definition: policy.definition })
    .from(policy)
    .where(inArray(policy.id, [wanted.policy]));
  if (!row) return undefined;
  const when = lineFor(row.definition, wanted.values)?.when;
  const because = when && inTermsOf(when, gate.approvers.inputs);
  return { policy: row.definition, because: because ? [because] : [] };
}

/** Whether what a gate looks up by a policy asks nobody. */
const passes = (by: Policy, wanted: Agreement['wanted']): boolean =>
  wanted !== undefined && wanted !== 'nobody' && wanted.from === 'policy' && lineFor(by, wanted.values)?.approvers.from === 'nobody';

/** Rows that could be picked in place of those whose columns these conditions read. */
async function rowsInstead(tx: Tx, form: Form, because: readonly Condition[]) {
  const read = new Set(because.flatMap(conditionReferences).flatMap((ref) => (basePlace(ref) === ref ? [] : [basePlace(ref)])));
  const found: { field: Field; rows: Awaited<ReturnType<typeof firstRows>> }[] = [];
  for (const field of form.fields)
    if (field.table !== undefined && read.has(`form.${field.id}`)) found.push({ field, rows: await firstRows(tx, field.table, mostRows) });
  return found;
}

const literalsOf = (c: Condition): Value[] =>
  'all' in c
    ? c.all.flatMap(literalsOf)
    : 'any' in c
      ? c.any.flatMap(literalsOf)
      : 'not' in c
        ? literalsOf(c.not)
        : 'compare' in c && 'literal' in c.right
          ? [c.right.literal]
          : [];
