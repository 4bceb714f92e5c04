import type { TextSnapshot } from '../../core/engine/index.ts';
import { howToSayComing } from '../../core/formats/index.ts';
import { fixed } from './draft.ts';
import type { RichText } from '../../core/values/index.ts';
import type { MeetingWords } from '../db/schema/meetings.ts';

/** What is told of a meeting. */
interface Told {
  words: MeetingWords;
  /** The names of all who are invited. */
  names: string[];
}

const bare = (text: string): RichText[number] => [{ text }];
/** A text on one line behind a word. */
const after = (word: string, { text }: TextSnapshot): RichText => [[{ text: word }, ...text.flatMap((b) => ('list' in b ? [] : b))]];

/** Where a text has when the meeting is: each reader has it in their zone. */
export const meetingWhen = 'meeting.when';

/** When, where and with whom. */
const facts = ({ words, names }: Told): TextSnapshot => ({
  text: [
    ...after('', words.title),
    [{ text: 'When: ' }, { ref: meetingWhen }],
    ...(words.place ? after('Where: ', words.place) : []),
    bare(`Invited: ${names.join(', ')}`),
  ],
  values: { ...words.title.values, ...words.place?.values },
});
const joined = (...all: TextSnapshot[]): TextSnapshot => ({
  text: all.flatMap((t) => t.text),
  values: Object.assign({}, ...all.map((t) => t.values)) as TextSnapshot['values'],
});
const led = (word: string, { title }: MeetingWords): TextSnapshot => ({ text: after(word, title), values: title.values });
const lines = (...words: string[]): TextSnapshot => ({ text: words.map(bare), values: {} });

/** To somebody who is invited; `moved`: it was at another time before. `answers`: their mail is taken as an answer. */
export const invitationWords = (
  told: Told,
  how: { moved: boolean; answers: boolean; inside: boolean },
): { subject: TextSnapshot; body: TextSnapshot } => ({
  subject: led(how.moved ? 'Moved: ' : 'Invitation: ', told.words),
  body: joined(
    ...(how.moved ? [lines('Not everybody could come, so this meeting has another time. What was said of the time before counts no more.', '')] : []),
    facts(told),
    lines(''),
    told.words.body,
    lines(
      '',
      ...(how.answers ? [`Answer in your calendar, or reply to this mail. ${howToSayComing}`] : []),
      ...(how.inside ? [how.answers ? 'Or say it here:' : 'Say here whether you come:'] : []),
    ),
  ),
});

/** To the same, when it is off. */
export const offWords = (told: Told): { subject: TextSnapshot; body: TextSnapshot } => ({
  subject: led('Off: ', told.words),
  body: joined(lines('This meeting does not take place. Nobody need come.', ''), facts(told)),
});

/** To whoever asked, when somebody who is invited cannot come and the plan does not wait for that any more. */
export const cannotCome = (name: string, title: string, words: string): { subject: TextSnapshot; body: TextSnapshot } => ({
  subject: fixed(`Cannot come: ${name}, ${title}`),
  body: fixed(
    `${name} cannot come to “${title}”${words ? `: “${words}”` : '.'}\n\nThe meeting stays as it is. Who is invited and what they said stands with your request:`,
  ),
});

/** To somebody whose answer was not taken. */
export const answerUnclear = (what: string): string => `${what} Nothing was noted. ${howToSayComing}`;
