import { functionNames } from './function-names.ts';
import { neededBy, readTree, Unreadable, type Node, type Parted } from './tree.ts';

type Read = { ok: true; refs: string[]; parted: Parted[]; needs: ReadonlySet<string>; tree: Node } | { ok: false; sentence: string; at?: number };

/** Expressions that were read lately: a run works the same ones out again and again. */
const kept = new Map<string, Read>();
const most = 2000;

/** The tree of an expression, or the sentence that says why there is none. */
export function treeOf(feel: string): Read {
  const known = kept.get(feel);
  if (known) return known;
  let read: Read;
  try {
    const { tree, refs, parted } = readTree(feel, functionNames);
    read = { ok: true, tree, refs: [...refs], parted, needs: neededBy(tree) };
  } catch (error) {
    if (error instanceof Unreadable) read = { ok: false, sentence: error.message, ...(error.at !== undefined && { at: error.at }) };
    else read = { ok: false, sentence: 'This is not an expression.' };
  }
  if (kept.size >= most) kept.delete(kept.keys().next().value!);
  kept.set(feel, read);
  return read;
}

/**
 * What an expression (FEEL, OMG DMN 1.3, chapter 10.3) reads, or why it cannot be read: a name in it that is no place, no
 * name of its own and no function of the standard is told here, before anything runs. `now()` and `today()` are refused:
 * the run's own moment is the place `request.now`, so that a replay gives the same value. `needs`: the places without whose
 * value it gives nothing; `parted`: the parts of values that it names.
 */
export function readExpression(
  feel: string,
): { ok: true; refs: string[]; parted: Parted[]; needs: ReadonlySet<string> } | { ok: false; sentence: string; at?: number } {
  if (!feel.trim()) return { ok: false, sentence: 'There is nothing to work out yet.' };
  const read = treeOf(feel);
  return read.ok ? { ok: true, refs: read.refs, parted: read.parted, needs: read.needs } : read;
}
