import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Plan } from '../../core/plans/index.ts';
import { gate, step } from '../../core/testing/samples.ts';
import { sentence } from '../../core/values/index.ts';
import { piecesOf } from '../files/keep.ts';
import { fileFor } from '../files/queries.ts';
import { approvalFor } from '../approvals/queries.ts';
import { myRequest } from '../requests/queries.ts';
import { withdrawRequest } from '../requests/commands.ts';
import { readPdf } from '../testing/pdf.ts';
import { world, type World } from '../testing/world.ts';
import { makeLetter } from './make.ts';

let w: World;
beforeAll(async () => {
  w = await world({ replies: true });
});
afterAll(() => w.close());

const letter = (id: string, more: object = {}) =>
  step('write', id, {
    fileName: [[{ text: 'Loan ' }, { ref: 'request.number' }, { text: ' / ' }, { ref: 'form.reason' }]],
    head: sentence('Skerrin Hydrographic'),
    title: sentence('What you take with you'),
    body: [
      {
        text: [
          [{ text: 'For ' }, { ref: 'request.requester', bold: true }, { text: ', from ' }, { ref: 'form.from' }],
          { list: 'numbers', items: [[{ text: 'Read ' }, { text: 'the guide', link: 'https://desk.skerrin.example/guide' }]] },
        ],
        table: {
          list: { ref: 'form.gear' },
          columns: [
            { id: 'what', head: 'Instrument' },
            { id: 'many', head: 'How many' },
            { id: 'by', head: 'Who brings it' },
            { id: 'state', head: 'State' },
          ],
        },
      },
      { when: { compare: 'atLeast', left: { ref: 'form.cores' }, right: { literal: 4 } }, text: sentence('A large machine goes with it.') },
      { when: { compare: 'less', left: { ref: 'form.cores' }, right: { literal: 4 } }, text: sentence('A small machine goes with it.') },
    ],
    numbered: true,
    ...more,
  });
const tell = (id: string, more: object = {}) =>
  step('tell', id, {
    to: { ref: 'request.requester' },
    subject: sentence('Your letter'),
    body: [{ text: sentence('It is here.') }],
    attaches: [{ ref: 'steps.loan.file' }],
    ...more,
  });
const bytesOf = async (id: string) => {
  const pieces: Buffer[] = [];
  for await (const p of piecesOf(id)) pieces.push(p);
  return Buffer.concat(pieces);
};

describe('a letter', () => {
  it('is made with the values of its moment, filed under its name, shown to those with a part in the request, and goes with the mail (read by pdfjs-dist and mailparser)', async () => {
    const boss = gate({ approvers: { from: 'people', people: [{ person: 'ada' }] }, rule: { rule: 'all' } });
    const run = await w.askPlan({ steps: [letter('loan'), boss, tell('send'), tell('chat', { by: 'chat' })] });
    await w.work();
    const [filed] = (await myRequest(w.viewer('tor'), run.number))!.letters;
    expect(filed).toMatchObject({ name: `Loan R-${run.number} - Tide tables.pdf`, version: 1, before: [] });
    const pdf = await readPdf(await bytesOf(filed!.id));
    expect(pdf.title).toBe('What you take with you');
    expect(pdf.pages).toHaveLength(1);
    for (const words of [
      'Skerrin Hydrographic',
      'For Tor Strand, from 4 Dec 2026',
      'Echo sounder',
      'Ina Strand',
      'As new',
      'Tide gauge',
      'Page 1 of 1',
    ])
      expect(pdf.pages[0]).toContain(words);
    expect(pdf.pages[0]).toContain('A small machine');
    expect(pdf.pages[0]).not.toContain('A large machine');
    expect(pdf.links).toEqual(['https://desk.skerrin.example/guide']);

    // Who asked, and who is to agree; nobody else.
    expect(await fileFor(w.viewer('tor'), filed!.id)).toMatchObject({ type: 'application/pdf' });
    expect(await fileFor(w.viewer('boss'), filed!.id)).toBeDefined();
    expect(await fileFor(w.viewer('olav'), filed!.id)).toBeUndefined();
    const [asked] = await w.approvals(run.id);
    expect((await approvalFor(w.viewer('boss'), asked!.id))?.letters).toHaveLength(1);

    expect(await w.decide('boss', run.id, 'approve')).toMatchObject({ ok: true });
    await w.work();
    const mail = (await w.mails('tor')).find((m) => m.subject === 'Your letter');
    expect(mail?.files).toEqual([{ name: filed!.name, type: 'application/pdf', base64: (await bytesOf(filed!.id)).toString('base64') }]);
    expect((await myRequest(w.viewer('tor'), run.number))!.told.map((m) => m.files)).toEqual(Array(2).fill([{ id: filed!.id, name: filed!.name }]));
    const said = (await w.chatEvents('tor')).map((e) => e.content.body).find((b) => b.startsWith('Your letter'));
    expect(said).toMatch(new RegExp(`Loan R-${run.number} - Tide tables\\.pdf \\(\\d+ kB\\): http.*/files/${filed!.id}`));
    expect((await w.request(run.id)).outcome).toBe('fulfilled');
  });

  it('that was sent to somebody without a part in the request can be had by them', async () => {
    const run = await w.askPlan({ steps: [letter('loan'), tell('chat', { by: 'chat', to: { ref: 'form.crew' } })] });
    await w.work();
    const [filed] = (await myRequest(w.viewer('tor'), run.number))!.letters;
    expect(await fileFor(w.viewer('runa'), filed!.id)).toMatchObject({ name: filed!.name });
    expect(await fileFor(w.viewer('olav'), filed!.id)).toBeUndefined();
  });

  it('of the same name is the next version; those before it are kept', async () => {
    const again = (id: string, title: string) => letter(id, { title: sentence(title), fileName: sentence('Agreement') });
    const run = await w.askPlan({ steps: [again('loan', 'First'), again('more', 'Second'), again('last', 'Third'), letter('other')] });
    for (let i = 0; i < 4; i++) await w.work();
    const { letters } = (await myRequest(w.viewer('tor'), run.number))!;
    expect(letters.map((l) => [l.name, l.version, l.before.map((b) => b.version)])).toEqual([
      [`Loan R-${run.number} - Tide tables.pdf`, 1, []],
      ['Agreement.pdf', 3, [2, 1]],
    ]);
    const titles = await Promise.all(
      [letters[1]!.id, ...letters[1]!.before.map((b) => b.id)].map(async (id) => (await readPdf(await bytesOf(id))).title),
    );
    expect(titles).toEqual(['Third', 'Second', 'First']);
  });

  it('that is made twice at once, or whose worker died before it was filed, is filed once', async () => {
    const run = await w.askPlan({ steps: [letter('loan')] });
    const [row] = await w.query<{ id: string }>('select id from letter where run_id = $1', [run.id]);
    await Promise.all([makeLetter(row!.id), makeLetter(row!.id), makeLetter(row!.id)]);
    await makeLetter(row!.id);
    expect(await w.query('select from stored_file where case_id = $1', [run.caseId])).toHaveLength(1);
    expect(await w.query(`select from run_event where run_id = $1 and event ->> 'type' = 'answered'`, [run.id])).toHaveLength(1);
    expect(await w.query('select status, words, version from letter where run_id = $1', [run.id])).toEqual([
      { status: 'written', words: null, version: 1 },
    ]);
  });

  it('of a request that was withdrawn meanwhile is not made', async () => {
    const run = await w.askPlan({ steps: [letter('loan')] });
    expect(await withdrawRequest(w.viewer('tor'), { number: run.number })).toMatchObject({ ok: true });
    await w.work();
    expect(await w.query('select status, words from letter where run_id = $1', [run.id])).toEqual([{ status: 'withdrawn', words: null }]);
    expect(await w.query('select from stored_file where case_id = $1', [run.caseId])).toEqual([]);
  });

  it('in scripts that its faces have stands as it was written; others in Latin letters as they sound', async () => {
    const title = sentence('Νεφέλη Łukasz Ђорђе Ngọc 渡辺 ☂');
    const run = await w.askPlan({ steps: [letter('loan', { title, body: [{ text: sentence('“of” – 12 €') }] })] } satisfies Plan);
    await w.work();
    const [filed] = (await myRequest(w.viewer('tor'), run.number))!.letters;
    const [page] = (await readPdf(await bytesOf(filed!.id))).pages;
    expect(page!.replaceAll(' ', '')).toContain('ΝεφέληŁukaszЂорђеNgọcDuBian');
    expect(page).not.toContain('渡');
    expect(page!.replaceAll(' ', '')).toContain('“of”–12€');
  });
});
