import { aboutRequest, type Draft } from './draft.ts';

/** To each of the team that keeps a place: a piece is set aside there, and is to be picked. */
export const pieceToPick = (issue: { id: string; kind: string; mark: string | null; place: string; person: string }, to: string): Draft => ({
  key: `pick:${issue.id}`,
  to,
  page: 'counterOfStores',
  content: {
    subject: aboutRequest(`To be picked at ${issue.place}: ${issue.kind}`),
    body: {
      text: [[{ ref: 'piece.what' }, { text: ' is set aside for ' }, { ref: 'piece.for' }, { text: '. Pick it, and hand it over at the counter.' }]],
      values: { 'piece.what': issue.mark === null ? issue.kind : `${issue.kind} ${issue.mark}`, 'piece.for': { person: issue.person } },
    },
  },
});
