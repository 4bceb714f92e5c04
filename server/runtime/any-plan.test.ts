import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openActivities } from '../../core/engine/index.ts';
import { anyPlan, wideCatalogue } from '../../core/testing/any-plan.ts';
import { wideForm } from '../../core/testing/samples.ts';
import { playParty, viewerFor } from '../testing/parties.ts';
import { replays } from '../testing/replays.ts';
import { world, type World } from '../testing/world.ts';
import { withdrawRequest } from '../requests/commands.ts';
import { checkItem, stops } from '../../core/checks/index.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());

/** Generated plans of every step kind on the real database and against the real directory, with the parties in any order and the directory in any mood. */
describe('any plan, on the real thing', () => {
  it('ends or waits for someone; the snapshot is what the events give; nothing is done twice', async () => {
    const plans = fc.sample(
      anyPlan.filter((p) => p.steps.length > 0 && stops(checkItem(wideForm, p, wideCatalogue)).length === 0),
      { seed: 2027, numRuns: 24 },
    );
    const admin = viewerFor(w.id('dan'), 'administrator');
    const outcomes = new Set<string | null>();
    for (const [i, plan] of plans.entries()) {
      const item = await w.item(`Generated ${i}`, plan, wideForm);
      const crew = ['ina', 'runa', 'dan'].map((u) => ({ person: w.id(u) }));
      const { id, number } = await w.ask(w.viewer('tor'), item.id, i % 3 === 0 ? 'orphan-files' : 'tide-models', {
        crew,
        cores: 2,
        by: { team: w.teamId },
        price: { amount: '1250.50', currency: 'EUR' },
        machine: w.machine,
        from: '2026-03-04',
      });
      const numbers = fc.sample(fc.nat(), { seed: i, numRuns: 400 });
      const chance = (n: number) => (n === 0 ? 0 : (numbers.pop() ?? 0) % n);
      for (let move = 0; move < 10; move++) {
        await w.manner('directory', ['well', 'well', 'failing', 'refusing'][chance(4)]!);
        await w.work();
        await playParty(id, admin, chance);
      }
      await w.manner('directory', 'well');
      await w.work();
      const row = await w.request(id);
      if (row.state.status === 'open') expect(openActivities(row.state).length).toBeGreaterThan(0);
      await replays(w, id);
      if (!row.outcome) await withdrawRequest(w.viewer('tor'), { number });
      // Where its plan has a closing for that, it ends with it: those who are asked there answer, letters and calls of it come.
      for (let ending = 0; ending < 30 && (await w.request(id)).state.ending; ending++) {
        await w.work();
        await playParty(id, admin, () => 0);
      }
      outcomes.add((await w.request(id)).outcome);
      // Past a point of no return it cannot be withdrawn, nor while it is wound up, in tries that come to nothing: it waits for somebody.
      if (!(await w.request(id)).outcome) {
        const { noReturn, ending } = (await w.request(id)).state;
        expect(noReturn === true || ending !== undefined).toBe(true);
        continue;
      }
      // What is to be taken back is taken back, by as many calls as it needs.
      for (let undo = 0; undo < 30 && (await w.request(id)).state.undoing; undo++) {
        await w.work();
        await playParty(id, admin, () => 0);
      }
      await replays(w, id);
      const left = async (query: string) => expect(await w.query(query, [id]), query).toEqual([]);
      await left('select name from run_step where run_id = $1 and ended_at is null');
      await left("select 1 from approval a join gate g on g.id = a.gate_id where g.run_id = $1 and a.status in ('waiting', 'later')");
      await left('select 1 from task where run_id = $1 and closed_at is null');
      await left('select 1 from question where run_id = $1 and closed_at is null');
      await left("select 1 from call where run_id = $1 and status = 'waiting'");
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
