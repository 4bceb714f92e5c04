import { plainText, sayText, type RichText } from '../values/index.ts';
import { nameOfWords } from '../files/index.ts';
import type { Write } from '../steps/index.ts';
import type { Letter } from './letter.ts';

/** So many rows of a table stand for those there will be. */
const sampleRows = 2;

/** A letter as it looks before anybody asked: all its passages, and for each value its name in brackets. */
export function sampleLetter(step: Write, label: (ref: string) => string): Letter {
  const say = (text: RichText): RichText => sayText(text, (ref) => `[${label(ref)}]`);
  return {
    fileName: `${nameOfWords(plainText(say(step.fileName)), 'Letter')}.pdf`,
    ...(step.head && { head: say(step.head) }),
    title: say(step.title),
    body: step.body.map(({ text, table }) => ({
      words: say(text),
      ...(table?.list && {
        table: {
          heads: table.columns.map((c) => c.head),
          rows: Array.from({ length: sampleRows }, () =>
            (table.columns.length > 0 ? table.columns.map((c) => c.head || c.id) : [label(table.list!.ref)]).map((w): RichText => [
              [{ text: `[${w}]` }],
            ]),
          ),
        },
      }),
    })),
    numbered: step.numbered,
  };
}
