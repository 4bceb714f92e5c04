import { isReference, roomOfValues, rowType, type SingleType, type Value, type ValueType } from '../values/index.ts';
import { compile, conditionReferences, type Condition } from './condition.ts';

/** What a place can hold, as far as it is known before anything has happened. */
export interface Domain {
  type: ValueType;
  /** It may hold nothing. */
  optional: boolean;
  options?: string[];
  min?: number;
  max?: number;
}

/** Values for the places of a set of conditions. */
export type Example = Record<string, Value>;

/** What conditions tried one after another can do, within what their places can hold. */
export interface Coverage {
  /** Whether some values make each condition hold. */
  possible: boolean[];
  /** Whether some values make it hold while no earlier one does. */
  first: boolean[];
  /** Whether it holds for all values. */
  always: boolean[];
  /** Values for which none holds. */
  gap: Example | undefined;
  /** Pairs that hold together, with values for which they do. */
  overlaps: { a: number; b: number; example: Example }[];
}

/** What is known to hold, or not to hold, wherever a condition is asked. */
export interface Known {
  when: Condition;
  holds: boolean;
}

/** More combinations than this are not looked through. */
const most = 50_000;

/**
 * Looks through every combination of values that a list of conditions can tell apart, within the domains of their
 * places and where all that is `given` is so. Exact: conditions compare values only with stated ones and with each other, so
 * one value from each stretch between stated values stands for the whole stretch. Undefined when the places are not
 * known, the comparison has no such stretches (order of texts), or there are too many combinations.
 */
export function analyseCoverage(
  conditions: (Condition | undefined)[],
  domain: (ref: string) => Domain | undefined,
  given: Known[] = [],
): Coverage | undefined {
  // What is known about places that cannot be looked through narrows nothing; the rest is looked through all the same.
  given = given.filter((g) => conditionReferences(g.when).every((ref) => domain(ref) !== undefined && !rowType(domain(ref)!.type)));
  const all = [...conditions.filter((c) => c !== undefined), ...given.map((g) => g.when)];
  const places = new Map<string, Value[]>();
  const stated = statedValues(all);
  const refs = [...new Set(all.flatMap(conditionReferences))];
  // Places may be compared with each other: the bounds of one are stretches of the others too.
  const bounds = refs.flatMap((ref) => [domain(ref)?.min, domain(ref)?.max].filter((b) => b !== undefined));
  // And so are the choices that one offers.
  if (refs.length > 1) stated.values.push(...refs.flatMap((ref) => domain(ref)?.options ?? []));
  for (const ref of refs) {
    const d = domain(ref);
    const values = d && candidates(d, { ...stated, ordered: [...stated.ordered, ...bounds] }, refs.length);
    if (!values) return undefined;
    places.set(ref, values);
  }
  if ([...places.values()].reduce((n, v) => n * v.length, 1) > most) return undefined;
  const tests = conditions.map((c) => (c ? compile(c) : () => false));
  const known = given.map((g) => ({ test: compile(g.when), holds: g.holds }));
  const result: Coverage = {
    possible: tests.map(() => false),
    first: tests.map(() => false),
    always: tests.map(() => true),
    gap: undefined,
    overlaps: [],
  };
  for (const example of combinations([...places])) {
    const read = (ref: string) => example[ref];
    if (!known.every((k) => k.test(read) === k.holds)) continue;
    const taken: number[] = [];
    tests.forEach((test, i) => {
      if (!test(read)) result.always[i] = false;
      else {
        if (taken.length === 0) result.first[i] = true;
        result.possible[i] = true;
        taken.push(i);
      }
    });
    if (taken.length === 0) result.gap ??= { ...example };
    for (const a of taken)
      for (const b of taken)
        if (a < b && !result.overlaps.some((o) => o.a === a && o.b === b)) result.overlaps.push({ a, b, example: { ...example } });
  }
  return result;
}

function* combinations(places: [string, Value[]][], at = 0, so: Example = {}): Generator<Example> {
  const place = places[at];
  if (!place) {
    yield so;
    return;
  }
  for (const value of place[1]) {
    so[place[0]] = value;
    yield* combinations(places, at + 1, so);
  }
}

interface Stated {
  values: Value[];
  ordered: Value[];
}

function statedValues(conditions: Condition[]): Stated {
  const stated: Stated = { values: [], ordered: [] };
  const visit = (c: Condition): void => {
    if ('all' in c) c.all.forEach(visit);
    else if ('any' in c) c.any.forEach(visit);
    else if ('not' in c) visit(c.not);
    else if ('compare' in c) {
      const order = c.compare !== 'is' && c.compare !== 'isNot';
      if (!isReference(c.right)) (order ? stated.ordered : stated.values).push(c.right.literal);
      else if (order) stated.ordered.push(null);
    }
  };
  conditions.forEach(visit);
  return stated;
}

/** One value for each stretch the conditions can tell apart; several where places are compared with each other. */
function candidates(d: Domain, { values, ordered }: Stated, several: number): Value[] | undefined {
  if (rowType(d.type)) return undefined;
  const none: Value[] = d.optional ? [null] : [];
  if (d.options) return [...none, ...d.options];
  const found = roomOfValues(d.type as SingleType).stretches?.({ values, ordered, several, min: d.min, max: d.max });
  return found && [...none, ...found];
}
