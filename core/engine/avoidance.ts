import { own } from '../boundary/index.ts';
import { conditionReferences, type Condition } from '../conditions/index.ts';
import { validateAnswers, type Answers, type Field, type Form } from '../forms/index.ts';
import { basePlace, isEmpty, isNumber, numberFrom, sameValue, digitsOf, type Value } from '../values/index.ts';

/** One answer that, given instead of the present one, would not lead to a gate. */
export interface Avoidance {
  field: Field;
  value: Value;
}

/** More answers than this are not tried for one gate. */
const mostTried = 24;

/**
 * Which single answers would avoid what these conditions lead to: of each field that they read the choices it offers, and of
 * numbers and days those around the ones that are stated, nearest to the present answer first. Only what the form would take is
 * tried; `leadsThere` says for answers whether they lead to it, by the engine's own resolution. `offered` are the rows that a field
 * of a table row offers.
 */
export function avoidances(
  form: Form,
  answers: Answers,
  because: readonly Condition[],
  leadsThere: (answers: Answers) => boolean,
  offered: (field: Field) => readonly Value[] = () => [],
): Avoidance[] {
  const found: Avoidance[] = [];
  let tried = 0;
  for (const field of form.fields) {
    if (field.held || !because.some((c) => conditionReferences(c).some((ref) => basePlace(ref) === `form.${field.id}`))) continue;
    const now = own(answers, field.id);
    if (isEmpty(now)) continue;
    for (const value of [...offered(field), ...instead(field, now!, because)]) {
      if (sameValue(value, now) || !isTaken(field, value)) continue;
      if (++tried > mostTried) return found;
      if (leadsThere({ ...answers, [field.id]: value })) continue;
      found.push({ field, value });
      // Of choices and rows each is named; of numbers and days the nearest.
      if (!field.options && field.kind !== 'row') break;
    }
  }
  return found;
}

const isTaken = (field: Field, value: Value): boolean =>
  validateAnswers({ fields: [{ ...field, visibleWhen: undefined, requiredWhen: undefined }] }, { [field.id]: value }).ok;

const day = 86_400_000;
/** What else could be answered, nearest first. */
function instead(field: Field, now: Value, because: readonly Condition[]): Value[] {
  if (field.kind === 'choice') return (field.options ?? []).map((o) => o.value);
  if (field.kind === 'yesNo') return [now !== true];
  const stated = because.flatMap((c) => literalsAt(c, `form.${field.id}`));
  if (field.kind === 'number' && isNumber(now)) {
    const numbers = stated.filter(isNumber).map((n) => Number(digitsOf(n)));
    const around = numbers.flatMap((n) => [n - 1, n, n + 1]);
    const present = Number(digitsOf(now));
    return around.sort((a, b) => Math.abs(a - present) - Math.abs(b - present)).flatMap((n) => numberFrom(String(n)) ?? []);
  }
  if (field.kind === 'date' && typeof now === 'string') {
    const days = stated.flatMap((d) => (typeof d === 'string' && !Number.isNaN(Date.parse(d)) ? [Date.parse(d)] : []));
    const around = days.flatMap((d) => [d - day, d, d + day]);
    return around.sort((a, b) => Math.abs(a - Date.parse(now)) - Math.abs(b - Date.parse(now))).map((d) => new Date(d).toISOString().slice(0, 10));
  }
  return [];
}

/** The values that a place is compared with. */
function literalsAt(c: Condition, ref: string): Value[] {
  if ('all' in c) return c.all.flatMap((x) => literalsAt(x, ref));
  if ('any' in c) return c.any.flatMap((x) => literalsAt(x, ref));
  if ('not' in c) return literalsAt(c.not, ref);
  return 'has' in c || c.left.ref !== ref || !('literal' in c.right) ? [] : [c.right.literal];
}
