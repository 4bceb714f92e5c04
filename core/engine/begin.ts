import { own, setOwn } from '../boundary/index.ts';
import type { Activity, Go, Scope, Step } from '../steps/index.ts';

/** A new go at a step. */
export function beginStep(go: Go, step: Step, scope: Scope): Activity {
  const name = scope.prefix + step.id;
  const occurrence = setOwn(go.state.begun, name, (own(go.state.begun, name) ?? 0) + 1);
  const activity: Activity = { key: `${name}#${occurrence}`, step: step.id, phase: 'inside' };
  const inputs = go.room(step).inputs?.(go, step, scope) ?? {};
  go.effects.push({ effect: 'began', key: activity.key, step: step.id, kind: step.kind, name: step.name, inputs });
  start(go, step, activity, scope);
  return activity;
}

/** The first move of a step, or of a stuck step tried again. Automatic steps make it when they are settled. */
export function start(go: Go, step: Step, activity: Activity, scope: Scope): void {
  activity.phase = 'inside';
  go.room(step).start?.(go, step, activity, scope);
}
