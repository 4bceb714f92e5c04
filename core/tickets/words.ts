import { everStatus } from '../statuses/index.ts';
import { levelWords, type PromisedThing } from '../targets/index.ts';
import type { TicketKind } from './kind.ts';
import type { TicketEvent } from './state.ts';

/** What is promised, in words. */
export const promisedWords: Record<PromisedThing, string> = { response: 'first word', fulfilment: 'done' };

const refusals = {
  declined: 'did not agree to moving it to',
  lapsed: 'nobody answered, so that it was not moved to',
  failed: 'nobody could be asked, so that it was not moved to',
} as const;
const causes = {
  person: '',
  gate: ', as was agreed',
  answer: ' with the answer',
  time: ' by itself, after its time',
  map: ' because its statuses were changed',
} as const;
const reasons = { hours: 'service hours were changed', kind: 'its kind was changed', place: 'it is at another place' } as const;

/** What happened to a ticket in a sentence without its subject: “moved it to In work”. `names` gives a team or a person by id; `moment` an instant in words. */
export function eventWords(
  kind: TicketKind,
  event: TicketEvent,
  names: (of: 'team' | 'person', id: string) => string,
  moment: (at: string) => string,
): string {
  const status = (id: string) => `“${everStatus(kind.map, id)?.name ?? id}”`;
  const because = (why: string | undefined) => (why ? `: ${why}` : '');
  switch (event.type) {
    case 'opened':
      return `opened it, ${levelWords(kind.priority.priorities, event.priority)} priority${event.team ? `, for ${names('team', event.team)}` : ''}`;
    case 'moved':
      return `moved it to ${status(event.to)}${causes[event.cause]}`;
    case 'asked':
      return `asked to move it to ${status(event.to)}`;
    case 'unasked':
      return `took back the asking to move it to ${status(event.to)}`;
    case 'notAgreed':
      return `${refusals[event.why]} ${status(event.to)}${because(event.words)}`;
    case 'answered':
      return 'gave the first word';
    case 'given': {
      const whom = [event.holder && names('person', event.holder), event.team && names('team', event.team)].filter(Boolean);
      return `${whom.length === 0 ? 'gave it to nobody' : `gave it to ${whom.join(', ')}`}${because(event.why)}`;
    }
    case 'judged':
      return `set its priority to ${levelWords(kind.priority.priorities, event.priority)} (${levelWords(kind.priority.impacts, event.impact)}; ${levelWords(kind.priority.urgencies, event.urgency)})${because(event.why)}`;
    case 'recounted':
      return `reckoned anew, as ${reasons[event.why]}: ${event.was ? `was due ${moment(event.was)}` : 'was not due'}, now ${event.due ? moment(event.due) : 'not due'}`;
    case 'joined':
      return `joined it to T-${event.number}, where it is dealt with`;
    case 'parted':
      return 'took it out of the ticket it was joined to';
    case 'told':
      return event.that === 'late'
        ? `told that the promise (${promisedWords[event.of]}) is broken`
        : `told that the promise (${promisedWords[event.of]}) is near`;
  }
}
