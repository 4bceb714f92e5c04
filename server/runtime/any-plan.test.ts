import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { newState, openActivities, replay, type RunEvent } from '../../core/engine/index.ts';
import { anyPlan } from '../../core/testing/samples.ts';
import { world, type World } from '../testing/world.ts';
import { definitionOf } from './definitions.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());

/** Generated plans on the real database and against the real directory, with decisions in any order and the directory in any mood. */
describe('any plan, on the real thing', () => {
  it('ends or waits for someone; the snapshot is what the events give; no membership is made twice', async () => {
    const { decide } = await import('../commands/approvals.ts');
    const { retryStep } = await import('../commands/stuck-steps.ts');
    const { withdrawRequest } = await import('../commands/requests.ts');
    const plans = fc.sample(
      anyPlan.filter((p) => p.steps.length > 0),
      { seed: 2026, numRuns: 14 },
    );
    const outcomes = new Set<string | null>();
    for (const [i, plan] of plans.entries()) {
      const item = await w.item(`Generated ${i}`, plan);
      const { id, number } = await w.ask(w.viewer('tor'), item.id, i % 3 === 0 ? 'orphan-files' : 'tide-models');
      const moves = fc.sample(fc.record({ mood: fc.constantFrom('well', 'well', 'failing', 'refusing'), yes: fc.boolean(), both: fc.boolean() }), {
        seed: i,
        numRuns: 8,
      });
      for (const move of moves) {
        await w.manner('directory', move.mood);
        await w.work();
        const waiting = (await w.approvals(id)).filter((a) => a.status === 'waiting').slice(0, move.both ? 2 : 1);
        const person = new Map(['boss', 'ina', 'olav', 'runa', 'dan', 'tor'].map((u) => [w.id(u), u]));
        // Two at once, when there are two: one transaction has to wait for the other.
        await Promise.all(
          waiting.map((a) =>
            decide(w.viewer(person.get(a.personId)!), { approvalId: a.id, decision: move.yes ? 'approve' : 'decline', comment: 'x' }),
          ),
        );
        const stuck = await w.query<{ key: string }>('select key from run_step where request_id = $1 and stuck_cause is not null', [id]);
        for (const s of stuck) await retryStep(w.viewer('dan', 'fulfiller'), { number, key: s.key });
      }
      await w.manner('directory', 'well');
      await w.work();
      const row = await w.request(id);
      if (row.state.status === 'open') expect(openActivities(row.state).length).toBeGreaterThan(0);
      const events = await w.query<{ event: RunEvent; at: Date }>(
        'select event, at from run_event where request_id = $1 and ignored is null order by id',
        [id],
      );
      const definition = await definitionOf(w.db(), row.revisionId);
      expect(
        replay(
          definition.plan,
          events.map((e) => ({ event: e.event, at: e.at.toISOString() })),
          newState(),
        ),
      ).toEqual(row.state);
      if (!row.outcome) await withdrawRequest(w.viewer('tor'), { number });
      outcomes.add((await w.request(id)).outcome);
      const unended = await w.query('select from run_step where request_id = $1 and ended_at is null', [id]);
      expect(unended).toEqual([]);
      expect(await w.query("select from approval a join gate g on g.id = a.gate_id where g.request_id = $1 and a.status = 'waiting'", [id])).toEqual(
        [],
      );
      expect(await w.query("select from call where request_id = $1 and status = 'waiting'", [id])).toEqual([]);
    }
    expect(outcomes.size).toBeGreaterThan(1);
    for (const group of ['tide-models', 'orphan-files']) {
      const members = (await w.scimGroup(group)).members.map((m) => m.value);
      expect(new Set(members).size).toBe(members.length);
    }
    const keys = (await w.journal()).flatMap((j) => (j.key ? [j.key] : []));
    expect(new Set(keys).size).toBe(keys.length);
  }, 300_000);
});
