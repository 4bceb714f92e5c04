import Decimal from 'decimal.js';
import { unkeepableIn } from '../boundary/index.ts';
import {
  digitsOf,
  expressionOf,
  fromPlain,
  isNumber,
  isOfType,
  numberFrom,
  rowType,
  typeWords,
  Value,
  type Expressed,
  type ValueType,
} from '../values/index.ts';
import { evaluateTree } from './evaluate.ts';
import { isoOf, Num, stringOf, Unworkable, type Feel } from './feel-value.ts';
import { treeOf } from './read.ts';

/** Reads a place; undefined when it holds nothing. */
export type ReadPlace = (ref: string) => Value | undefined;

/**
 * Works an expression out, within a budget of steps. Numbers are decimals of 34 digits. A result that is missing or of
 * another type than stated is told, never passed on.
 */
export function workOut(feel: string, type: ValueType, read: ReadPlace): { ok: true; value: Value } | { ok: false; sentence: string } {
  const parsed = feel.trim() ? treeOf(feel) : { ok: false as const, sentence: 'There is nothing to work out yet.' };
  if (!parsed.ok) return parsed;
  try {
    const result = toValue(
      evaluateTree(parsed.tree, (ref) => toFeel(read(ref) ?? null)),
      type,
    );
    if (result === undefined || result === null) {
      const empty = parsed.refs.filter((ref) => read(ref) === undefined || read(ref) === null);
      const why = empty.length ? `${empty.join(', ')} ${empty.length === 1 ? 'has' : 'have'} no value` : 'the result is null';
      return { ok: false, sentence: `It gave no value: ${why}.` };
    }
    const fits = isOfType(result, type) && !(typeof result === 'string' && unkeepableIn(result)) && Value.safeParse(result).success;
    if (!fits) return { ok: false, sentence: `It gave ${JSON.stringify(result).slice(0, 200)}, which is not a ${typeWords[type]}.` };
    return { ok: true, value: result };
  } catch (error) {
    if (error instanceof Unworkable) return { ok: false, sentence: `It cannot be worked out: ${error.message}.` };
    throw error;
  }
}

/** What is held by an id is its id; dates stay texts, read with `date(...)` as in the standard. */
const toFeel = (v: Value): Feel => feelOf(expressionOf(v));
function feelOf(v: Expressed): Feel {
  if (Array.isArray(v)) return v.map(feelOf);
  if (isNumber(v)) return new Num(digitsOf(v));
  if (typeof v !== 'object' || v === null) return v;
  return new Map(Object.entries(v.named).map(([name, x]) => [name, feelOf(x)]));
}

/** A result as a value of the type that is wanted; undefined where it is none. */
function toValue(v: Feel, type: ValueType): Value | undefined {
  if (v === null || typeof v === 'boolean') return v;
  if (Array.isArray(v)) return v.map((x) => toValue(x, rowType(type) ?? type)) as Value;
  if (v instanceof Decimal) return numberFrom(v.toFixed());
  if (v instanceof Map) return fromPlain(Object.fromEntries([...v].map(([k, x]) => [k, x instanceof Decimal ? x.toFixed() : stringOf(x)])), type);
  if (typeof v === 'string') return fromPlain(v, type) ?? v;
  return v.feel === 'range' || v.feel === 'function' ? undefined : isoOf(v);
}
