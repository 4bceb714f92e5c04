import { atOnce, kindWords, roomOf, type Block, type PlanEdit, type Position, type Step, type StepKind } from '../steps/index.ts';
import { idFrom } from '../values/index.ts';
import { branches, stepIds, walk, withBranches } from './blocks.ts';
import type { Plan } from './plan.ts';

/** Structural edits only: each takes a plan and gives a plan; one that does not apply gives the same object. */
export function insertStep(plan: Plan, at: Position, step: Step): Plan {
  if (at === 'start') return { ...plan, steps: [step, ...plan.steps] };
  if ('into' in at) {
    return changeStep(plan, at.into, (host) => withBranches(host, (b) => (b.id === at.branch ? [step, ...b.block] : b.block)));
  }
  const beside = 'after' in at ? at.after : at.before;
  return changeBlocks(plan, (block) => {
    const index = block.findIndex((s) => s.id === beside);
    return index < 0 ? block : block.toSpliced('after' in at ? index + 1 : index, 0, step);
  });
}

/** Takes a step out to put it elsewhere: its key stays its own. */
const without = (plan: Plan, id: string): Plan =>
  changeBlocks(plan, (block) => (block.some((s) => s.id === id) ? block.filter((s) => s.id !== id) : block));

/** Takes a step out for good; its key is not given again. */
export const removeStep = (plan: Plan, id: string): Plan => retiring(plan, without(plan, id));

/** The keys of steps that a change took out are not given again. */
function retiring(before: Plan, after: Plan): Plan {
  if (after === before) return after;
  const left = stepIds(after);
  const gone = [...stepIds(before)].filter((id) => !left.has(id));
  return gone.length === 0 ? after : { ...after, retired: [...new Set([...(after.retired ?? []), ...gone])] };
}

/** The keys that no new step may have. */
const usedIds = (plan: Plan): Set<string> => new Set([...stepIds(plan), ...(plan.retired ?? [])]);

/** Puts a step in the place of the one with its key. */
export const replaceStep = (plan: Plan, step: Step): Plan => changeStep(plan, step.id, () => step);

/** Puts a copy after the step; every step in the copy gets an id and a name of its own. */
export function duplicateStep(plan: Plan, id: string): { plan: Plan; copy: string | undefined } {
  const original = [...walk(plan.steps)].find((w) => w.step.id === id)?.step;
  if (!original) return { plan, copy: undefined };
  return pasteSteps(plan, [original], { after: id });
}

/**
 * Puts copies of steps, of this plan or another, at a position. Each gets an id and a name not used yet; what they
 * read of each other is read of the copies. Steps that were cut out of this very plan (`home`) come back as they were. What
 * steps of another item (`elsewhere`) read there does not belong here, even where a key is the same: it comes unbound, for
 * the check to find.
 */
export function pasteSteps(
  plan: Plan,
  steps: Block,
  at: Position,
  from: 'here' | 'home' | 'elsewhere' = 'here',
): { plan: Plan; copy: string | undefined } {
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
  const inserted = copies.toReversed().reduce((p, copy) => insertStep(p, at, copy), plan);
  const back = new Set(ids.values());
  const retired = inserted.retired?.filter((id) => !back.has(id));
  return { plan: { ...inserted, ...(retired && { retired }) }, copy: copies[0]?.id };
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

/** Puts a step into a new compound step that stands in its place. */
export function wrapStep(plan: Plan, id: string, kind: Wrapping): { plan: Plan; wrapper: string | undefined } {
  const found = [...walk(plan.steps)].find((w) => w.step.id === id)?.step;
  if (!found) return { plan, wrapper: undefined };
  const outer = newStep(plan, kind);
  const first = branches(outer)[0]!.id;
  const wrapper = withBranches(outer, (b) => (b.id === first ? [found] : b.block));
  return {
    plan: changeBlocks(plan, (block) => (block.some((s) => s.id === id) ? block.map((s) => (s.id === id ? wrapper : s)) : block)),
    wrapper: wrapper.id,
  };
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

/** Every position a step can be moved to: beside any step that is not inside it, and into any branch that is empty. */
export function positionsFor(plan: Plan, id: string): Position[] {
  const moved = [...walk(plan.steps)].find((w) => w.step.id === id)?.step;
  if (!moved) return [];
  const inside = new Set([...walk([moved])].map((w) => w.step.id));
  const found: Position[] = [];
  for (const { step, index } of walk(plan.steps)) {
    if (inside.has(step.id)) continue;
    if (index === 0) found.push({ before: step.id });
    found.push({ after: step.id });
    for (const b of branches(step)) if (b.block.length === 0) found.push({ into: step.id, branch: b.id });
  }
  return found;
}

/** Carries out the mechanical mend of a finding. */
export function applyEdit(plan: Plan, edit: PlanEdit): Plan {
  if ('replace' in edit) return replaceStep(plan, edit.replace);
  if ('remove' in edit) return removeStep(plan, edit.remove);
  return 'insert' in edit ? insertStep(plan, edit.at, edit.insert) : moveTo(plan, edit.move, edit.to);
}

/** Moves a step one place earlier or later; at the edge of its block it comes out beside the step that holds it. */
export function moveStep(plan: Plan, id: string, way: 'earlier' | 'later'): Plan {
  const here = [...walk(plan.steps)].find((w) => w.step.id === id);
  if (!here) return plan;
  const next = here.index + (way === 'earlier' ? -1 : 1);
  const neighbour = here.block[next];
  if (neighbour) {
    return changeBlocks(plan, (block) => (block.some((s) => s.id === id) ? block.toSpliced(here.index, 1).toSpliced(next, 0, here.step) : block));
  }
  if (!here.parent) return plan;
  const host = here.parent.step.id;
  return insertStep(without(plan, id), way === 'earlier' ? { before: host } : { after: host }, here.step);
}

/** Moves a step to a position that is not inside itself. */
export function moveTo(plan: Plan, id: string, at: Position): Plan {
  const step = [...walk(plan.steps)].find((w) => w.step.id === id)?.step;
  if (!step) return plan;
  const inside = new Set([...walk([step])].map((w) => w.step.id));
  const target = at === 'start' ? '' : 'into' in at ? at.into : 'after' in at ? at.after : at.before;
  return inside.has(target) ? plan : insertStep(without(plan, id), at, step);
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

/** Rewrites every block, innermost first; blocks that come back the same keep their identity. */
function changeBlocks(plan: Plan, change: (block: Block) => Block): Plan {
  const deep = (block: Block): Block => {
    const inner = block.map((step) => (branches(step).length === 0 ? step : rebuilt(step)));
    const same = inner.every((s, i) => s === block[i]);
    return change(same ? block : inner);
  };
  const rebuilt = (step: Step): Step => {
    let touched = false;
    const next = withBranches(step, (b) => {
      const block = deep(b.block);
      touched ||= block !== b.block;
      return block;
    });
    return touched ? next : step;
  };
  const steps = deep(plan.steps);
  return steps === plan.steps ? plan : { ...plan, steps };
}

const changeStep = (plan: Plan, id: string, change: (step: Step) => Step): Plan =>
  changeBlocks(plan, (block) => (block.some((s) => s.id === id) ? block.map((s) => (s.id === id ? change(s) : s)) : block));
