import { expect } from 'vitest';
import { newState, replay, type RunEvent } from '../../core/engine/index.ts';
import { definitionOf } from '../items/definitions.ts';
import type { World } from './world.ts';

/** The stored snapshot is what the stored events give, and every taken event has its number. */
export async function replays(w: World, runId: string): Promise<void> {
  const rows = await w.query<{ event: RunEvent; at: Date; seq: number; ignored: string | null }>(
    'select event, at, seq, ignored from run_event where run_id = $1 order by id',
    [runId],
  );
  const row = await w.request(runId);
  const taken = rows.filter((r) => !r.ignored);
  expect(taken.map((r) => r.seq)).toEqual(taken.map((_, i) => i + 1));
  const definition = await definitionOf(w.db(), row.revisionId!);
  const events = taken.map((r) => ({ event: r.event, at: r.at.toISOString() }));
  expect(replay(definition.plan, events, newState())).toEqual(row.state);
}
