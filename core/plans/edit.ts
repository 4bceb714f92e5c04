import { idFrom, sentence } from '../values/index.ts';
import { branches, kindWords, stepIds, walk, withBranches, type Block, type Plan, type Step, type StepKind } from './plan.ts';

/** Where a step can be put: beside another, or at the beginning of a branch or of the plan. */
export type Position = { after: string } | { before: string } | { into: string; branch: string } | 'start';

/** Structural edits only: each takes a plan and gives a plan; one that does not apply gives the same object. */
export function insertStep(plan: Plan, at: Position, step: Step): Plan {
  if (at === 'start') return { steps: [step, ...plan.steps] };
  if ('into' in at) {
    return changeStep(plan, at.into, (host) => withBranches(host, (b) => (b.id === at.branch ? [step, ...b.block] : b.block)));
  }
  const beside = 'after' in at ? at.after : at.before;
  return changeBlocks(plan, (block) => {
    const index = block.findIndex((s) => s.id === beside);
    return index < 0 ? block : block.toSpliced('after' in at ? index + 1 : index, 0, step);
  });
}

export const removeStep = (plan: Plan, id: string): Plan =>
  changeBlocks(plan, (block) => (block.some((s) => s.id === id) ? block.filter((s) => s.id !== id) : block));

export const replaceStep = (plan: Plan, step: Step): Plan => changeStep(plan, step.id, () => step);

/** Puts a copy after the step; every step in the copy gets an id and a name of its own. */
export function duplicateStep(plan: Plan, id: string): { plan: Plan; copy: string | undefined } {
  const taken = stepIds(plan);
  const names = new Set([...walk(plan.steps)].map((w) => w.step.name));
  const rename = (step: Step): Step => {
    const name = freeName(step.name, names);
    const copyId = idFrom(name, taken);
    taken.add(copyId);
    names.add(name);
    return { ...withBranches(step, (b) => b.block.map(rename)), id: copyId, name };
  };
  const original = [...walk(plan.steps)].find((w) => w.step.id === id)?.step;
  if (!original) return { plan, copy: undefined };
  const copy = rename(original);
  return { plan: insertStep(plan, { after: id }, copy), copy: copy.id };
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
  return insertStep(removeStep(plan, id), way === 'earlier' ? { before: host } : { after: host }, here.step);
}

/** Moves a step to a position that is not inside itself. */
export function moveTo(plan: Plan, id: string, at: Position): Plan {
  const step = [...walk(plan.steps)].find((w) => w.step.id === id)?.step;
  if (!step) return plan;
  const inside = new Set([...walk([step])].map((w) => w.step.id));
  const target = at === 'start' ? '' : 'into' in at ? at.into : 'after' in at ? at.after : at.before;
  return inside.has(target) ? plan : insertStep(removeStep(plan, id), at, step);
}

/** A fresh step of a kind, with a name and id not used yet and its settings unset for the check to find. */
export function newStep(plan: Plan, kind: StepKind): Step {
  const names = new Set([...walk(plan.steps)].map((w) => w.step.name));
  const name = freeName(kindWords[kind].verb, names);
  const base = { id: idFrom(name, stepIds(plan)), name, expected: { min: 'PT0S', likely: 'PT0S', max: 'PT0S' } };
  switch (kind) {
    case 'gate':
      return { ...base, kind, expected: { min: 'PT15M', likely: 'PT4H', max: 'P3D' }, rule: { rule: 'first' }, ownRequest: 'skip' };
    case 'provision':
      return { ...base, kind, inputs: {} };
    case 'tell':
      return { ...base, kind, to: { ref: 'request.requester' }, subject: sentence(''), body: sentence('') };
    case 'choose':
      return { ...base, kind, cases: [{ id: 'case1', name: 'First case', block: [] }], otherwise: [] };
    case 'finish':
      return { ...base, kind, outcome: 'fulfilled' };
  }
}

function freeName(name: string, taken: ReadonlySet<string>): string {
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
  return steps === plan.steps ? plan : { steps };
}

const changeStep = (plan: Plan, id: string, change: (step: Step) => Step): Plan =>
  changeBlocks(plan, (block) => (block.some((s) => s.id === id) ? block.map((s) => (s.id === id ? change(s) : s)) : block));
