import type { RichText, Value } from '../../core/values/index.ts';
import { aboutRequest, type Draft } from './draft.ts';

/** A task that is late, as those who hear of it need to know it. */
export interface LateTask {
  id: string;
  key: string;
  name: string;
  dueAt: Date;
  instructions: RichText;
}

const since = (t: LateTask, words: string, more: RichText, values: Record<string, Value> = {}) => ({
  text: [[{ text: `${words} since ` }, { ref: 'task.due' }, { text: '.' }], ...more],
  values: { 'task.due': t.dueAt.toISOString(), ...values },
});

/** To whoever has it, or to each of its team. */
export const taskIsLate = (t: LateTask, to: string): Draft => ({
  key: t.key,
  to,
  page: `task:${t.id}`,
  content: { subject: aboutRequest(`Late: ${t.name}`), body: since(t, 'It has been due', t.instructions) },
});

/** To somebody who is to know of it; the task stays where it is. `has`: who has it. */
export const lateTaskTold = (t: LateTask, to: string, has: Value): Draft => ({
  key: t.key,
  to,
  content: {
    subject: aboutRequest(`Late: ${t.name}`),
    body: since(t, 'It has been due', [[{ text: 'It is with ' }, { ref: 'task.has' }, { text: '.' }]], { 'task.has': has }),
  },
});

/** To whoever has it from now on. */
export const lateTaskForYou = (t: LateTask, to: string): Draft => ({
  key: t.key,
  to,
  page: `task:${t.id}`,
  content: { subject: aboutRequest(`Late, and yours now: ${t.name}`), body: since(t, 'It comes to you because it has been due', t.instructions) },
});

/** To whoever had it so far. */
export const lateTaskGone = (t: LateTask, to: string, has: Value): Draft => ({
  key: t.key,
  to,
  content: {
    subject: aboutRequest(`Handed over: ${t.name}`),
    body: since(t, 'It is not with you any more, because it has been due', [[{ text: 'It is with ' }, { ref: 'task.has' }, { text: ' now.' }]], {
      'task.has': has,
    }),
  },
});
