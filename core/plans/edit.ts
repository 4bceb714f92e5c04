import { atOnce, kindWords, roomOf, type Block, type PlanEdit, type Position, type Step, type StepKind } from '../steps/index.ts';
import { idFrom } from '../values/index.ts';
import { branches, stepIds, walk, withBranches } from './blocks.ts';
import { moveTo, stepsIn, type Run } from './moves.ts';
import type { Plan } from './plan.ts';
import { changeBlocks, changeStep, insertAll, insertStep, takenOut } from './rebuild.ts';

/** Takes steps out for good; their keys are not given again. */
export const removeSteps = (plan: Plan, ids: string[]): Plan => retiring(plan, takenOut(plan, ids));

/** The keys of steps that a change took out are not given again. */
function retiring(before: Plan, after: Plan): Plan {
  if (after === before) return after;
  const left = stepIds(after);
  const gone = [...walk(before.steps)].flatMap(({ step }) => (left.has(step.id) ? [] : [step]));
  if (gone.length === 0) return after;
  return {
    ...after,
    retired: [...new Set([...(after.retired ?? []), ...gone.map((step) => step.id)])],
    wereCalled: [...(after.wereCalled ?? []), ...gone.map(({ id, name }) => ({ id, name }))],
  };
}

/** The keys that no new step may have. */
const usedIds = (plan: Plan): Set<string> => new Set([...stepIds(plan), ...(plan.retired ?? [])]);

/** Puts a step in the place of the one with its key. */
export const replaceStep = (plan: Plan, step: Step): Plan => changeStep(plan, step.id, () => step);

/** Puts copies after the last of the steps; every step in a copy gets an id and a name of its own. */
export function duplicateSteps(plan: Plan, run: Run): { plan: Plan; copies: string[] } {
  const originals = stepsIn(plan, run);
  const last = originals.at(-1);
  return last ? pasteSteps(plan, originals, { after: last.id }) : { plan, copies: [] };
}

/**
 * Puts copies of steps, of this plan or another, at a position. Each gets an id and a name not used yet; what they
 * read of each other is read of the copies. Steps that were cut out of this very plan (`home`) come back as they were. What
 * steps of another item (`elsewhere`) read there does not belong here, even where a key is the same: it comes unbound, for
 * the check to find.
 */
export function pasteSteps(plan: Plan, steps: Block, at: Position, from: 'here' | 'home' | 'elsewhere' = 'here'): { plan: Plan; copies: string[] } {
  const present = stepIds(plan);
  const taken = usedIds(plan);
  const names = new Set([...walk(plan.steps)].map((w) => w.step.name));
  const ids = new Map<string, string>();
  const rename = (step: Step): Step => {
    const name = freeName(step.name, names);
    const id = from === 'home' && !present.has(step.id) && !ids.has(step.id) ? step.id : idFrom(name, taken);
    taken.add(id);
    names.add(name);
    ids.set(step.id, id);
    return { ...withBranches(step, (b) => b.block.map(rename)), id, name };
  };
  const copies = steps.map(rename).map((s) => repointed(s, ids, from === 'elsewhere') as Step);
  const inserted = insertAll(plan, at, copies);
  const back = new Set(ids.values());
  const retired = inserted.retired?.filter((id) => !back.has(id));
  return { plan: { ...inserted, ...(retired && { retired }) }, copies: copies.map((c) => c.id) };
}

/** The same with every reference to a copied step pointing to its copy; with `unbind`, every other of the item's own to nothing. */
function repointed(node: unknown, ids: Map<string, string>, unbind: boolean): unknown {
  const point = (text: string) =>
    text.replace(/\b(steps|form|part)\.([a-z]\w*)((?:\.[a-z]\w*)?)/g, (whole, head: string, id: string, more: string) => {
      const copy = head === 'steps' ? ids.get(id) : undefined;
      if (copy !== undefined) return `steps.${copy}${more}`;
      return unbind ? `unbound.${head}_${id}${more.replace('.', '_')}` : whole;
    });
  if (Array.isArray(node)) return node.map((n) => repointed(n, ids, unbind));
  if (typeof node !== 'object' || node === null) return node;
  return Object.fromEntries(
    Object.entries(node).map(([k, v]) => {
      if ((k === 'ref' || k === 'feel') && typeof v === 'string') return [k, point(v)];
      if (k === 'corrects' && unbind && Array.isArray(v)) return [k, v.map((id) => `unbound_${String(id)}`.slice(0, 40))];
      return [k, repointed(v, ids, unbind)];
    }),
  );
}

/** The kinds a step can be wrapped in. */
export type Wrapping = 'choose' | 'together' | 'guard' | 'forEach' | 'repeat';

/** Puts steps into a new compound step that stands in their place. */
export function wrapSteps(plan: Plan, run: Run, kind: Wrapping): { plan: Plan; wrapper: string | undefined } {
  const found = stepsIn(plan, run);
  if (found.length === 0) return { plan, wrapper: undefined };
  const outer = newStep(plan, kind);
  const first = branches(outer)[0]!.id;
  const wrapper = withBranches(outer, (b) => (b.id === first ? found : b.block));
  const wrapped = changeBlocks(plan, (block) =>
    block.some((s) => s.id === found[0]!.id) ? block.flatMap((s) => (s.id === found[0]!.id ? [wrapper] : run.includes(s.id) ? [] : [s])) : block,
  );
  return { plan: wrapped, wrapper: wrapper.id };
}

/** Takes a compound step away and leaves the steps it held in its place, one branch after another. A gate keeps its own. */
export function unwrapStep(plan: Plan, id: string): Plan {
  const after = changeBlocks(plan, (block) =>
    block.some((s) => s.id === id)
      ? block.flatMap((s) => (s.id === id && !roomOf(s).isLock && branches(s).length > 0 ? branches(s).flatMap((b) => b.block) : [s]))
      : block,
  );
  return retiring(plan, after);
}

/** Carries out the mechanical mend of a finding. */
export function applyEdit(plan: Plan, edit: PlanEdit): Plan {
  if ('replace' in edit) return replaceStep(plan, edit.replace);
  if ('remove' in edit) return removeSteps(plan, [edit.remove]);
  return 'insert' in edit ? insertStep(plan, edit.at, edit.insert) : moveTo(plan, [edit.move], edit.to);
}

/** A fresh step of a kind, with a name and id not used yet and its settings unset for the check to find. */
export function newStep(plan: Plan, kind: StepKind): Step {
  const names = new Set([...walk(plan.steps)].map((w) => w.step.name));
  const name = freeName(kindWords[kind].verb, names);
  return { id: idFrom(name, usedIds(plan)), name, expected: atOnce, ...roomOf({ kind }).fresh(), kind } as Step;
}

/** The name itself, or with the first number that makes it one of its own. */
export function freeName(name: string, taken: ReadonlySet<string>): string {
  const stem = name.replace(/ \d+$/, '');
  for (let n = 1; ; n++) {
    const next = n === 1 ? stem : `${stem} ${n}`;
    if (!taken.has(next)) return next;
  }
}
