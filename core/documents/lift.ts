import { taken, typed } from '../boundary/index.ts';
import { durationParts } from '../calendar/index.ts';
import type { Stored } from './document.ts';

/** The same with every text changed, wherever it stands; `key` is the name it stands under. */
function eachText(node: unknown, change: (text: string, key: string) => string, key = ''): unknown {
  if (typeof node === 'string') return change(node, key);
  if (Array.isArray(node)) return node.map((n) => eachText(n, change, key));
  if (typeof node !== 'object' || node === null) return node;
  return Object.fromEntries(Object.entries(node).map(([k, v]) => [k, eachText(v, change, k)]));
}

const longest = 'P3653D';
const lines = new Set(['name', 'label', 'words', 'unit', 'value', 'summary', 'category', 'purpose']);
const durations = new Set(['min', 'likely', 'max', 'length', 'deadline', 'after', 'within', 'promise']);

/** The first version held characters that no text can keep, and durations of any length; the second has bounds. */
export const bounded = (old: Stored): Stored =>
  eachText(old, (text, key) => {
    const kept = lines.has(key) ? typed(text).replace(/[\n\t]+/g, ' ') : typed(text);
    return durations.has(key) && /^P[\dTWDHMS]+$/.test(kept) && !durationParts(kept) ? longest : kept;
  }) as Stored;

const lifted = (id: string): string => `${id}_own`;

/** In the first version a step or field could have a key that every object answers to; each gets one of its own, and what reads it reads that. */
export function withOwnKeys(old: Stored): Stored {
  const point = (text: string) =>
    text.replace(/\b(steps|form|part|input)\.(\w+)/g, (whole, head: string, id: string) => (taken.has(id) ? `${head}.${lifted(id)}` : whole));
  /** `under`: the list or record that holds what stands under `key`. Inputs and outputs are known by their names, steps and fields by their ids. */
  const visit = (node: unknown, key = '', under = ''): unknown => {
    if (typeof node === 'string') {
      if (key === 'ref' || key === 'feel') return point(node);
      const isKey = key === 'id' || key === 'corrects' || (key === 'name' && (under === 'inputs' || under === 'outputs'));
      return isKey && taken.has(node) ? lifted(node) : node;
    }
    if (Array.isArray(node)) return node.map((n) => visit(n, key, key));
    if (typeof node !== 'object' || node === null) return node;
    return Object.fromEntries(Object.entries(node).map(([k, v]) => [key === 'inputs' && taken.has(k) ? lifted(k) : k, visit(v, k, key)]));
  };
  return visit(old) as Stored;
}

/** Until the second version a system's time-out was in seconds. */
export const inMilliseconds = ({ timeoutSeconds, ...old }: Stored): Stored => ({ ...old, timeoutMs: Number(timeoutSeconds) * 1000 });

/** What a status tells was one line of fixed words in the first version; it may hold values in the second. */
export function withRichTells(old: Stored): Stored {
  const map = old['map'] as { statuses?: { tells?: unknown }[] } | undefined;
  const statuses = map?.statuses?.map((s) => (typeof s.tells === 'string' ? { ...s, tells: s.tells === '' ? [] : [[{ text: s.tells }]] } : s));
  return { ...old, ...(map && { map: { ...map, ...(statuses && { statuses }) } }) };
}
