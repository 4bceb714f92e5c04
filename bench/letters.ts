import pdfmake, { type Content } from 'pdfmake';
import { Letter } from '../core/letters/index.ts';
import { print } from '../server/letters/print.ts';
import { press } from '../server/letters/press.ts';
import { readPdf } from '../server/testing/pdf.ts';
import { line } from './measure.ts';

/** How many letters of two pages one worker makes in a minute, beside what pdfmake itself makes of the same words in one face that every reader has. */
const count = Number(process.env['BENCH_LETTERS'] ?? 100);
const words =
  'You begin as tide analyst at Torvay, Quay House. On your first day somebody meets you at nine at the door; what is ready for you by then stands below, and what to read before, too. ';
const letter = Letter.parse({
  fileName: 'Welcome.pdf',
  head: [[{ text: 'Skerrin Hydrographic' }]],
  title: [[{ text: 'Welcome, Νεφέλη' }]],
  body: [
    ...Array.from({ length: 12 }, () => ({ words: [[{ text: words.repeat(2) }]] })),
    {
      words: [],
      table: {
        heads: ['What', 'From'],
        rows: Array.from({ length: 10 }, (_, n) => [[[{ text: `Thing ${n}` }]], [[{ text: 'Stores' }]]]),
      },
    },
  ],
  numbered: true,
});
const { pages } = await readPdf(await print(letter, new Date()));
if (pages.length !== 2) throw new Error(`The letter of the bench has ${pages.length} pages.`);

const perMinute = async (make: () => Promise<unknown>) => {
  await make();
  const begin = performance.now();
  for (let i = 0; i < count; i++) await make();
  return (count / (performance.now() - begin)) * 60_000;
};
const ours = await perMinute(async () => {
  const made = await press(letter, new Date());
  if (!made.ok) throw new Error(made.cause);
});

const style = 'Helvetica';
const plain = { normal: style, bold: `${style}-Bold`, italics: `${style}-Oblique`, bolditalics: `${style}-BoldOblique` };
// Its measures come with pdfkit; it is read from nowhere.
pdfmake.setFonts({ plain });
pdfmake.setLocalAccessPolicy((path) => Object.values(plain).includes(path));
const raw = await perMinute(() =>
  pdfmake
    .createPdf({
      defaultStyle: { font: 'plain', fontSize: 10.5, lineHeight: 1.35 },
      content: letter.body.map(({ words: text, table }): Content =>
        table
          ? { table: { body: table.rows.map((row) => row.map(() => 'Stores')) } }
          : text.map((b) => ({ text: (b as { text: string }[]).map((p) => p.text).join('') })),
      ),
    })
    .getBuffer(),
);
line('letters of two pages a minute, one worker', `${Math.round(ours)}`);
line('the same words by pdfmake alone, in a face that is not kept in the file', `${Math.round(raw)} a minute; ours ${(ours / raw).toFixed(2)} of it`);
process.exit(0);
