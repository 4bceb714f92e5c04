import type { Value } from '../../core/values/index.ts';
import { aboutRequest, type Draft } from './draft.ts';

interface Thing {
  key: string;
  to: string;
  what: Value;
}

/** To whoever has something that somebody else takes back. */
export const takenBack = ({ key, to, what }: Thing, by: string, why: string): Draft => ({
  key,
  to,
  page: 'request',
  content: {
    subject: aboutRequest('Something of yours is taken back'),
    body: {
      text: [
        [{ ref: 'given.by' }, { text: ' takes back ' }, { ref: 'given.what' }, { text: ', which this request gave you.' }],
        [{ text: `“${why}”` }],
      ],
      values: { 'given.by': { person: by }, 'given.what': what },
    },
  },
});

/** To whoever has something until a day, when that is near. */
export const lentUntil = ({ key, to, what }: Thing, until: string): Draft => ({
  key,
  to,
  page: 'things',
  content: {
    subject: aboutRequest('Something of yours goes back soon'),
    body: {
      text: [
        [
          { ref: 'given.what' },
          { text: ': until ' },
          { ref: 'given.until' },
          { text: '. After that day it is taken back. Whether more time can be asked for stands beside it under My things.' },
        ],
      ],
      values: { 'given.what': what, 'given.until': until },
    },
  },
});

/** To the manager of somebody who leaves: what they hold goes back. `more`: there is more that is not named. */
export function leavesSoon({ who, to, lastDay, things, more }: { who: string; to: string; lastDay: string; things: Value[]; more: boolean }): Draft {
  const values = { 'leaves.who': { person: who }, 'leaves.on': lastDay };
  const named = Object.fromEntries(things.map((what, n) => [`leaves.${n}`, what]));
  return {
    key: `leaves:${who}:${lastDay}`,
    to,
    page: 'peoplesThings',
    content: {
      subject: { text: [[{ ref: 'leaves.who' }, { text: ' leaves on ' }, { ref: 'leaves.on' }]], values },
      body: {
        text: [
          [{ text: 'After that day what they hold is taken back:' }],
          ...things.map((_, n) => [{ text: '· ' }, { ref: `leaves.${n}` }]),
          ...(more ? [[{ text: '· and more' }]] : []),
        ],
        values: { ...values, ...named },
      },
    },
  };
}
