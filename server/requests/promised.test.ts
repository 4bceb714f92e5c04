import { afterAll, afterEach, beforeAll, expect, it } from 'vitest';
import type { Plan } from '../../core/plans/index.ts';
import { passages } from '../../core/plans/index.ts';
import { step, tell } from '../../core/testing/samples.ts';
import { sentence } from '../../core/values/index.ts';
import { shiftClock, stopClock } from '../clock.ts';
import { world, type World } from '../testing/world.ts';
import { answerQuestion } from './commands.ts';
import { myRequest } from './queries.ts';

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
