import { isRow, rowId, type Row } from '../../values/index.ts';
import { rowRef } from '../place.ts';
import type { Catalogue } from '../catalogue.ts';
import type { AnyRoom } from '../room.ts';
import type { Step } from '../step.ts';
import { read, type RunContext, type Scope } from './context.ts';
import type { Activity } from './state.ts';

/** What a step reads does not depend on what its slots are called. */
const nameless: Catalogue = { actions: [], people: {} };
const cellsOf = new WeakMap<Step, string[]>();

/** The references of a step that name columns of rows; worked out once, as long as the plan is kept. */
export function cellsReadBy(room: AnyRoom, step: Step): string[] {
  let refs = cellsOf.get(step);
  if (!refs) cellsOf.set(step, (refs = (room.reads?.(step, nameless) ?? []).map((r) => r.ref).filter((ref) => rowRef(ref) !== undefined)));
  return refs;
}

/**
 * Asks for the rows whose columns are about to be read, as they are at this moment; true while they are waited for. `then` is what
 * goes on when they are there: the step begins, a stuck one is tried again, or it goes on where it stands, and asks here again.
 */
export function wantRows(
  context: RunContext,
  activity: Activity,
  scope: Scope,
  refs: readonly string[],
  then: NonNullable<Activity['reads']>,
): boolean {
  if (activity.rowsRead) {
    delete activity.rowsRead;
    return false;
  }
  const wanted = new Map<string, Row>();
  for (const ref of refs) {
    const base = rowRef(ref);
    const value = base === undefined ? undefined : read(context, scope, base);
    if (isRow(value)) wanted.set(rowId(value), value);
  }
  if (wanted.size === 0) return false;
  activity.phase = 'reading';
  activity.reads = then;
  context.effects.push({ effect: 'readRows', key: activity.key, rows: [...wanted.values()] });
  return true;
}
