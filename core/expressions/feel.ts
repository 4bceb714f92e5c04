import { evaluate, FeelDate, FeelDateTime, parseExpression } from 'feelin';
import { isGroup, isOfType, isPerson, typeWords, Value, type ValueType } from '../values/index.ts';

/** Reads a place; undefined when it holds nothing. */
export type ReadPlace = (ref: string) => Value | undefined;

/** The heads of places; any other name in an expression is a name of its own. */
const heads = new Set(['request', 'form', 'steps', 'row', 'part']);

/**
 * What an expression (FEEL, OMG DMN 1.3, chapter 10.3) reads, or why it cannot be read. `now()` and `today()` are
 * refused: the run's own moment is the place `request.now`, so that a replay gives the same value.
 */
export function readExpression(feel: string): { ok: true; refs: string[] } | { ok: false; sentence: string; at?: number } {
  if (!feel.trim()) return { ok: false, sentence: 'There is nothing to work out yet.' };
  const refs = new Set<string>();
  let impure: string | undefined;
  let broken: number | undefined;
  try {
    parseExpression(feel, {}, undefined).iterate({
      enter: (node) => {
        const text = feel.slice(node.from, node.to);
        if (node.type.isError) broken ??= node.from;
        if (node.name === 'FunctionInvocation' && /^(now|today)\s*\(/.test(text)) impure = text;
        if (node.name !== 'PathExpression' || !/^[A-Za-z]\w*(\s*\.\s*[A-Za-z]\w*)+$/.test(text)) return;
        const path = text.replace(/\s/g, '');
        if (heads.has(path.split('.')[0]!)) refs.add(path);
        return false;
      },
    });
  } catch (error) {
    return { ok: false, sentence: `This is not an expression: ${message(error)}.` };
  }
  if (broken !== undefined) return { ok: false, sentence: `This is not a whole expression: it breaks off at character ${broken + 1}.`, at: broken };
  if (impure) return { ok: false, sentence: `${impure.replace(/\(.*/s, '()')} cannot be used here; pick the value “Now” instead.` };
  return { ok: true, refs: [...refs] };
}

/** Works an expression out. A result that is missing or of another type than stated is told, never passed on. */
export function workOut(feel: string, type: ValueType, read: ReadPlace): { ok: true; value: Value } | { ok: false; sentence: string } {
  const parsed = readExpression(feel);
  if (!parsed.ok) return parsed;
  try {
    const { value, warnings } = evaluate(feel, contextOf(parsed.refs, read)) as { value: unknown; warnings: { message: string }[] };
    const result = toValue(value, type);
    if (result === undefined || result === null) {
      const empty = parsed.refs.filter((ref) => read(ref) === undefined || read(ref) === null);
      const why = empty.length
        ? `${empty.join(', ')} ${empty.length === 1 ? 'has' : 'have'} no value`
        : (warnings[0]?.message ?? 'the result is null');
      return { ok: false, sentence: `It gave no value: ${why}.` };
    }
    if (!isOfType(result, type)) return { ok: false, sentence: `It gave ${JSON.stringify(result)}, which is not a ${typeWords[type]}.` };
    return { ok: true, value: result };
  } catch (error) {
    return { ok: false, sentence: `It cannot be worked out: ${message(error)}.` };
  }
}

const message = (error: unknown) => (error instanceof Error ? error.message : String(error)).replace(/\.$/, '');

type Context = Record<string, unknown>;

function contextOf(refs: string[], read: ReadPlace): Context {
  const root: Context = {};
  for (const ref of refs) {
    const path = ref.split('.');
    const last = path.pop()!;
    let at = root;
    for (const name of path) at = (at[name] ??= {}) as Context;
    at[last] = toFeel(read(ref) ?? null);
  }
  return root;
}

/** Persons and groups are their ids; dates stay texts, read with `date(...)` as in the standard. */
function toFeel(v: Value): unknown {
  if (Array.isArray(v)) return v.map(toFeel);
  return isPerson(v) ? v.person : isGroup(v) ? v.group : v;
}

function toValue(v: unknown, type: ValueType): Value | undefined {
  if (v instanceof FeelDate || v instanceof FeelDateTime) return (v as unknown as { iso: string }).iso;
  if (Array.isArray(v)) return v.map((x) => toValue(x, type === 'people' ? 'person' : type)) as Value;
  if (typeof v === 'string' && type === 'person') return { person: v };
  if (typeof v === 'string' && type === 'group') return { group: v };
  const known = Value.safeParse(v);
  return known.success ? known.data : undefined;
}
