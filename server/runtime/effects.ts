import type { Effect } from '../../core/engine/index.ts';
import type { Tx } from '../db/database.ts';
import { watchPromises } from '../requests/tell-promises.ts';
import { writeMessages } from '../mail/write.ts';
import { questions } from '../steps/ask-back.ts';
import { gates } from '../steps/gate.ts';
import { meetings } from '../steps/invite.ts';
import { calls, holdings } from '../steps/provision.ts';
import { tasks } from '../steps/task.ts';
import { tells } from '../steps/tell.ts';
import { letters } from '../steps/write.ts';
import { answers } from './answers.ts';
import type { About, Batch, Writer } from './batch.ts';
import { writeSteps } from './steps.ts';
import { writeTimers } from './timers.ts';

/** Who writes what people and systems are asked, told and given; in the order in which it is said. */
const writers: Writer[] = [tells, gates, tasks, questions, answers, calls, holdings, letters, meetings];

/** Effects that stand in the trace and in the timers only, or that others speak for. */
const everyday = new Set<Effect['effect']>(['began', 'ended', 'stuck', 'retry', 'mark', 'timer', 'cancelTimers']);

/** Writes everything that the effects of many runs call for, in the same few statements however many there are. */
export async function writeEffects(tx: Tx, batches: Batch[], at: Date): Promise<void> {
  await writeSteps(tx, batches, at);
  await writeTimers(tx, batches);
  await watchPromises(tx, batches);
  const special = batches.filter(({ effects }) => !effects.every((e) => everyday.has(e.effect)));
  const drafts: About[] = [];
  for (const write of writers) drafts.push(...(await write(tx, special, at)));
  await writeMessages(tx, drafts, at);
}
