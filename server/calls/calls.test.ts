import express from 'express';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { step, tell } from '../../core/testing/samples.ts';
import { machinePark } from '../../demo/machine-park.ts';
import { machines } from '../../standins/machines.ts';
import { signed } from '../../standins/signed-post.ts';
import { shiftClock } from '../clock.ts';
import { setSystemOwners } from '../consents/commands.ts';
import { callBack } from '../http/call-back.ts';
import { retryStep, takeOverStep } from '../runs/commands.ts';
import { trace } from '../runs/queries.ts';
import { withdrawRequest } from '../requests/commands.ts';
import { sweep } from '../runtime/sweep.ts';
import { keepWebSystem } from '../systems/commands.ts';
import { loopback } from '../testing/loopback.ts';
import { replays } from '../testing/replays.ts';
import { world, type World } from '../testing/world.ts';
import { useSettings } from '../config.ts';
import { tendCall } from './tend.ts';

/** Systems that accept first and answer later, against the machine park over real HTTP. */
const answerKey = 'the-tide-comes-and-the-tide-goes-again';
let w: World;
let park: string;
let ours: string;
let system: string;
const on = loopback();
const json = async <T>(method: string, url: string, body?: object): Promise<T> =>
  (await (await fetch(url, { method, headers: { 'content-type': 'application/json' }, ...(body && { body: JSON.stringify(body) }) })).json()) as T;

beforeAll(async () => {
  w = await world();
  const web = express();
  web.post('/api/v1/calls/:call/answer', callBack);
  ours = await on.listen(web);
  useSettings({ ...(w.settings as unknown as Record<string, string>), PUBLIC_URL: ours });
  park = await on.listen(machines({ token: 'key-of-the-park', answerKey }));
});
afterAll(async () => {
  shiftClock(0);
  await on.close();
  await w.close();
});
beforeEach(() => shiftClock(0));

/** Registers the park: asked about, called back, or both. */
async function registered(name: string, how: { asked?: boolean; callsBack?: boolean }): Promise<string> {
  const whole = machinePark(`${park}/park`);
  const definition = {
    ...whole,
    name,
    actions: whole.actions.map(({ later, ...a }) => ({
      ...a,
      ...(later && { later: { ...later, callsBack: how.callsBack ?? false, ...(!how.asked && { asked: undefined }) } }),
    })),
  };
  const made = await keepWebSystem(w.viewer('dan', 'administrator'), { definition, secret: 'key-of-the-park', answerKey });
  if (!made.ok) throw new Error(`${made.sentence} ${JSON.stringify(made.problems)}`);
  await setSystemOwners('host', { system: made.id, people: [w.id('boss')] });
  return (system = made.id);
}
const builds = (ms: number, ends = 'well') => json('POST', `${park}/_build`, { ms, ends });
const journal = () => json<{ change: string; id: string; key?: string }[]>('GET', `${park}/_journal`);
const soon = (ms: number) => new Promise((done) => setTimeout(done, ms));
/** Does what is open of calls until this holds. */
async function until(what: () => Promise<boolean>, tend = true): Promise<void> {
  for (let i = 0; i < 60; i++) {
    if (tend) await w.work();
    if (await what()) return;
    await soon(50);
  }
  throw new Error('It did not come to that.');
}

async function asksForOne() {
  const make = step('provision', 'make', {
    action: `web.${system}.make`,
    inputs: { size: { literal: 'Medium' }, region: { literal: 'hall' }, days: { literal: 14 }, owner: { ref: 'request.requester' } },
    retries: { times: 1, firstPauseSeconds: 1, factor: 1 },
    note: { to: { ref: 'request.requester' }, openFor: 'P3D' },
  });
  const wait = step('task', 'wait', { assignee: { team: 'desk' }, instructions: [{ text: [[{ text: 'Look at it' }]] }], checklist: [], fields: [] });
  return w.askPlan({ undoWhen: ['withdrawn'], steps: [make, wait, tell('end', 'End')] });
}
const callOf = async (runId: string, key = 'make#1') =>
  (
    await w.query<{ id: string; status: string; progress: string; job: string; asked: number; round: number; closed_at: Date | null }>(
      'select * from call where run_id = $1 and key = $2 order by round desc limit 1',
      [runId, key],
    )
  )[0]!;
const said = async (runId: string) =>
  (
    await w.query<{ words: string }>(
      "select t.how || ' ' || t.ok || ': ' || t.said as words from call_try t join call c on c.id = t.call_id where c.run_id = $1 and c.key = 'make#1' order by c.round, t.n",
      [runId],
    )
  ).map((t) => t.words);
const stepOf = async (runId: string, key = 'make#1') =>
  (
    await w.query<{ stuck_cause: string | null; end: string | null; outputs: Record<string, unknown> }>(
      'select stuck_cause, "end", outputs from run_step where run_id = $1 and key = $2',
      [runId, key],
    )
  )[0];
const held = (runId: string) =>
  w.query<{ key: string; what: string; kind: string; ended: boolean }>(
    'select key, kind, what, ended_at is not null as ended from holding where run_id = $1 order by since, key',
    [runId],
  );
describe('asked again', () => {
  beforeAll(() => registered('Park that is asked', { asked: true }));

  it('accepted, asked about with what it says on the way, then done: the machine is a holding of whom it is for', async () => {
    await builds(700);
    const { id, number } = await asksForOne();
    await w.work();
    const first = await callOf(id);
    expect(first).toMatchObject({ status: 'accepted', closed_at: null, job: expect.stringMatching(/^m-/) });
    expect((await stepOf(id))!.end).toBeNull();
    await until(async () => (await callOf(id)).status === 'succeeded');
    const words = await said(id);
    expect(words[0]).toMatch(/^sent yes: Accepted: Finding room for it/);
    expect(words.at(-1)).toBe('asked yes: Done');
    expect(words.length).toBeGreaterThan(2);
    expect((await stepOf(id))!.outputs).toMatchObject({ id: first.job, address: `${first.job}.science.skerrin.example` });
    expect(await held(id)).toEqual([{ key: 'make#1', kind: 'machine', what: `${first.job}.science.skerrin.example`, ended: false }]);
    expect((await trace(w.viewer('dan', 'auditor'), number))!).toMatchObject({ sealed: false });
    await replays(w, id);
  });

  it('fails half way: the step says why; tried again it is another machine', async () => {
    await builds(100, 'halfway');
    const { id, number } = await asksForOne();
    await until(async () => (await stepOf(id))!.stuck_cause !== null);
    expect((await stepOf(id))!.stuck_cause).toBe('Park that is asked could not do it: The image could not be copied.');
    await builds(0);
    expect(await retryStep(w.viewer('dan', 'administrator'), { number, key: 'make#1' })).toEqual({ ok: true });
    await until(async () => (await stepOf(id))!.end === 'done');
    expect(await callOf(id)).toMatchObject({ status: 'succeeded', round: 1 });
    expect((await held(id)).map((h) => h.key)).toEqual(['make#1/1']);
  });

  it('withdrawn while it is built: it is seen through, known as held, and taken down again', async () => {
    await builds(400);
    const { id, number } = await asksForOne();
    await w.work();
    const { job } = await callOf(id);
    expect(await withdrawRequest(w.viewer('tor'), { number })).toEqual({ ok: true });
    expect(await callOf(id)).toMatchObject({ status: 'cancelled', closed_at: null });
    await until(async () => (await held(id)).some((h) => h.ended));
    expect(await held(id)).toMatchObject([{ key: 'make#1', ended: true }]);
    expect((await journal()).filter((j) => j.id === job).map((j) => j.change)).toEqual(['made', 'taken down']);
    expect(await said(id)).toContain('asked yes: Done, after it was not needed any more');
  });

  it('withdrawn while it was sent by a worker that died: sent again under its key, so that what it gave is known, and taken down', async () => {
    await builds(0);
    const { id, number } = await asksForOne();
    await w.query('update call set begun_at = now() where run_id = $1', [id]);
    expect(await withdrawRequest(w.viewer('tor'), { number })).toEqual({ ok: true });
    expect(await callOf(id)).toMatchObject({ status: 'cancelled', closed_at: null });
    await until(async () => (await held(id)).some((h) => h.ended));
    expect((await journal()).filter((j) => j.key?.includes(id)).map((j) => j.change)).toEqual(['made', 'taken down']);
    await replays(w, id);
  });

  it('withdrawn before it was sent: it is never made', async () => {
    const before = (await journal()).length;
    const { id, number } = await asksForOne();
    expect(await withdrawRequest(w.viewer('tor'), { number })).toEqual({ ok: true });
    expect(await callOf(id)).toMatchObject({ status: 'cancelled', closed_at: expect.any(Date) });
    await w.work();
    expect(await journal()).toHaveLength(before);
  });

  it('never ready: given up in its time with the sentence, asked about for a week more, and taken when it comes after all', async () => {
    await builds(60_000);
    const { id } = await asksForOne();
    await w.work();
    shiftClock(2 * 3_600_000 + 1000);
    await w.work();
    expect((await stepOf(id))!.stuck_cause).toBe('It was accepted and not answered within 2 h. Its answer is still taken when it comes.');
    expect(await callOf(id)).toMatchObject({ status: 'late', closed_at: null });
    // The park gets on with it, and the step with its answer.
    const { job } = await callOf(id);
    await json('POST', `${park}/_hurry/${job}`);
    await w.work();
    expect(await stepOf(id)).toMatchObject({ stuck_cause: null, end: 'done' });
    expect(await said(id)).toContain('asked yes: Done, after it had been given up');
    expect(await held(id)).toMatchObject([{ key: 'make#1', ended: false }]);
  });

  it('never at all: after a week nobody asks any more; done by hand meanwhile', async () => {
    await builds(0, 'never');
    const { id, number } = await asksForOne();
    await w.work();
    shiftClock(3 * 3_600_000);
    await w.work();
    expect(
      await takeOverStep(w.viewer('dan', 'administrator'), {
        number,
        key: 'make#1',
        comment: 'Made in the hall',
        outputs: { id: 'h-1', address: 'h-1.hall.skerrin.example', until: '2026-12-31' },
      }),
    ).toEqual({ ok: true });
    expect((await held(id)).map((h) => h.key)).toEqual(['make#1/hand']);
    shiftClock(8 * 86_400_000);
    await w.work();
    expect(await callOf(id)).toMatchObject({ status: 'late', closed_at: expect.any(Date) });
  });

  it('down while it is asked: that is told and asked again; a job of it that was lost is found by the sweep', async () => {
    await builds(300);
    const { id } = await asksForOne();
    await w.work();
    const call = await callOf(id);
    await json('POST', `${park}/_manner`, { manner: 'failing' });
    await tendCall(call.id);
    await json('POST', `${park}/_manner`, { manner: 'well' });
    expect((await said(id)).at(-1)).toMatch(/^asked no: .*answered 503: The park is down\.$/);
    expect(await callOf(id)).toMatchObject({ status: 'accepted', asked: 1 });
    await w.query('select graphile_worker.complete_jobs(array_agg(id)) from graphile_worker._private_jobs where key = $1', [`call:${call.id}`]);
    await w.query("update call set due_at = now() - interval '5 minutes' where id = $1", [call.id]);
    await sweep();
    expect(await w.query('select 1 from graphile_worker._private_jobs where key = $1', [`call:${call.id}`])).toHaveLength(1);
    await until(async () => (await callOf(id)).status === 'succeeded');
  });

  it('knows nothing of it any more: that is an end, with its sentence', async () => {
    await builds(60_000);
    const { id } = await asksForOne();
    await w.work();
    await json('POST', `${park}/_lose/${(await callOf(id)).job}`);
    await w.work();
    expect((await stepOf(id))!.stuck_cause).toBe('Park that is asked knows nothing of it any more (404).');
  });
});

describe('called back', () => {
  beforeAll(() => registered('Park that calls', { callsBack: true }));

  it('signed, and taken once however often it comes', async () => {
    await builds(150, 'twice');
    const { id } = await asksForOne();
    await w.work();
    await until(async () => (await callOf(id)).status === 'succeeded', false);
    await until(async () => (await said(id)).length >= 3, false);
    expect(await said(id)).toEqual([
      expect.stringMatching(/^sent yes: Accepted/),
      'calledBack yes: Done',
      'calledBack yes: It came again, and changed nothing.',
    ]);
    expect(await held(id)).toHaveLength(1);
  });

  it('forged, unsigned, changed, old, or the very same again: refused, told apart, and kept', async () => {
    await builds(0, 'never');
    const { id } = await asksForOne();
    await w.work();
    const call = await callOf(id);
    const to = `${ours}/api/v1/calls/${call.id}/answer`;
    const ready = { id: 'm-7', state: 'running', address: 'm-7.science.skerrin.example', until: '2026-12-31', signIn: 'from-the-park' };
    const post = async ({ headers, body }: { headers: Record<string, string>; body: string }) => {
      const answer = await fetch(to, { method: 'POST', headers, body });
      return [answer.status, Object.values((await answer.json()) as object).at(-1) as string];
    };
    const good = await signed(to, ready, answerKey);
    const whose = 'It was not signed with the key that is kept for this system.';
    const old = 'Its signature cannot be taken: Signature is too old.';
    const cases: [{ headers: Record<string, string>; body: string }, string][] = [
      [{ headers: {}, body: good.body }, 'Its Content-Digest (sha-256) is not that of what it says.'],
      [{ headers: { 'content-digest': good.headers['content-digest']! }, body: good.body }, 'It is not signed.'],
      [{ ...good, body: good.body.replace('m-7', 'm-8') }, 'Its Content-Digest (sha-256) is not that of what it says.'],
      [await signed(to, ready, 'somebody-elses-key-of-enough-characters'), whose],
      // Signed for another call.
      [await signed(to.replace(call.id, crypto.randomUUID()), ready, answerKey), whose],
      [await signed(to, ready, answerKey, new Date(Date.now() - 10 * 60_000)), old],
      [await signed(to, ready, answerKey, new Date(Date.now() + 10 * 60_000)), old],
      [{ ...good, headers: { ...good.headers, signature: 'sig=:AAAA:' } }, whose],
    ];
    for (const [message, sentence] of cases) expect(await post(message)).toEqual([401, sentence]);
    expect((await fetch(to.replace(call.id, crypto.randomUUID()), { method: 'POST', body: '{}' })).status).toBe(404);
    expect((await fetch(to, { method: 'POST', body: 'x'.repeat(1_100_000) })).status).toBe(413);
    expect((await said(id)).slice(1)).toEqual(cases.map(([, sentence]) => `calledBack no: An answer was called back and not taken. ${sentence}`));
    expect((await callOf(id)).status).toBe('accepted');
    expect(await held(id)).toEqual([]);
    // What is true is taken once; the very same again is told apart from what says the same again.
    expect(await post(await signed(to, { id: 'm-7', state: 'building', progress: 'Nearly there' }, answerKey))).toEqual([200, 'progress']);
    expect(await callOf(id)).toMatchObject({ status: 'accepted', progress: 'Nearly there' });
    expect(await post(good)).toEqual([200, 'answer']);
    expect(await post(good)).toEqual([409, 'This very answer was sent before.']);
    expect(await post(await signed(to, ready, answerKey))).toEqual([200, 'again']);
    expect(await callOf(id)).toMatchObject({ status: 'succeeded' });
    expect(await held(id)).toHaveLength(1);
    await replays(w, id);
  });

  it('never heard of while it was sent, and done all the same: the step goes on when that is called back', async () => {
    await builds(0);
    // The park makes it, and its answer gets lost on the way, each time.
    const { id } = await asksForOne();
    await json('POST', `${park}/_manner`, { manner: 'failing' });
    await until(async () => (await stepOf(id))!.stuck_cause !== null);
    await json('POST', `${park}/_manner`, { manner: 'well' });
    const call = await callOf(id);
    expect(call).toMatchObject({ status: 'late', closed_at: expect.any(Date) });
    const to = `${ours}/api/v1/calls/${call.id}/answer`;
    const ready = { id: 'm-9', state: 'running', address: 'm-9.science.skerrin.example', until: '2026-12-31', signIn: 'from-the-park' };
    const answer = await fetch(to, { method: 'POST', ...(await signed(to, ready, answerKey)) });
    expect(await answer.json()).toEqual({ taken: 'late' });
    expect(await stepOf(id)).toMatchObject({ stuck_cause: null, end: 'done' });
    expect(await held(id)).toHaveLength(1);
    await replays(w, id);
  });

  it('too late by the clock: a machine that was given up is held beside the one that was made by hand, and both are taken down', async () => {
    await builds(500);
    const { id, number } = await asksForOne();
    await w.work();
    shiftClock(2 * 3_600_000 + 1000);
    await w.work();
    expect((await stepOf(id))!.stuck_cause).toContain('not answered within 2 h');
    shiftClock(0);
    await builds(0);
    await retryStep(w.viewer('dan', 'administrator'), { number, key: 'make#1' });
    await w.work();
    await until(async () => (await held(id)).length === 2, false);
    expect((await held(id)).map((h) => h.key).sort()).toEqual(['make#1', 'make#1/1']);
    await withdrawRequest(w.viewer('tor'), { number });
    await until(async () => (await held(id)).every((h) => h.ended));
    expect((await journal()).slice(-2).map((j) => j.change)).toEqual(['taken down', 'taken down']);
  });
});

describe('registering', () => {
  it('refuses what could never be answered, and says where', async () => {
    const admin = w.viewer('dan', 'administrator');
    const whole = machinePark(`${park}/park`);
    const withLater = (later: object) => ({
      ...whole,
      name: 'Refused',
      actions: [{ ...whole.actions[0]!, later: { ...whole.actions[0]!.later, ...later } }],
    });
    expect(await keepWebSystem(admin, { definition: withLater({}), secret: '' })).toMatchObject({
      code: 'invalid',
      problems: [{ field: 'answerKey' }],
    });
    expect(await keepWebSystem(admin, { definition: withLater({}), secret: '', answerKey: 'short' })).toMatchObject({
      problems: [{ field: 'answerKey' }],
    });
    for (const [later, sentence] of [
      [{ asked: undefined, callsBack: false }, /asked for, or it calls back/],
      [{ within: 'PT10S' }, /a minute at least/],
      [{ within: 'P100D' }, /90 days at most/],
      [{ asked: { path: '/machines', job: '/id', firstPauseSeconds: 5, mostPauseSeconds: 300 } }, /\{job\}/],
      [{ asked: { path: '/m/{job}', job: '/id', firstPauseSeconds: 500, mostPauseSeconds: 300 } }, /not shorter than the first/],
      [{ state: { at: '/state', done: [], failed: [] } }, /which word means that it is done/],
    ] as [object, RegExp][]) {
      const refused = await keepWebSystem(admin, { definition: withLater(later), secret: '', answerKey });
      expect(refused, JSON.stringify(later)).toMatchObject({ ok: false, code: 'invalid', sentence: expect.stringMatching(sentence) });
    }
  });
});
