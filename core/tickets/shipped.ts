import type { Move, Mover, Status, StatusMap } from '../statuses/index.ts';
import { usualGrid, type TicketPromise } from '../targets/index.ts';
import { sentence } from '../values/index.ts';
import type { TicketKind } from './kind.ts';

const status = (id: string, name: string, clock: Status['clock'], words: string, more: Partial<Status> = {}): Status => ({
  id,
  name,
  clock,
  words,
  tells: [],
  ...more,
});
const moves = (who: Mover[], ...ways: [from: string, to: string, needs?: string[]][]): Move[] =>
  ways.map(([from, to, needs = []]) => ({ from, to, who, needs }));

/** Five working days: how long a question stays open, and how long something done can be said not to be. Common practice, no source. */
const fiveDays = { length: 'P5D', counted: 'working' } as const;

const incidentMap: StatusMap = {
  begin: 'fresh',
  statuses: [
    status('fresh', 'New', 'runs', 'new'),
    status('read', 'Read', 'answers', 'we have read it', { tells: sentence('We have read it and will look into it.') }),
    status('inWork', 'In work', 'runs', 'somebody is on it'),
    status('waiting', 'Waiting for you', 'holds', 'we asked you something', { answered: 'inWork', passes: { after: fiveDays, to: 'done' } }),
    status('done', 'Done', 'ends', 'done, tell us if not', {
      tells: sentence('It is done. Write back within five working days if it is not.'),
      answered: 'inWork',
      passes: { after: fiveDays, to: 'closed' },
    }),
    status('closed', 'Closed', 'ends', 'closed'),
  ],
  moves: [
    ...moves(['team'], ['fresh', 'read'], ['fresh', 'inWork'], ['read', 'inWork'], ['waiting', 'inWork']),
    ...moves(['team'], ['fresh', 'waiting', ['word']], ['read', 'waiting', ['word']], ['inWork', 'waiting', ['word']]),
    ...moves(['team'], ['fresh', 'done', ['word']], ['read', 'done', ['word']], ['inWork', 'done', ['word']], ['waiting', 'done', ['word']]),
    ...moves(['team', 'requester'], ['done', 'inWork', ['word']], ['done', 'closed']),
  ],
};

/** High 4 h, medium 8 h, low 24 h, and a first word within a quarter of it: common practice, no source. */
const usualPromises: TicketPromise[] = (
  [
    ['high', 'PT4H', 'PT1H'],
    ['medium', 'PT8H', 'PT2H'],
    ['low', 'PT24H', 'PT6H'],
  ] as const
).flatMap(([priority, done, answered]) =>
  [{ of: 'response', length: answered } as const, { of: 'fulfilment', length: done } as const].map(({ of, length }) => ({
    of,
    priorities: [priority],
    places: [],
    within: { length, counted: 'working' as const },
    warnAt: 75,
    late: { tell: 'holder' as const },
  })),
);

const common = { offered: true, form: { fields: [] }, desk: [], priority: usualGrid, promises: usualPromises, replies: [] };

/** Something does not work as it should. */
const incident: TicketKind = {
  ...common,
  name: 'Incident',
  summary: 'Something does not work as it should.',
  categories: [],
  map: incidentMap,
};

/** A wish for which there is no item. */
const request: TicketKind = {
  ...common,
  name: 'Request',
  summary: 'Something you need that is not among the items.',
  categories: [],
  map: incidentMap,
};

/** Something is to be changed, agreed to before it is done and looked at after. */
const change: TicketKind = {
  ...common,
  name: 'Change',
  summary: 'Something is to be changed, weighed before and looked at after.',
  offered: false,
  categories: [],
  map: {
    begin: 'proposed',
    statuses: [
      status('proposed', 'Proposed', 'runs', 'proposed'),
      status('weighed', 'Weighed', 'answers', 'we are weighing it'),
      status('planned', 'Planned', 'holds', 'it has a day'),
      status('underWay', 'Under way', 'runs', 'it is being done'),
      status('done', 'Done', 'ends', 'done', { tells: sentence('The change is done.') }),
      status('refused', 'Refused', 'ends', 'not done', { tells: sentence('The change will not be done.') }),
    ],
    moves: [
      ...moves(['team'], ['proposed', 'weighed'], ['weighed', 'planned'], ['planned', 'underWay'], ['weighed', 'underWay'], ['underWay', 'planned']),
      ...moves(['team'], ['proposed', 'refused', ['word']], ['weighed', 'refused', ['word']], ['underWay', 'done'], ['planned', 'weighed']),
    ],
  },
};

/** What lies behind incidents. */
const problem: TicketKind = {
  ...common,
  name: 'Problem',
  summary: 'What lies behind incidents that come again.',
  offered: false,
  categories: [],
  promises: [],
  map: {
    begin: 'seen',
    statuses: [
      status('seen', 'Seen', 'runs', 'seen'),
      status('lookedInto', 'Looked into', 'answers', 'we are looking into it'),
      status('known', 'Known', 'holds', 'we know why'),
      status('done', 'Done', 'ends', 'done'),
    ],
    moves: [
      ...moves(['team'], ['seen', 'lookedInto'], ['lookedInto', 'known'], ['known', 'lookedInto'], ['lookedInto', 'done'], ['known', 'done']),
      ...moves(['team'], ['done', 'lookedInto']),
    ],
  },
};

/** The kinds of ticket that ship; designers change them and make their own. */
export const shippedKinds: readonly TicketKind[] = [incident, request, change, problem];
