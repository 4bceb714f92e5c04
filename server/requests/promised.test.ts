import { afterAll, afterEach, beforeAll, expect, it } from 'vitest';
import type { Plan } from '../../core/plans/index.ts';
import { passages } from '../../core/plans/index.ts';
import { step, tell } from '../../core/testing/samples.ts';
import { sentence } from '../../core/values/index.ts';
import { shiftClock, stopClock } from '../clock.ts';
import { and, eq, like } from 'drizzle-orm';
import type { ItemDefinition } from '../../core/items/index.ts';
import { connections, db } from '../db/database.ts';
import { definitionOf } from '../items/definitions.ts';
import { message, person, run, teamMember } from '../db/schema/index.ts';
import { world, type World } from '../testing/world.ts';
import { answerQuestion } from './commands.ts';
import { myRequest } from './queries.ts';
import { promisedOf, type PromisedRun } from './promised.ts';
import { tellPromises } from './tell-promises.ts';

// What is promised of a request: as a whole, and its milestones.

let w: World;
beforeAll(async () => {
  w = await world();
});
afterEach(() => shiftClock(0));
afterAll(() => w.close());

const itIs = (iso: string) => stopClock(new Date(iso));
const plan: Plan = {
  steps: [
    step('askBack', 'which', { question: sentence('Which?'), fields: [{ id: 'which', kind: 'text', label: 'Which', required: true }] }),
    step('mark', 'known', { shows: 'milestone', words: 'We know which', promised: 'PT4H' }),
    step('task', 'do', { assignee: { team: 'desk' }, instructions: passages('Do it'), checklist: [], fields: [] }),
    step('mark', 'there', { shows: 'milestone', words: 'It is there', promised: 'PT6H' }),
    tell('end', 'End'),
  ],
};

it('counts in working time from asking, less what waits for whoever asked; a milestone that is reached stands as it did then', async () => {
  // Wednesday, 25 November 2026: the desk is open from 8 to 16.
  itIs('2026-11-25T09:00:00Z');
  const made = await w.askPlan(plan, 'tor');
  const seen = async () => (await myRequest(w.viewer('tor'), made.number))!;
  const [first] = (await seen()).questions;
  expect((await seen()).milestones.map((m) => [m.words, m.standing?.phase, m.standing?.due])).toEqual([
    ['We know which', 'held', undefined],
    ['It is there', 'held', undefined],
  ]);
  expect((await seen()).promised).toBeUndefined();

  // Answered after two hours, which do not count: four hours are over at 15:00, six at 9:00 on the next day.
  itIs('2026-11-25T11:00:00Z');
  expect(await answerQuestion(w.viewer('tor'), { id: first!.id, values: { which: 'That' } })).toMatchObject({ ok: true });
  itIs('2026-11-26T08:30:00Z');
  const [known, there] = (await seen()).milestones;
  expect(known).toMatchObject({ reached: true, standing: { phase: 'stopped', late: false, used: 0 } });
  expect(there).toMatchObject({ reached: false, standing: { phase: 'running', due: '2026-11-26T09:00:00.000Z', used: 330, left: 30, late: false } });
  itIs('2026-11-26T09:30:00Z');
  expect((await seen()).milestones[1]!.standing).toMatchObject({ late: true, left: -30 });
});

it('is told to the team that watches it: near once, late once, to each of them; not while an answer is waited for, nor twice however often it is looked at', async () => {
  itIs('2026-11-25T09:00:00Z');
  const watched: Partial<ItemDefinition> = { promise: 'P1D', watched: { at: 50, team: w.teamId } };
  const { id } = await w.item('Sounding of a berth', plan, undefined, watched);
  const made = await w.ask(w.viewer('tor'), id);
  const looked = async () => {
    const [row] = await db().select({ tellAt: run.tellAt, toldOf: run.toldOf }).from(run).where(eq(run.id, made.id));
    return row!;
  };
  const told = async () =>
    (
      await db()
        .select({ to: person.userName, subject: message.subject, text: message.text })
        .from(message)
        .innerJoin(person, eq(person.id, message.toId))
        .where(and(eq(message.runId, made.id), like(message.key, 'promise:%')))
        .orderBy(message.createdAt, person.userName)
    ).map((m) => `${m.to}: ${m.subject} | ${m.text.split('\n').slice(0, 2).join(' | ')}`);
  const waiting = () =>
    w.query<{ at: Date }>(`select run_at as at from graphile_worker._private_jobs where key = $1`, [`promises:${made.id}`]).then((r) => r[0]?.at);
  // It is looked at as soon as it is asked for; while its answer is waited for there is no moment.
  expect(await waiting()).toBeDefined();
  await tellPromises(made.id);
  expect(await looked()).toEqual({ tellAt: null, toldOf: [] });

  itIs('2026-11-25T11:00:00Z');
  const [first] = (await myRequest(w.viewer('tor'), made.number))!.questions;
  await answerQuestion(w.viewer('tor'), { id: first!.id, values: { which: 'That' } });
  await tellPromises(made.id);
  // The milestone of six hours is near after three, at 14:00; the whole, a day, after four.
  expect((await looked()).tellAt).toEqual(new Date('2026-11-25T14:00:00Z'));
  expect(await waiting()).toEqual(new Date('2026-11-25T14:00:00Z'));

  itIs('2026-11-25T14:00:00Z');
  await Promise.all([tellPromises(made.id), tellPromises(made.id)]);
  const members = await db().$count(teamMember, eq(teamMember.teamId, w.teamId));
  const near = await told();
  expect(near).toHaveLength(members);
  expect(near[0]).toContain(
    `Soon due: Sounding of a berth, “It is there”, R-${made.number} | 3 h of the promised 6 h are left. | It stands at “task do”`,
  );
  itIs('2026-11-26T12:00:00Z');
  await tellPromises(made.id);
  const late = (await told()).slice(near.length);
  expect(late).toHaveLength(2 * members);
  expect(late.some((m) => m.includes('Late: Sounding of a berth, R-'))).toBe(true);
  expect(late.some((m) => m.includes('Late: Sounding of a berth, “It is there”'))).toBe(true);
  // What is late at once is not said to be near.
  expect(late.filter((m) => m.includes('Soon due'))).toEqual([]);
  expect(await looked()).toMatchObject({ tellAt: null });
  const all = await told();
  await tellPromises(made.id);
  expect(await told()).toEqual(all);
});

it('of any number of runs is reckoned with the same few questions to the database', async () => {
  const { id } = await w.item('Sounding of many berths', plan, undefined, { promise: 'P1D' });
  const all: PromisedRun[] = [];
  for (const who of ['tor', 'ina', 'olav', 'runa']) {
    const made = await w.ask(w.viewer(who), id);
    const definition = await definitionOf(db(), (await w.request(made.id)).revisionId!);
    all.push({ id: made.id, openedAt: new Date(), endedAt: null, requesterId: w.id(who), definition });
  }
  const asked = async (runs: PromisedRun[]) => {
    const real = connections();
    let n = 0;
    const count = () => void n++;
    real.on('acquire', count);
    const found = await promisedOf(runs);
    real.off('acquire', count);
    expect(found.size).toBe(runs.length);
    return n;
  };
  await asked(all);
  expect(await asked(all)).toBe(await asked(all.slice(0, 1)));
});
