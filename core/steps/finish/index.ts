import { own } from '../../boundary/index.ts';
import { isEmpty } from '../../values/index.ts';
import { unset } from '../finding.ts';
import type { Room } from '../room.ts';
import { ended, fail, finish as endRun, type Scope } from '../run/context.ts';
import { outcomeWords } from '../settings.ts';
import { Finish } from './settings.ts';

/** The words of the decline that led here. */
function lastComment(scope: Scope): string | undefined {
  const declined = Object.values(scope.outputs)
    .filter((o) => own(o, 'outcome') === 'declined')
    .at(-1);
  const comment = declined?.['comment'];
  return typeof comment === 'string' && !isEmpty(comment) ? comment : scope.outer && lastComment(scope.outer);
}

/** The room of this kind; `room.ts` says what each member means. */
export const finish: Room<Finish> = {
  verb: 'Finish',
  does: 'End the request here, with an outcome',
  alsoCalled: ['end', 'stop', 'close', 'cancel', 'reject'],
  schema: () => Finish,
  fresh: () => ({ outcome: 'fulfilled' }),
  flow: () => ({ is: 'ends' }),
  isSure: () => true,
  lacks: (step) =>
    step.outcome
      ? []
      : [
          {
            ...unset(step, 'an outcome'),
            code: 'no-outcome',
            fix: { words: 'Make it Fulfilled', edit: { replace: { ...step, outcome: 'fulfilled' } } },
          },
        ],
  party: () => 'Requester',
  sentence: (step) => `End as ${step.outcome ? outcomeWords[step.outcome] : 'nothing set'}.`,
  settle: (context, step, activity, scope) => {
    if (!step.outcome) return fail(context, scope, activity, `“${step.name}” has no outcome set.`);
    ended(context, activity, 'done');
    return endRun(context, step.outcome, step.outcome === 'declined' ? lastComment(scope) : undefined);
  },
  bpmn: (step, from, write) => {
    write.simple('bpmn:EndEvent', step, from, {
      eventDefinitions: [write.make('bpmn:TerminateEventDefinition', { id: write.idOf(step, '_now') })],
    });
    return undefined;
  },
};
