import { unset } from '../finding.ts';
import type { Room } from '../room.ts';
import { ended } from '../run/context.ts';
import { workingWords } from '../words.ts';
import { Mark } from './settings.ts';

/** The room of this kind; `room.ts` says what each member means. */
export const mark: Room<Mark> = {
  verb: 'Mark',
  does: 'A milestone or status the requester sees',
  alsoCalled: ['milestone', 'status', 'progress', 'stage'],
  schema: () => Mark,
  fresh: () => ({ shows: 'milestone', words: '' }),
  isSure: () => true,
  milestone: (step) => (step.shows === 'milestone' ? step.words : undefined),
  steers: true,
  waitsForAdditions: true,
  lacks: (step) => (step.words.trim() ? [] : [unset(step, 'the words the requester sees')]),
  party: () => 'Requester',
  promisedIn: (step) => (step.shows === 'milestone' ? step.promised : undefined),
  sentence: (step) =>
    `${step.shows === 'milestone' ? 'The milestone' : 'From here on the status is'} “${step.words}”${step.shows === 'milestone' ? ` is reached${step.promised ? `, promised within ${workingWords(step.promised)}` : ''}` : ''}.${step.noReturn ? ' From here on the requester cannot withdraw.' : ''}`,
  settle: (context, step, activity) => {
    if (context.state.additions?.some((a) => a.to === step.id)) {
      activity.phase = 'held';
      return 'waiting';
    }
    const { state } = context;
    if (step.shows === 'milestone') state.reached = [...(state.reached ?? []), step.id];
    else state.shown = step.words;
    if (step.noReturn) state.noReturn = true;
    context.effects.push({ effect: 'mark', key: activity.key, step: step.id, shows: step.shows, words: step.words });
    return ended(context, activity, 'done');
  },
  settlesIn: ['held'],
  bpmn: (step, from, write) => write.simple('bpmn:IntermediateThrowEvent', step, from),
};
