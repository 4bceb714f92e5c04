import { aboutRequest, type Draft } from './draft.ts';

/** To whoever equipment was handed over to: they are to say whether they have it. */
export const handedOver = ({ key, to, what, by }: { key: string; to: string; what: string; by: string }): Draft => ({
  key,
  to,
  page: 'things',
  content: {
    subject: aboutRequest('Equipment was handed over to you'),
    body: {
      text: [
        [
          { ref: 'piece.by' },
          { text: ' has handed ' },
          { ref: 'piece.what' },
          { text: ' over to you. Say under My things that you have it, or that you have it not.' },
        ],
      ],
      values: { 'piece.by': { person: by }, 'piece.what': what },
    },
  },
});
