import { own, setOwn } from '../boundary/index.ts';
import type { Step } from '../plans/index.ts';
import type { Value } from '../values/index.ts';
import { beginGuard, beginRepeat } from './flow.ts';
import { beginGate } from './gate.ts';
import { read, valueOf, valuesOf, type Go, type Scope } from './go.ts';
import { beginAskBack, beginFind, beginPause, beginProvision, beginTask } from './simple.ts';
import type { Activity } from './state.ts';

/** A new go at a step. */
export function beginStep(go: Go, step: Step, scope: Scope): Activity {
  const name = scope.prefix + step.id;
  const occurrence = setOwn(go.state.begun, name, (own(go.state.begun, name) ?? 0) + 1);
  const activity: Activity = { key: `${name}#${occurrence}`, step: step.id, phase: 'inside' };
  go.effects.push({ effect: 'began', key: activity.key, step: step.id, kind: step.kind, name: step.name, inputs: inputsOf(go, step, scope) });
  start(go, step, activity, scope);
  return activity;
}

/** The first move of a step, or of a stuck step tried again. Automatic steps make it when they are settled. */
export function start(go: Go, step: Step, activity: Activity, scope: Scope): void {
  activity.phase = 'inside';
  if (step.kind === 'gate') beginGate(go, step, activity, scope);
  if (step.kind === 'provision') beginProvision(go, step, activity, scope);
  if (step.kind === 'task') beginTask(go, step, activity, scope);
  if (step.kind === 'askBack') beginAskBack(go, step, activity, scope);
  if (step.kind === 'find') beginFind(go, step, activity, scope);
  if (step.kind === 'pause') beginPause(go, step, activity, scope);
  if (step.kind === 'repeat') beginRepeat(go, step, activity);
  if (step.kind === 'guard') beginGuard(go, step, activity);
}

/** What a step reads when it begins, for the trace. */
function inputsOf(go: Go, step: Step, scope: Scope): Record<string, Value> {
  const at = (name: string, ref: string | undefined): Record<string, Value> => (ref === undefined ? {} : { [name]: read(go, scope, ref) ?? null });
  switch (step.kind) {
    case 'provision':
    case 'part':
      return valuesOf(go, scope, step.inputs);
    case 'tell':
    case 'askBack':
      return at('to', step.to?.ref);
    case 'forEach':
      return at('list', step.list?.ref);
    case 'task':
      return step.assignee && 'from' in step.assignee ? at('person', step.assignee.from.ref) : {};
    case 'gate': {
      const a = step.approvers;
      if (!a || a.from === 'people' || a.from === 'team') return {};
      if (a.from === 'policy') return Object.fromEntries(Object.entries(a.inputs).map(([name, o]) => [name, valueOf(go, scope, o)]));
      return a.from === 'ownersOf' ? at('group', a.group.ref) : at('person', a.person.ref);
    }
    default:
      return {};
  }
}
