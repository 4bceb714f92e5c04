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

/** To whoever was given something by a condition that holds of them no more. */
export const heldNoMore = ({ key, to, what }: Thing, why: string): Draft => ({
  key,
  to,
  page: 'request',
  content: {
    subject: { text: [[{ ref: 'given.what' }, { text: ' is taken back' }]], values: { 'given.what': what } },
    body: {
      text: [
        [{ ref: 'given.what' }, { text: ', which this request gave you, is taken back. ' }, { text: why }],
        [{ text: 'If you need it all the same, ask for it.' }],
      ],
      values: { 'given.what': what },
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

/** What somebody holds, line by line, with the values of those lines. */
const listed = (things: Value[], more: boolean) => ({
  lines: [...things.map((_, n) => [{ text: '· ' }, { ref: `held.${n}` }]), ...(more ? [[{ text: '· and more' }]] : [])],
  values: Object.fromEntries(things.map((what, n) => [`held.${n}`, what])),
});

/** To the manager of somebody who leaves: what they hold goes back. `more`: there is more that is not named. */
export function leavesSoon({ who, to, lastDay, things, more }: { who: string; to: string; lastDay: string; things: Value[]; more: boolean }): Draft {
  const values = { 'leaves.who': { person: who }, 'leaves.on': lastDay };
  const held = listed(things, more);
  return {
    key: `leaves:${who}:${lastDay}`,
    to,
    page: 'peoplesThings',
    content: {
      subject: { text: [[{ ref: 'leaves.who' }, { text: ' leaves on ' }, { ref: 'leaves.on' }]], values },
      body: { text: [[{ text: 'After that day what they hold is taken back:' }], ...held.lines], values: { ...values, ...held.values } },
    },
  };
}

/** To the manager of somebody who has another job: what they hold still that only those with the one before can ask for. */
export function holdsStill({ who, to, moved, things, more }: { who: string; to: string; moved: string; things: Value[]; more: boolean }): Draft {
  const values = { 'moved.who': { person: who } };
  const held = listed(things, more);
  return {
    key: `moved:${who}:${moved}`,
    to,
    page: 'peoplesThings',
    content: {
      subject: { text: [[{ ref: 'moved.who' }, { text: ' has another job, and holds things from the one before' }]], values },
      body: {
        text: [
          [{ text: 'They could not ask for these as they work now. Nothing is taken back by itself: take back what they do not need any more.' }],
          ...held.lines,
        ],
        values: { ...values, ...held.values },
      },
    },
  };
}
