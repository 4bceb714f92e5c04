import { aboutRequest, type Draft } from './draft.ts';

const said = (labels: string[]) => ({ 'note.of': labels.join(', ') });

/** To whoever a sealed note is for; what it says is in no message. */
export const noteWaits = ({
  key,
  to,
  note,
  labels,
  openUntil,
}: {
  key: string;
  to: string;
  note: string;
  labels: string[];
  openUntil: Date;
}): Draft => ({
  key,
  to,
  page: `note:${note}`,
  content: {
    subject: aboutRequest('A sealed note waits for you'),
    body: {
      text: [
        [
          { ref: 'note.of' },
          { text: ': it stands in a sealed note. It opens once, for you alone, signed in, until ' },
          { ref: 'note.until' },
          { text: '.' },
        ],
      ],
      values: { ...said(labels), 'note.until': openUntil.toISOString() },
    },
  },
});

/** To whoever a note is for whose secrets were to be made anew, and could not. */
export const notMadeAnew = ({ key, to, labels, cause }: { key: string; to: string; labels: string[]; cause: string }): Draft => ({
  key,
  to,
  page: 'request',
  content: {
    subject: aboutRequest('It could not be made anew'),
    body: {
      text: [[{ ref: 'note.of' }, { text: ' could not be made anew: ' }, { ref: 'note.cause' }], [{ text: 'Ask the desk, or try again later.' }]],
      values: { ...said(labels), 'note.cause': cause },
    },
  },
});
