import { own, setOwn } from '../boundary/index.ts';
import type { Activity, RunContext, Scope, Step } from '../steps/index.ts';

/** A new go at a step. */
export function beginStep(context: RunContext, step: Step, scope: Scope): Activity {
  const name = scope.prefix + step.id;
  const occurrence = setOwn(context.state.begun, name, (own(context.state.begun, name) ?? 0) + 1);
  const activity: Activity = { key: `${name}#${occurrence}`, step: step.id, phase: 'inside' };
  const inputs = context.room(step).inputs?.(context, step, scope) ?? {};
  context.effects.push({ effect: 'began', key: activity.key, step: step.id, kind: step.kind, name: step.name, inputs });
  start(context, step, activity, scope);
  return activity;
}

/** The first move of a step, or of a stuck step tried again. Automatic steps make it when they are settled. */
export function start(context: RunContext, step: Step, activity: Activity, scope: Scope): void {
  activity.phase = 'inside';
  context.room(step).start?.(context, step, activity, scope);
}
