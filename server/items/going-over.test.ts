import { afterAll, beforeAll, expect, it } from 'vitest';
import { newState, replay } from '../../core/engine/index.ts';
import type { Plan } from '../../core/plans/index.ts';
import { add, gate, tell } from '../../core/testing/samples.ts';
import { decide } from '../approvals/commands.ts';
import { definitionOf } from './definitions.ts';
import { goOver, requestsBehind, underWayBy } from './going-over.ts';
import { publish, saveDraft } from './commands.ts';
import { draftOf } from './queries.ts';
import { world, type World } from '../testing/world.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());

it('requests that wait go over where what they have done is the same, each looked at again under its lock; the others stay, and say why', async () => {
  const dan = w.viewer('dan', 'designer');
  const plan: Plan = { steps: [gate(), add, tell('t', 'Tell the end')] };
  const item = await w.item('Going over', plan);
  const publishAs = async (steps: Plan['steps']) => {
    const draft = (await draftOf(dan, item.id))!;
    const saved = await saveDraft(dan, { id: item.id, version: draft.version, draft: { ...draft.draft, plan: { ...draft.draft.plan, steps } } });
    if (!saved.ok) throw new Error(saved.sentence);
    expect(await publish(dan, { id: item.id, version: saved.version, note: '' })).toMatchObject({ ok: true });
  };
  const approve = async (runId: string) => {
    const [waiting] = await w.query<{ id: string }>(
      `select a.id from approval a join gate g on g.id = a.gate_id where g.run_id = $1 and a.person_id = $2`,
      [runId, w.id('ina')],
    );
    expect(await decide(w.viewer('ina'), { approvalId: waiting!.id, decision: 'approve', comment: '' })).toMatchObject({ ok: true });
  };
  const [first, second, third] = [
    await w.ask(w.viewer('tor'), item.id),
    await w.ask(w.viewer('runa'), item.id),
    await w.ask(w.viewer('dan'), item.id),
  ];
  await approve(third.id);
  expect(await underWayBy(dan, item.id)).toEqual({ 1: 3 });
  const placed = (await draftOf(dan, item.id))!.draft.plan.steps;
  const news = { ...tell('news', 'Tell the news'), subject: [[{ text: 'Your access is being made' }]] };
  await publishAs([placed[0]!, news, ...placed.slice(1)]);
  expect(await requestsBehind(dan, item.id)).toEqual({
    to: 2,
    next: undefined,
    requests: [
      { number: first.number, revision: 1, why: undefined },
      { number: second.number, revision: 1, why: undefined },
      { number: third.number, revision: 1, why: '“Add to the group” has begun where the new revision has “Tell the news”.' },
    ],
  });
  // Another revision comes in between: what was looked at does not count any more.
  expect(await goOver(dan, { itemId: item.id, to: 1 })).toMatchObject({ ok: false, code: 'changed-meanwhile' });
  // One moves on before they are moved.
  await approve(second.id);
  expect(await goOver(dan, { itemId: item.id, to: 2 })).toEqual({ ok: true, moved: 1, stay: 2 });
  expect(await underWayBy(dan, item.id)).toEqual({ 1: 2, 2: 1 });
  expect(await goOver(dan, { itemId: item.id, to: 2 })).toEqual({ ok: true, moved: 0, stay: 2 });
  // It goes on under the new revision, and its events alone give what is kept.
  await approve(first.id);
  await w.work();
  expect(await w.request(first.id)).toMatchObject({ outcome: 'fulfilled' });
  const subjects = async (run: string) =>
    (await w.query<{ subject: string }>('select subject from message where run_id = $1', [run])).filter((m) => m.subject.startsWith('Your access'))
      .length;
  expect([await subjects(first.id), await subjects(second.id)]).toEqual([1, 0]);
  const [kept] = await w.query<{ revision: string; state: { document: object } }>('select revision_id as revision, state from run where id = $1', [
    first.id,
  ]);
  const events = await w.query<{ event: never; at: Date }>('select event, at from run_event where run_id = $1 and ignored is null order by id', [
    first.id,
  ]);
  const whole = replay(
    (await definitionOf(w.db(), kept!.revision)).plan,
    events.map((e) => ({ event: e.event, at: e.at.toISOString() })),
    newState(),
  );
  expect(kept!.state).toMatchObject(JSON.parse(JSON.stringify(whole)) as object);
  expect(await w.query("select detail from change_log where action = 'go-over'")).toEqual([{ detail: { revision: 2, requests: [first.number] } }]);
});
