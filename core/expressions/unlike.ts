import type { ValueType } from '../values/index.ts';
import { kindWords, type Kind } from './feel-value.ts';
import { treeOf } from './read.ts';
import type { Node } from './tree.ts';

/** What a comparison holds against each other and never can: it would leave the step stuck with that. */
export interface Unlike {
  /** Both sides in words, such as “text” and “date”. */
  sides: [string, string];
  /** A day or a moment that is read as a text there, and is meant as one: `date(...)` around it makes it one. */
  day?: { ref: string; as: 'date' | 'date and time' } | undefined;
}

/** What functions of the standard give, of those that always give the same. */
const gives: Readonly<Record<string, Kind>> = {
  ...Object.fromEntries(['date', 'time', 'number'].map((n) => [n, n as Kind])),
  'date and time': 'instant',
  'years and months duration': 'months',
  ...Object.fromEntries(
    ['string', 'substring', 'upper case', 'lower case', 'substring before', 'substring after', 'replace', 'string join'].map((n) => [n, 'string']),
  ),
  ...Object.fromEntries(
    ['string length', 'count', 'sum', 'product', 'mean', 'median', 'stddev', 'decimal', 'floor', 'ceiling', 'modulo', 'sqrt'].map((n) => [
      n,
      'number',
    ]),
  ),
  ...Object.fromEntries(['contains', 'starts with', 'ends with', 'matches', 'list contains'].map((n) => [n, 'boolean'])),
  ...Object.fromEntries(
    [
      'split',
      'sublist',
      'append',
      'concatenate',
      'insert before',
      'remove',
      'reverse',
      'index of',
      'union',
      'distinct values',
      'flatten',
      'sort',
    ].map((n) => [n, 'list']),
  ),
} as const;

/** What a place of a type is in an expression: days and moments are texts there. Of other types nothing is said. */
const placeKinds: Partial<Record<ValueType, Kind>> = { text: 'string', date: 'string', instant: 'string', number: 'number', boolean: 'boolean' };

/**
 * The comparisons of an expression whose sides are of different kinds whatever is answered: a day of the form, which is a text, and a
 * date. `typeOf` knows the type of a place. Only what is certain is told.
 */
export function unlikeSides(feel: string, typeOf: (ref: string) => ValueType | undefined): Unlike[] {
  const read = treeOf(feel);
  if (!read.ok) return [];
  const found: Unlike[] = [];
  const placeOf = (n: Node) => (n.is === 'place' ? { ref: n.ref, type: typeOf(n.ref) } : undefined);
  const kind = (n: Node): Kind | undefined => {
    switch (n.is) {
      case 'number':
      case 'string':
        return n.is;
      case 'constant':
        return n.value === null ? undefined : 'boolean';
      case 'place': {
        const type = typeOf(n.ref);
        return type && placeKinds[type];
      }
      case 'list':
        return 'list';
      case 'context':
        return 'context';
      case 'call':
        return Object.hasOwn(gives, n.name) ? gives[n.name] : undefined;
      case 'compare':
      case 'between':
      case 'in':
      case 'and':
      case 'or':
      case 'some':
      case 'every':
      case 'instance':
        return 'boolean';
      case 'arithmetic':
        return kind(n.left) === 'number' && kind(n.right) === 'number' ? 'number' : undefined;
      case 'minus':
        return kind(n.of) === 'number' ? 'number' : undefined;
      case 'if': {
        const then = kind(n.then);
        return then === kind(n.otherwise) ? then : undefined;
      }
      default:
        return undefined;
    }
  };
  const held = (a: Node, b: Node) => {
    const [left, right] = [kind(a), kind(b)];
    if (left === undefined || right === undefined || left === right) return;
    const day = [a, b].map(placeOf).find((p) => p?.type === 'date' || p?.type === 'instant');
    const as = ({ date: 'date', instant: 'date and time' } as const)[(left === 'string' ? right : left) as 'date'] as 'date' | undefined;
    found.push({ sides: [kindWords[left], kindWords[right]], ...(day && as !== undefined && { day: { ref: day.ref, as } }) });
  };
  const tested = (of: Node, t: Node): void => {
    if (t.is === 'bound') held(of, t.of);
    else if (t.is === 'interval') [t.low, t.high].forEach((end) => held(of, end));
  };
  const visit = (n: Node): void => {
    if (n.is === 'compare') held(n.left, n.right);
    if (n.is === 'between') [n.low, n.high].forEach((end) => held(n.of, end));
    if (n.is === 'in') n.tests.forEach((t) => tested(n.of, t));
    for (const inside of inOf(n)) visit(inside);
  };
  visit(read.tree);
  return found;
}

/** The nodes that a node is made of. */
function inOf(n: Node): Node[] {
  const of = (x: unknown): Node[] => {
    if (Array.isArray(x)) return (x as unknown[]).flatMap(of);
    if (typeof x !== 'object' || x === null) return [];
    return 'is' in x ? [x as Node] : Object.values(x).flatMap(of);
  };
  return Object.values(n).flatMap(of);
}
