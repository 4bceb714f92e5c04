import { own, setOwn } from '../boundary/index.ts';
import { cellsReadBy, wantRows, type ActiveStep, type Activity, type RunContext, type Scope, type Step } from '../steps/index.ts';
import type { RowRead } from '../values/index.ts';

/** A new go at a step. Where it reads columns of rows, it begins when they are there. */
export function beginStep(context: RunContext, step: Step, scope: Scope): Activity {
  const name = scope.prefix + step.id;
  const occurrence = setOwn(context.state.begun, name, (own(context.state.begun, name) ?? 0) + 1);
  const activity: Activity = { key: `${name}#${occurrence}`, step: step.id, phase: 'inside' };
  if (!wantRows(context, activity, scope, cellsReadBy(context.room(step), step), 'begin')) begun(context, step, activity, scope);
  return activity;
}

function begun(context: RunContext, step: Step, activity: Activity, scope: Scope): void {
  const inputs = context.room(step).inputs?.(context, step, scope) ?? {};
  context.effects.push({ effect: 'began', key: activity.key, step: step.id, kind: step.kind, name: step.name, inputs });
  start(context, step, activity, scope);
}

/** The first move of a step. Automatic steps make it when they are settled. */
function start(context: RunContext, step: Step, activity: Activity, scope: Scope): void {
  activity.phase = 'inside';
  context.room(step).start?.(context, step, activity, scope);
}

/** A stuck step is tried again, with what it reads as it is now. */
export function startAgain(context: RunContext, step: Step, activity: Activity, scope: Scope): void {
  if (!wantRows(context, activity, scope, cellsReadBy(context.room(step), step), 'again')) start(context, step, activity, scope);
}

/** The rows it waited for are there: it begins, is tried again, or goes on where it stood. */
export function goOnWithRows(context: RunContext, { step, activity, scope }: ActiveStep, rows: RowRead[]): void {
  const all = (context.state.rows ??= []);
  for (const row of rows) {
    const at = all.findIndex((r) => r.key === row.key && r.table === row.table);
    if (at < 0) all.push(row);
    else all[at] = row;
  }
  const then = activity.reads;
  delete activity.reads;
  activity.phase = 'inside';
  if (then === 'begin') begun(context, step, activity, scope);
  else if (then === 'again') start(context, step, activity, scope);
  else activity.rowsRead = true;
}
