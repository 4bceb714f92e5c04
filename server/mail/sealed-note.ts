import type { RichText, Value } from '../../core/values/index.ts';
import { aboutRequest, type Draft } from './draft.ts';

const said = (labels: string[]) => ({ 'note.of': labels.join(', ') });

interface Waits {
  key: string;
  to: string;
  note: string;
  labels: string[];
  openUntil: Date;
}
const waits = ({ key, to, note, labels, openUntil }: Waits, text: RichText, values: Record<string, Value>): Draft => ({
  key,
  to,
  page: `note:${note}`,
  content: {
    subject: aboutRequest('A sealed note waits for you'),
    body: { text, values: { ...values, ...said(labels), 'note.until': openUntil.toISOString() } },
  },
});

/** To whoever a sealed note is for; what it says is in no message. */
export const noteWaits = (w: Waits): Draft =>
  waits(
    w,
    [
      [
        { ref: 'note.of' },
        { text: ': it stands in a sealed note. It opens once, for you alone, signed in, until ' },
        { ref: 'note.until' },
        { text: '.' },
      ],
    ],
    {},
  );

/** To the manager of somebody who cannot sign in yet. */
export const noteForTheirs = (w: Waits & { whose: string }): Draft =>
  waits(
    w,
    [
      [
        { ref: 'note.of' },
        { text: ' for ' },
        { ref: 'note.whose' },
        { text: ', who cannot sign in yet, stands in a sealed note. It opens once, for you, signed in, until ' },
        { ref: 'note.until' },
        { text: ': open it when you are together.' },
      ],
    ],
    { 'note.whose': { person: w.whose } },
  );

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
