import { addAlways } from '../../../core/calendar/index.ts';
import {
  jobIn,
  pathOf,
  pauseBefore,
  standingIn,
  webActionSpecs,
  webOutputs,
  webRequest,
  type WebAction,
  type WebSystem,
} from '../../../core/systems/index.ts';
import { unseal } from '../../auth/seal.ts';
import type { Action, AnswersLater, Reply } from '../action.ts';
import { detailOf } from '../client.ts';
import { PermanentError, TransientError } from '../errors.ts';
import { sendWeb, type Registered } from './send.ts';
import { wordsOf } from './words.ts';

/** An action of a registered HTTP system. */
export function webAction(row: Registered, action: WebAction): Action {
  const system = row.definition;
  const spec = webActionSpecs(row.id, system).find((s) => s.id.endsWith(`.${action.id}`))!;
  return {
    spec,
    run: async (inputs, idempotencyKey, answerTo) => {
      const asked = webRequest(action, inputs);
      if (!asked.ok) throw new PermanentError(`${system.name}: ${asked.sentence}`);
      const answer = await sendWeb(row, {
        method: action.method,
        path: asked.path,
        body: asked.body,
        headers: { 'idempotency-key': `"${idempotencyKey}"`, ...(action.later?.callsBack && { 'nessmoor-answer-to': answerTo }) },
      });
      if (action.goneIsDone && isGone(answer.status)) return { is: 'done', outputs: {} };
      if (answer.status >= 400) throw new PermanentError(`${system.name} refused with ${answer.status}${detailOf(answer.body)}.`);
      const reply = replyIn(system, action, answer.status, answer.body, answer.retryAfter);
      // Asked for again under its key it may say so; without that nobody could follow what it made.
      if (reply.is === 'accepted' && reply.job === undefined && action.later?.asked)
        throw new TransientError(`${system.name} accepted it, and said nothing at “${action.later.asked.job}” by which it can be asked about.`);
      return reply;
    },
    ...(action.later && { later: laterOf(row, action, action.later) }),
  };
}

/** There is no such thing, or none any more (RFC 9110, sections 15.5.5 and 15.5.11). */
const isGone = (status: number): boolean => status === 404 || status === 410;

function laterOf(row: Registered, action: WebAction, later: NonNullable<WebAction['later']>): AnswersLater {
  const system = row.definition;
  const { asked, cancel } = later;
  const { sealedAnswerKey } = row;
  const ask =
    asked &&
    (async (job: string): Promise<Reply> => {
      const answer = await sendWeb(row, { method: 'GET', path: pathOf(asked.path, job), headers: {} });
      if (action.goneIsDone && isGone(answer.status)) return { is: 'done', outputs: {} };
      if (isGone(answer.status)) throw new PermanentError(`${system.name} knows nothing of it any more (${answer.status}).`);
      // That we may not ask, or asked wrongly, says nothing of what is asked about.
      if (answer.status >= 400) throw new TransientError(`${system.name} did not say how it stands (${answer.status}${detailOf(answer.body)}).`);
      return replyIn(system, action, answer.status, answer.body, answer.retryAfter);
    });
  return {
    by: (accepted) => new Date(addAlways(accepted.toISOString(), later.within)),
    pauseBefore: (nth, wanted) => (asked ? pauseBefore(asked, nth, wanted) : 86_400),
    ...(ask && { ask }),
    ...(ask &&
      cancel && {
        cancel: async (job: string) => {
          const headers = { 'idempotency-key': `"cancel ${encodeURIComponent(job)}"` };
          await sendWeb(row, { method: cancel.method, path: pathOf(cancel.path, job), headers });
          // Whether it was not needed soon enough, or wants to hear nothing of that: how it stands says what became of it.
          return ask(job);
        },
      }),
    ...(later.words && { words: wordsOf(row, later.words) }),
    ...(later.callsBack &&
      sealedAnswerKey !== null && {
        callsBack: { key: () => unseal(sealedAnswerKey), read: (body: unknown) => replyIn(system, action, 200, body, 0) },
      }),
  };
}

/** What an answer that went well says of what was asked for. */
function replyIn(system: WebSystem, action: WebAction, status: number, body: unknown, wait: number): Reply {
  if (body === undefined && (action.outputs.length > 0 || action.later?.state))
    throw new PermanentError(`${system.name} answered something that is not JSON.`);
  const standing = action.later ? standingIn(action.later, status, body) : { is: 'done' as const };
  if (standing.is === 'failed') throw new PermanentError(`${system.name} could not do it: ${standing.cause.replace(/\.$/, '')}.`);
  if (standing.is === 'underWay') return { is: 'accepted', job: jobIn(action.later!, body), progress: standing.progress, wait };
  const read = webOutputs(action, body);
  if (!read.ok) throw new PermanentError(`${system.name}: ${read.sentence}`);
  return { is: 'done', outputs: read.outputs, job: action.later && jobIn(action.later, body) };
}
