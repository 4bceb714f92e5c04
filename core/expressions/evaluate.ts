import Decimal from 'decimal.js';
import { compare, kindOf, kindWords, Num, same, Unworkable, type Feel } from './feel-value.ts';
import { functions } from './functions.ts';
import type { Loop, Node } from './tree.ts';

/** Steps that one evaluation may take; a step is a node worked out, or a value of a list looked at. */
export const budget = 100_000;
/** The longest list and text an evaluation may build. */
const most = { items: 10_000, text: 100_000 };

/**
 * Works a tree out. Nothing given for an operand gives nothing, as in the standard; operands of kinds that do not go
 * together, which the standard also calls nothing, are Unworkable here, so that a mistake does not choose a way.
 */
export function evaluateTree(tree: Node, place: (ref: string) => Feel): Feel {
  let left = budget;
  const spend = (steps: number) => {
    left -= steps;
    if (left < 0) throw new Unworkable(`it takes more than ${budget.toLocaleString('en')} steps`);
  };
  const sized = (v: Feel): Feel => {
    if (Array.isArray(v) && v.length > most.items) throw new Unworkable(`a list grew over ${most.items.toLocaleString('en')} values`);
    if (typeof v === 'string' && v.length > most.text) throw new Unworkable(`a text grew over ${most.text.toLocaleString('en')} characters`);
    return v;
  };
  type Locals = ReadonlyMap<string, Feel>;
  const truth = (v: Feel): boolean | null => {
    if (v === null || typeof v === 'boolean') return v;
    throw new Unworkable(`yes or no is needed and a ${kindWords[kindOf(v)]} is given`);
  };

  function run(n: Node, locals: Locals): Feel {
    spend(1);
    switch (n.is) {
      case 'number':
        return new Num(n.text);
      case 'string':
        return n.text;
      case 'constant':
        return n.value;
      case 'place':
        return place(n.ref);
      case 'local':
        return locals.get(n.name) ?? null;
      case 'property':
        return property(run(n.of, locals), n.name);
      case 'list':
        return sized(n.items.map((x) => run(x, locals)));
      case 'context': {
        const made = new Map<string, Feel>();
        for (const { key, value } of n.entries) made.set(key, run(value, new Map([...locals, ...made])));
        return made;
      }
      case 'call':
        return call(n, locals);
      case 'arithmetic':
        return sized(arithmetic(n.op, run(n.left, locals), run(n.right, locals), spend));
      case 'minus':
        return arithmetic('-', zeroOf(run(n.of, locals)), run(n.of, locals), spend);
      case 'compare':
        return compared(n.op, run(n.left, locals), run(n.right, locals));
      case 'between': {
        const v = run(n.of, locals);
        return both(compared('>=', v, run(n.low, locals)), () => compared('<=', v, run(n.high, locals)));
      }
      case 'in': {
        const v = run(n.of, locals);
        const inside = new Map([...locals, ['?', v] as const]);
        return n.tests.reduce<boolean | null>((so, t) => either(so, () => within(v, t, inside)), false);
      }
      case 'interval':
        return { feel: 'range', low: run(n.low, locals), high: run(n.high, locals), lowIn: n.lowIn, highIn: n.highIn };
      case 'bound':
        throw new Unworkable('a comparison without its left side stands alone');
      case 'and':
        return both(truth(run(n.left, locals)), () => truth(run(n.right, locals)));
      case 'or':
        return either(truth(run(n.left, locals)), () => truth(run(n.right, locals)));
      case 'if':
        return truth(run(n.test, locals)) === true ? run(n.then, locals) : run(n.otherwise, locals);
      case 'for': {
        const found: Feel[] = [];
        for (const inside of rounds(n.loops, locals)) {
          found.push(run(n.body, new Map([...inside, ['partial', found] as const])));
          sized(found);
        }
        return found;
      }
      case 'some':
      case 'every': {
        let so: boolean | null = n.is === 'every';
        for (const inside of rounds(n.loops, locals)) {
          const t = truth(run(n.body, inside));
          if (n.is === 'some' ? t === true : t === false) return t;
          if (t === null) so = null;
        }
        return so;
      }
      case 'filter':
        return filter(run(n.of, locals), n.by, locals);
      case 'function':
        return {
          feel: 'function',
          call: (args) => run(n.body, new Map([...locals, ...n.parameters.map((p, i): [string, Feel] => [p, args[i] ?? null])])),
        };
      case 'instance':
        return isInstance(run(n.of, locals), n.type);
    }
  }

  function* rounds(loops: Loop[], locals: Locals, at = 0): Generator<Locals> {
    const loop = loops[at];
    if (!loop) {
      yield locals;
      return;
    }
    for (const v of items(loop, locals)) {
      spend(1);
      yield* rounds(loops, new Map([...locals, [loop.name, v] as const]), at + 1);
    }
  }
  function* items(loop: Loop, locals: Locals): Generator<Feel> {
    const over = run(loop.over, locals);
    if (!loop.to) {
      if (over !== null) yield* Array.isArray(over) ? over : [over];
      return;
    }
    const to = run(loop.to, locals);
    if (!(over instanceof Decimal) || !(to instanceof Decimal)) throw new Unworkable('a range to go through has two numbers');
    const step = to.greaterThanOrEqualTo(over) ? 1 : -1;
    for (let i = over; step > 0 ? i.lessThanOrEqualTo(to) : i.greaterThanOrEqualTo(to); i = i.plus(step)) yield i;
  }

  function filter(of: Feel, by: Node, locals: Locals): Feel {
    if (of === null) return [];
    const all = Array.isArray(of) ? of : [of];
    const first = by.is === 'number' || by.is === 'minus' ? run(by, locals) : undefined;
    const at = (index: Decimal): Feel => (index.isZero() ? null : (all.at(index.greaterThan(0) ? index.toNumber() - 1 : index.toNumber()) ?? null));
    if (first instanceof Decimal) return at(first);
    const found: Feel[] = [];
    for (const item of all) {
      spend(1);
      const inside = new Map([...locals, ...(item instanceof Map ? item : []), ['item', item] as const]);
      const v = run(by, inside);
      // A filter that works out to a number is a position.
      if (v instanceof Decimal) return at(v);
      if (truth(v) === true) found.push(item);
    }
    return found;
  }

  function call(n: Extract<Node, { is: 'call' }>, locals: Locals): Feel {
    const known = functions.get(n.name);
    if (!known) throw new Unworkable(`there is no function “${n.name}”`);
    let args = n.args.map((a) => run(a, locals));
    if (n.named) {
      const { takes } = known;
      if (!takes) throw new Unworkable(`“${n.name}” takes its values in order, not by name`);
      const placed: Feel[] = [];
      n.named.forEach((name, i) => {
        const at = takes.indexOf(name);
        if (at < 0) throw new Unworkable(`“${n.name}” takes no “${name}”`);
        placed[at] = args[i]!;
      });
      args = Array.from(placed, (v) => v ?? null);
    }
    try {
      return sized(known.act(args, spend));
    } catch (error) {
      if (error instanceof Unworkable) throw new Unworkable(`${error.message} (${n.name})`);
      throw error;
    }
  }

  function within(v: Feel, t: Node, locals: Locals): boolean | null {
    if (t.is === 'bound') return compared(t.op, v, run(t.of, locals));
    const other = run(t, locals);
    if (Array.isArray(other))
      return other.some((x) => (x !== null && typeof x === 'object' && 'feel' in x && x.feel === 'range' ? inRange(v, x) : same(v, x)) === true);
    if (other !== null && typeof other === 'object' && 'feel' in other && other.feel === 'range') return inRange(v, other);
    return typeof other === 'boolean' && typeof v !== 'boolean' ? other : same(v, other);
  }
  return run(tree, new Map());
}

const inRange = (v: Feel, r: Extract<Feel, { feel: 'range' }>): boolean | null =>
  both(compared(r.lowIn ? '>=' : '>', v, r.low), () => compared(r.highIn ? '<=' : '<', v, r.high));

// Three truth values (DMN 1.3, 10.3.2.10)
function both(a: boolean | null, b: () => boolean | null): boolean | null {
  if (a === false) return false;
  const c = b();
  return c === false ? false : a === null || c === null ? null : true;
}
function either(a: boolean | null, b: () => boolean | null): boolean | null {
  if (a === true) return true;
  const c = b();
  return c === true ? true : a === null || c === null ? null : false;
}

function compared(op: '=' | '!=' | '<' | '<=' | '>' | '>=', a: Feel, b: Feel): boolean | null {
  if (op === '=' || op === '!=') {
    const s = same(a, b);
    if (s === null) throw new Unworkable(`a ${kindWords[kindOf(a)]} and a ${kindWords[kindOf(b)]} are compared`);
    return s === (op === '=');
  }
  if (a === null || b === null) return null;
  const order = compare(a, b);
  if (order === undefined) throw new Unworkable(`a ${kindWords[kindOf(a)]} and a ${kindWords[kindOf(b)]} have no order`);
  return op === '<' ? order < 0 : op === '<=' ? order <= 0 : op === '>' ? order > 0 : order >= 0;
}

/** What a minus sign is taken from. */
function zeroOf(v: Feel): Feel {
  if (v !== null && typeof v === 'object' && 'feel' in v) {
    if (v.feel === 'days') return { feel: 'days', ms: 0 };
    if (v.feel === 'months') return { feel: 'months', months: 0 };
  }
  return v === null ? null : new Num(0);
}

function arithmetic(op: '+' | '-' | '*' | '/' | '**', a: Feel, b: Feel, spend: (steps: number) => void): Feel {
  if (a === null || b === null) return null;
  const unfit = () => new Unworkable(`a ${kindWords[kindOf(a)]} and a ${kindWords[kindOf(b)]} do not go together with ${op}`);
  if (a instanceof Decimal && b instanceof Decimal) {
    if (op === '+') return finite(a.plus(b));
    if (op === '-') return finite(a.minus(b));
    if (op === '*') return finite(a.times(b));
    if (op === '/') return b.isZero() ? null : finite(a.div(b));
    spend(100);
    return b.abs().greaterThan(10_000) ? null : finite(a.pow(b));
  }
  if (typeof a === 'string' && typeof b === 'string' && op === '+') {
    spend((a.length + b.length) / 100);
    return a + b;
  }
  if (typeof a !== 'object' || typeof b !== 'object') throw unfit();
  const [x, y] = [a, b] as Extract<Feel, object>[] as [Extract<Feel, { feel: string }>, Extract<Feel, { feel: string }>];
  const sign = op === '-' ? -1 : 1;
  const additive = op === '+' || op === '-';
  if (a instanceof Decimal && op === '*') return arithmetic('*', b, a, spend);
  if (x.feel === 'date' || x.feel === 'instant') {
    if (additive && y.feel === 'days') {
      const at = x.at.plus(sign * y.ms);
      return inYears({ feel: x.feel, at: x.feel === 'date' ? at.startOf('day') : at });
    }
    if (additive && y.feel === 'months') return inYears({ feel: x.feel, at: x.at.plus({ months: sign * y.months }) });
    if (op === '-' && (y.feel === 'date' || y.feel === 'instant')) return { feel: 'days', ms: x.at.diff(y.at).toMillis() };
    throw unfit();
  }
  if ((y.feel === 'date' || y.feel === 'instant') && op === '+') return arithmetic('+', b, a, spend);
  if (x.feel === 'time') {
    const day = 86_400_000;
    if (additive && y.feel === 'days') return { feel: 'time', ms: (((x.ms + sign * y.ms) % day) + day) % day };
    if (op === '-' && y.feel === 'time') return { feel: 'days', ms: x.ms - y.ms };
    throw unfit();
  }
  if (x.feel === 'days') {
    if (additive && y.feel === 'days') return { feel: 'days', ms: x.ms + sign * y.ms };
    if (op === '/' && y.feel === 'days') return y.ms === 0 ? null : new Num(x.ms).div(y.ms);
    if (b instanceof Decimal && (op === '*' || (op === '/' && !b.isZero()))) return { feel: 'days', ms: scaled(x.ms, op, b) };
    throw unfit();
  }
  if (x.feel === 'months') {
    if (additive && y.feel === 'months') return { feel: 'months', months: x.months + sign * y.months };
    if (op === '/' && y.feel === 'months') return y.months === 0 ? null : new Num(x.months).div(y.months);
    if (b instanceof Decimal && (op === '*' || (op === '/' && !b.isZero()))) return { feel: 'months', months: Math.trunc(scaled(x.months, op, b)) };
  }
  throw unfit();
}
/** Beyond what decimal128 holds there is no number. */
const finite = (d: Decimal): Feel => (d.isFinite() ? d : null);
const scaled = (amount: number, op: '*' | '/', by: Decimal): number => {
  const made = op === '*' ? new Num(amount).times(by) : new Num(amount).div(by);
  if (made.abs().greaterThan(1e15)) throw new Unworkable('a duration grew over what there is');
  return Math.round(made.toNumber());
};
function inYears(v: Extract<Feel, { feel: 'date' | 'instant' }>): Feel {
  return v.at.isValid && v.at.year >= 1900 && v.at.year <= 2199 ? v : null;
}

function property(of: Feel, name: string): Feel {
  if (of === null) return null;
  if (of instanceof Map) return of.get(name) ?? null;
  if (Array.isArray(of)) return of.map((x) => property(x, name));
  const n = (x: number) => new Num(x);
  if (typeof of === 'object' && 'feel' in of) {
    if ('at' in of) {
      const { at } = of;
      const day: Record<string, number> = { year: at.year, month: at.month, day: at.day, weekday: at.weekday };
      const clock: Record<string, number> = { hour: at.hour, minute: at.minute, second: at.second };
      const found = Object.hasOwn(day, name) ? day[name] : of.feel === 'instant' && Object.hasOwn(clock, name) ? clock[name] : undefined;
      if (found !== undefined) return n(found);
    }
    if (of.feel === 'days' || of.feel === 'time') {
      const { ms } = of;
      const whole = (unit: number, mod: number) => n(Math.trunc(ms / unit) % mod);
      if (name === 'days' && of.feel === 'days') return n(Math.trunc(ms / 86_400_000));
      if (name === 'hours' || name === 'hour') return whole(3_600_000, 24);
      if (name === 'minutes' || name === 'minute') return whole(60_000, 60);
      if (name === 'seconds' || name === 'second') return whole(1000, 60);
    }
    if (of.feel === 'months' && name === 'years') return n(Math.trunc(of.months / 12));
    if (of.feel === 'months' && name === 'months') return n(of.months % 12);
  }
  throw new Unworkable(`a ${kindWords[kindOf(of)]} has no “${name}”`);
}

function isInstance(v: Feel, type: string): boolean {
  const kinds: Record<string, string> = {
    'date and time': 'instant',
    'days and time duration': 'days',
    'years and months duration': 'months',
  };
  if (v === null) return type === 'null' || type === 'Null';
  return type === 'Any' || kindOf(v) === (Object.hasOwn(kinds, type) ? kinds[type] : type);
}
