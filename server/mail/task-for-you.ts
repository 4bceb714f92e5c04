import type { RichText } from '../../core/values/index.ts';
import { aboutRequest, type Draft } from './draft.ts';

/** To each of a team that a task has come to; whoever takes it has it. */
export const taskForTeam = (task: { id: string; key: string; name: string; team: string; instructions: RichText }, to: string): Draft => ({
  key: task.key,
  to,
  page: `task:${task.id}`,
  content: { subject: aboutRequest(`Task for ${task.team}: ${task.name}`), body: { text: task.instructions, values: {} } },
});

/** To the person a task is given to. */
export const taskForYou = (task: { id: string; key: string; name: string; personId: string; instructions: RichText }): Draft => ({
  key: task.key,
  to: task.personId,
  page: `task:${task.id}`,
  content: { subject: aboutRequest(`Task for you: ${task.name}`), body: { text: task.instructions, values: {} } },
});
