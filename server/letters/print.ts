import pdfmake, { type Content, type CustomTableLayout } from 'pdfmake';
import { layOut, type Block, type Letter, type Run } from '../../core/letters/index.ts';
import { faces, fonts } from './faces.ts';

/** The tokens of app/styles on white paper. */
const ink = { words: '#1c2a31', faint: '#5b6a70', rule: '#d8d2c4', link: '#1f6a73' };

/** What pdfmake keeps files in that are on no disk; its types know it in browsers only. */
const { virtualfs } = pdfmake as unknown as { virtualfs: { writeFileSync: (name: string, content: Buffer) => void } };
for (const face of fonts) for (const s of face.styles) virtualfs.writeFileSync(s.file, s.read());
pdfmake.setFonts(Object.fromEntries(fonts.map((f) => [f.name, Object.fromEntries(f.styles.map((s) => [s.style, s.file]))])));
// A letter is made of what is in it, and of our faces.
pdfmake.setUrlAccessPolicy(() => false);
pdfmake.setLocalAccessPolicy(() => false);

/** Hairlines below each row, as tables have them on screens. */
const ruled: CustomTableLayout = {
  hLineWidth: (at, { table }) => (at === 0 ? 0 : at === table.headerRows ? 1 : at === table.body.length ? 0.5 : 0.5),
  vLineWidth: () => 0,
  hLineColor: () => ink.rule,
  paddingLeft: (at) => (at === 0 ? 0 : 6),
  paddingRight: (at, { table }) => (at === (table.widths?.length ?? 0) - 1 ? 0 : 6),
  paddingTop: () => 4,
  paddingBottom: () => 4,
};

const runs = (all: Run[]): Content => ({
  text: all.map(({ link, ...run }) => (link === undefined ? run : { ...run, link, color: ink.link, decoration: 'underline' as const })),
});

function drawn(b: Block): Content {
  if (b.block === 'title') return { ...(runs(b.runs) as object), fontSize: 20, lineHeight: 1.15, margin: [0, 0, 0, 14] } as Content;
  if (b.block === 'paragraph') return { ...(runs(b.runs) as object), margin: [0, 0, 0, 7] } as Content;
  if (b.block === 'list') return { [b.ordered ? 'ol' : 'ul']: b.items.map(runs), margin: [0, 0, 0, 7] } as unknown as Content;
  const columns = Math.max(b.heads.length, ...b.rows.map((r) => r.length));
  const heads = b.heads.length > 0 ? [b.heads.map((h): Content => ({ ...(runs(h) as object), color: ink.faint }) as Content)] : [];
  return {
    table: {
      headerRows: heads.length,
      // A head does not stand alone at the foot of a page, and a row on two.
      keepWithHeaderRows: heads.length,
      dontBreakRows: true,
      widths: b.shares?.map((share) => `${share}%`) ?? Array.from({ length: columns }, () => '*'),
      body: [...heads, ...b.rows.map((row) => row.map((cell): Content => ({ stack: cell.map(inCell) })))],
    },
    layout: ruled,
    fontSize: 9.5,
    lineHeight: 1.2,
    margin: [0, 2, 0, 12],
  };
}
const inCell = (b: Block): Content => (b.block === 'paragraph' ? runs(b.runs) : ({ ...(drawn(b) as object), margin: 0 } as Content));

/** Makes the PDF of a letter. The same letter at the same instant gives the same pages. */
export async function print(letter: Letter, at: Date): Promise<Uint8Array> {
  const sheet = layOut(letter, faces);
  const [plain] = faces.words;
  const definition: Parameters<typeof pdfmake.createPdf>[0] & { displayTitle: boolean } = {
    pageSize: 'A4',
    ...(letter.landscape && { pageOrientation: 'landscape' }),
    pageMargins: [68, 84, 68, 72],
    info: { title: sheet.title, producer: 'Nessmoor', creator: 'Nessmoor', creationDate: at },
    displayTitle: true,
    language: 'en',
    defaultStyle: { font: plain!.name, fontSize: 10.5, lineHeight: 1.35, color: ink.words },
    ...(sheet.head && {
      header: { ...(runs(sheet.head) as object), color: ink.faint, fontSize: 9, margin: [68, 40, 68, 0] } as Content,
    }),
    ...(sheet.numbered && {
      footer: (page: number, of: number): Content => ({
        text: `Page ${page} of ${of}`,
        alignment: 'right',
        color: ink.faint,
        fontSize: 9,
        margin: [68, 24, 68, 0],
      }),
    }),
    content: sheet.blocks.map(drawn),
  };
  return new Uint8Array(await pdfmake.createPdf(definition).getBuffer());
}
