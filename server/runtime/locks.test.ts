import { afterAll, beforeAll, expect, it } from 'vitest';
import { passages, type Plan, type Step } from '../../core/plans/index.ts';
import { gate, step, tell } from '../../core/testing/samples.ts';
import { sentence } from '../../core/values/index.ts';
import { world, type World } from '../testing/world.ts';
import { connections } from '../db/database.ts';
import type { Result } from '../refusal.ts';
import { decide } from '../approvals/commands.ts';
import { answerQuestion, withdrawRequest } from '../requests/commands.ts';
import { giveBack } from '../holdings/commands.ts';
import { addToRequest } from '../requests/additions.ts';
import { retryStep, skipStep, takeOverStep } from '../runs/commands.ts';
import { correctRequest, finishTask, handOver, writeFromTask, saveTask, takeTask } from '../tasks/commands.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());

/** A gate, a task and a question that wait, and a step that is stuck, side by side. */
const waiting: Step[] = [
  gate({ approvers: { from: 'people', people: [{ person: 'ada' }] } }),
  step('task', 'do', { assignee: { team: 'desk' }, instructions: passages('Do it'), checklist: [], fields: [], corrects: ['reason'] }),
  step('askBack', 'ask', { question: sentence('Which?'), fields: [{ id: 'which', kind: 'text', label: 'Which', required: true }] }),
  step('provision', 'add', {
    action: 'directory.addMember',
    inputs: { group: { ref: 'form.group' }, person: { ref: 'request.requester' } },
    retries: { times: 0, firstPauseSeconds: 1, factor: 1 },
  }),
];
const plan: Plan = {
  steps: [
    step('together', 'all', { join: 'all', branches: waiting.map((s) => ({ id: `${s.id}Way`, name: s.name, block: [s] })) }),
    tell('end', 'End'),
  ],
};

type Made = { id: string; number: number };
const one = async (text: string, id: string) => (await w.query<{ id: string }>(text, [id]))[0]!.id;
const taskOf = (r: Made) => one('select id from task where run_id = $1 and closed_at is null', r.id);
const runa = () => w.viewer('runa', 'teamMember', 'administrator');

/** Whatever somebody may do to a run that is under way. */
const acts: Record<string, (r: Made) => Promise<Result>> = {
  'takes the task': async (r) => takeTask(runa(), { id: await taskOf(r), give: false }),
  'keeps what is filled in': async (r) => saveTask(runa(), { id: await taskOf(r), values: {}, checked: [] }),
  'finishes the task': async (r) => finishTask(runa(), { id: await taskOf(r), values: {}, checked: [] }),
  'corrects what was asked': async (r) => correctRequest(runa(), { id: await taskOf(r), values: { reason: 'For the spring' } }),
  'hands the task over': async (r) => handOver(runa(), { id: await taskOf(r), person: w.id('olav') }),
  'writes to the requester': async (r) => writeFromTask(runa(), { id: await taskOf(r), words: 'It is under way.' }),
  decides: async (r) =>
    decide(w.viewer('boss'), {
      approvalId: await one('select a.id from approval a join gate g on g.id = a.gate_id where g.run_id = $1', r.id),
      decision: 'approve',
      comment: '',
    }),
  answers: async (r) =>
    answerQuestion(w.viewer('ina'), {
      id: await one('select id from question where run_id = $1', r.id),
      values: { which: 'That' },
    }),
  withdraws: (r) => withdrawRequest(w.viewer('ina'), { number: r.number }),
  'adds a task': (r) =>
    addToRequest(runa(), { number: r.number, kind: 'task', name: 'One more', instructions: 'This too', to: 'end', team: w.teamId }),
  'gives something back': async (r) => {
    await w.query("insert into holding (person_id, kind, what, run_id, key, since) values ($1, 'group', 'null', $2, 'given#1', now())", [
      w.id('ina'),
      r.id,
    ]);
    await w.query(`update run set state = jsonb_set(state, '{given}', $2::jsonb) where id = $1`, [
      r.id,
      JSON.stringify([{ key: 'given#1', name: 'Given', action: 'directory.addMember', inputs: {}, outputs: {} }]),
    ]);
    return giveBack(w.viewer('ina'), { id: await one('select id from holding where run_id = $1', r.id), why: '' });
  },
  'tries again': (r) => retryStep(runa(), { number: r.number, key: 'add#1' }),
  skips: (r) => skipStep(runa(), { number: r.number, key: 'add#1', comment: 'Not needed' }),
  'takes over': (r) => takeOverStep(runa(), { number: r.number, key: 'add#1', comment: 'By hand', outputs: { already: 'false' } }),
};

// Two who act at once must never wait for each other: whoever has the run's row can have all that is of it.
it.each(Object.keys(acts))('whoever %s while somebody has the run waits for it before holding anything else of it', async (name) => {
  const made = await w.askPlan(plan, 'ina');
  await w.manner('directory', 'refusing');
  await w.work();
  await w.manner('directory', 'well');
  const holder = await connections().connect();
  try {
    await holder.query('begin');
    await holder.query('select 1 from run where id = $1 for update', [made.id]);
    let ended: Result | undefined;
    const act = acts[name]!(made).then((r) => (ended = r));
    const waits = async () =>
      (
        await w.query<{ n: number }>(
          `select count(*)::int as n from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'`,
        )
      )[0]!.n > 0;
    await expect.poll(async () => ended !== undefined || (await waits())).toBe(true);
    for (const table of ['task', 'gate', 'question', 'run_step', 'timer', 'message', 'holding'])
      await holder.query(`select 1 from ${table} where run_id = $1 for update nowait`, [made.id]);
    await holder.query('select 1 from approval a join gate g on g.id = a.gate_id where g.run_id = $1 for update of a nowait', [made.id]);
    await holder.query('commit');
    await act;
    expect(ended).toMatchObject({ ok: true });
  } finally {
    await holder.query('rollback');
    holder.release();
  }
});
