import { createHash, randomBytes } from 'node:crypto';
import { readdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { Readable } from 'node:stream';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Form } from '../../core/forms/index.ts';
import { passages } from '../../core/plans/index.ts';
import { gate, step, tell } from '../../core/testing/samples.ts';
import { createItem, publish, saveDraft } from '../items/commands.ts';
import { decide } from '../approvals/commands.ts';
import type { Viewer } from '../auth/viewer.ts';
import { finishTask, saveTask, takeTask } from '../tasks/commands.ts';
import { taskFor } from '../tasks/queries.ts';
import { submitRequest } from '../requests/submit.ts';
import { myRequest } from '../requests/queries.ts';
import { saveRow, takeRowsOff } from '../tables/commands.ts';
import { world, type World } from '../testing/world.ts';
import { keepFile, piecesOf, sweepLooseFiles } from './keep.ts';
import { fileFor, namesOfOwn } from './queries.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());

const pdf = (more = '') => Buffer.from(`%PDF-1.7\n%âãÏÓ\n1 0 obj << >> endobj\n${more}\ntrailer << >>\n%%EOF\n`, 'latin1');
const png = Buffer.concat([Buffer.from('89504e470d0a1a0a0000000d49484452', 'hex'), Buffer.alloc(40)]);
const program = Buffer.concat([Buffer.from('MZ\x90\x00\x03\x00\x00\x00', 'latin1'), Buffer.alloc(200)]);
const keep = (who: Viewer, name: string, bytes: Buffer | Iterable<Buffer>) =>
  keepFile(who, { name, stream: Readable.from(Buffer.isBuffer(bytes) ? [bytes] : bytes) });
const kept = async (who: Viewer, name: string, bytes: Buffer = pdf()) => {
  const done = await keep(who, name, bytes);
  if (!done.ok) throw new Error(done.sentence);
  return done.file.id;
};
const read = async (id: string) => {
  const pieces: Buffer[] = [];
  for await (const piece of piecesOf(id)) pieces.push(piece);
  return Buffer.concat(pieces);
};
const mine = () => w.viewer('tor');
const left = () => readdirSync(tmpdir()).filter((f) => f.startsWith('nessmoor-file-'));

describe('a file that is attached', () => {
  it('is kept byte for byte, in pieces, by what is in it; nothing of it stays beside the database', async () => {
    const bytes = Buffer.concat([pdf(), randomBytes(1_300_000)]);
    const done = await keep(mine(), 'Chart of the fjord.pdf', [bytes.subarray(0, 7), bytes.subarray(7, 700_000), bytes.subarray(700_000)]);
    expect(done).toMatchObject({ ok: true, file: { name: 'Chart of the fjord.pdf', size: bytes.length } });
    const id = done.ok ? done.file.id : '';
    expect((await read(id)).equals(bytes)).toBe(true);
    expect(await fileFor(mine(), id)).toMatchObject({ type: 'application/pdf', hash: createHash('sha256').update(bytes).digest('hex') });
    expect((await w.query<{ n: number }>('select count(*)::int as n from file_piece where file_id = $1', [id]))[0]!.n).toBe(6);
    expect(left()).toEqual([]);
  });

  it.each<[string, string, () => Buffer | Iterable<Buffer>, RegExp]>([
    [
      'is too large',
      'film.mp4',
      () => Array.from({ length: 60 }, () => Buffer.alloc(1_000_000, 1)),
      /“film\.mp4” has 60 MB; at most 25 MB can be attached\./,
    ],
    ['is empty', 'empty.txt', () => Buffer.alloc(0), /“empty\.txt” is empty\./],
    ['is a program under another name', 'report.pdf', () => program, /cannot be attached \(application\/x-msdownload\)/],
    ['is a picture under another name', 'report.pdf', () => png, /in it is a PNG picture/],
    ['is a page', 'page.html', () => Buffer.from('<script>alert(1)</script>'), /a text of a kind that cannot be attached/],
    ['is nothing that can be told', 'odd.txt', () => Buffer.from([1, 2, 3, 0, 255]), /cannot be told/],
  ])('that %s is refused with a sentence, and not kept', async (_, name, bytes, sentence) => {
    const before = await w.query('select from stored_file');
    const done = await keep(mine(), name, bytes());
    expect(!done.ok && done.sentence).toMatch(sentence);
    expect(await w.query('select from stored_file')).toHaveLength(before.length);
    expect(left()).toEqual([]);
  });

  it('breaks off in the middle: nothing is kept', async () => {
    const broken = new Readable({
      read() {
        this.push(pdf());
        this.destroy(new Error('the line was cut'));
      },
    });
    await expect(keepFile(mine(), { name: 'half.pdf', stream: broken })).rejects.toThrow('the line was cut');
    expect(await w.query("select from stored_file where name = 'half.pdf'")).toEqual([]);
    expect(left()).toEqual([]);
  });

  it('and not sent with anything is known to whoever brought it only, held against what they may bring, and swept after a day', async () => {
    const id = await kept(mine(), 'loose.pdf');
    for (const other of [w.viewer('runa'), w.viewer('dan', 'administrator', 'auditor', 'designer')]) expect(await fileFor(other, id)).toBeUndefined();
    expect(await namesOfOwn(mine(), [id, 'x'])).toEqual({ [id]: 'loose.pdf' });
    expect(await namesOfOwn(w.viewer('runa'), [id])).toEqual({});
    await w.query('update stored_file set size = 249999999 where id = $1', [id]);
    const more = await keep(mine(), 'more.pdf', pdf());
    expect(!more.ok && more.sentence).toMatch(/attached 250 MB that were not sent yet/);
    await sweepLooseFiles();
    expect(await fileFor(mine(), id)).toBeDefined();
    await w.query("update stored_file set at = now() - interval '25 hours' where id = $1", [id]);
    await sweepLooseFiles();
    expect([await fileFor(mine(), id), await read(id)]).toEqual([undefined, Buffer.alloc(0)]);
  });
});

describe('files of a request', () => {
  const form: Form = {
    fields: [
      { id: 'plan', kind: 'file', label: 'Plan', required: true },
      { id: 'more', kind: 'files', label: 'More', required: false, max: 2 },
    ],
  };
  const plan = {
    steps: [
      gate({ approvers: { from: 'people', people: [{ person: 'ada' }] }, nobody: { then: 'fail' } }),
      step('task', 't', {
        assignee: { team: 'desk' },
        instructions: passages('Look'),
        checklist: [],
        fields: [{ id: 'photo', kind: 'file', label: 'Photo', required: true }],
      }),
      { ...tell('end', 'End'), body: [{ text: [[{ ref: 'form.plan' }, { text: ' and ' }, { ref: 'steps.t.photo' }]] }] },
    ],
  };

  it('are seen by those who see its answers, named in its messages, and stand in one request only', async () => {
    const item = await w.item('With files', plan as never, form);
    const [a, b] = [await kept(mine(), 'a.pdf'), await kept(mine(), 'b.png', png)];
    const ask = (who: Viewer, answers: object) =>
      submitRequest(who, { itemId: item.id, revision: 1, answers: answers as never, idempotencyKey: crypto.randomUUID() });
    const refused = async (who: Viewer, answers: object) => {
      const done = await ask(who, answers);
      return done.ok ? 'sent' : done.problems?.map((p) => p.sentence).join(' ');
    };
    expect(await refused(w.viewer('runa'), { plan: { file: a } }), 'of somebody else').toBe('Plan: this file is not known. Attach it again.');
    expect(await refused(mine(), { plan: { file: crypto.randomUUID() } })).toContain('not known');
    expect(await refused(mine(), { plan: { file: a }, more: [{ file: crypto.randomUUID() }] })).toBe(
      'More has a file that is not known. Attach it again.',
    );
    expect(await refused(mine(), { plan: { file: a }, more: [{ file: a }, { file: b }, { file: b }] })).toBe('More: at most 2 files.');
    expect(await refused(mine(), {})).toBe('Attach “Plan”.');
    const sent = await ask(mine(), { plan: { file: a }, more: [{ file: b }] });
    if (!sent.ok) throw new Error(sent.sentence);
    expect(await refused(mine(), { plan: { file: a } }), 'it stands in a request already').toContain('not known');
    expect((await myRequest(mine(), sent.number))!.answers).toEqual([
      { label: 'Plan', words: 'a.pdf', files: [{ id: a, name: 'a.pdf' }] },
      { label: 'More', words: 'b.png', files: [{ id: b, name: 'b.png' }] },
    ]);
    const sees = async () => {
      const who: Record<string, Viewer> = {
        requester: mine(),
        approver: w.viewer('boss'),
        team: w.viewer('runa'),
        other: w.viewer('olav'),
        designer: w.viewer('olav', 'designer'),
        auditor: w.viewer('olav', 'auditor'),
      };
      const seen: string[] = [];
      for (const [name, viewer] of Object.entries(who)) if (await fileFor(viewer, a)) seen.push(name);
      return seen;
    };
    expect(await sees()).toEqual(['requester', 'approver', 'designer', 'auditor']);
    const [{ id: approvalId, run } = { id: '', run: '' }] = await w.query<{ id: string; run: string }>(
      'select a.id, g.run_id as run from approval a join gate g on g.id = a.gate_id join run r on r.id = g.run_id join service_case k on k.id = r.case_id where k.number = $1',
      [sent.number],
    );
    expect(await decide(w.viewer('boss'), { approvalId, decision: 'approve', comment: '' })).toMatchObject({ ok: true });
    expect(await sees(), 'the team has work in it now').toEqual(['requester', 'approver', 'team', 'designer', 'auditor']);

    const [{ id: task } = { id: '' }] = await w.query<{ id: string }>('select id from task where run_id = $1', [run]);
    const runa = w.viewer('runa');
    await takeTask(runa, { id: task, give: false });
    const photo = await kept(runa, 'photo.png', png);
    expect(await saveTask(runa, { id: task, values: { photo: { file: photo } }, checked: [] })).toMatchObject({ ok: true });
    await w.query("update stored_file set at = now() - interval '2 days'");
    await sweepLooseFiles();
    expect((await taskFor(runa, task))!.names[photo], 'what is filled in so far is kept').toBe('photo.png');
    expect(await finishTask(runa, { id: task, values: { photo: { file: photo } }, checked: [] })).toMatchObject({ ok: true });
    const told = await w.query<{ text: string }>("select text from message where text like '%photo.png%'");
    expect(told.map((t) => t.text)).toEqual(['a.pdf and photo.png']);
    expect(await fileFor(w.viewer('boss'), photo)).toBeDefined();
    expect(await fileFor(w.viewer('olav'), photo)).toBeUndefined();
  });

  it('of a confidential item are not for those who read the Ledger', async () => {
    const designer = w.viewer('dan', 'designer');
    const made = await createItem(designer, { name: 'With secret files' });
    if (!made.ok) throw new Error(made.sentence);
    const draft = {
      name: 'With secret files',
      summary: '',
      category: '',
      form,
      plan: { steps: [tell('end', 'End')] },
      confidential: { readers: [] },
    };
    const saved = await saveDraft(designer, { id: made.id, version: 1, draft });
    if (!saved.ok) throw new Error(saved.sentence);
    expect(await publish(designer, { id: made.id, version: saved.version, note: '' })).toMatchObject({ ok: true });
    const id = await kept(mine(), 'secret.pdf');
    const answers = { plan: { file: id } } as never;
    expect(await submitRequest(mine(), { itemId: made.id, revision: 1, answers, idempotencyKey: crypto.randomUUID() })).toMatchObject({ ok: true });
    expect(await fileFor(w.viewer('olav', 'auditor'), id)).toBeUndefined();
    expect(await fileFor(mine(), id)).toBeDefined();
  });
});

it('an approver who corrects one answer is not held up by another that is not offered any more', async () => {
  const form: Form = {
    fields: [
      { id: 'machine', kind: 'row', label: 'Machine', required: true, table: 'machines' },
      { id: 'days', kind: 'number', label: 'Days', required: true },
    ],
  };
  const asks = gate({ approvers: { from: 'people', people: [{ person: 'ada' }] }, nobody: { then: 'fail' }, corrects: ['days', 'machine'] });
  const item = await w.item('Corrected', { steps: [asks, tell('end', 'End')] }, form);
  const designer = w.viewer('dan', 'designer');
  const { table } = w.machine;
  expect(await saveRow(designer, { table, cells: { size: 'Old', processors: 1, keeper: { person: w.id('ina') } } })).toMatchObject({ ok: true });
  const ask = async () => {
    const sent = await submitRequest(mine(), {
      itemId: item.id,
      revision: 1,
      answers: { machine: { table, key: 'Old' }, days: 3 },
      idempotencyKey: crypto.randomUUID(),
    });
    if (!sent.ok) throw new Error(sent.sentence);
    const [row] = await w.query<{ id: string }>(
      'select a.id from approval a join gate g on g.id = a.gate_id join run r on r.id = g.run_id join service_case k on k.id = r.case_id where k.number = $1',
      [sent.number],
    );
    return row!.id;
  };
  const [first, second] = [await ask(), await ask()];
  await takeRowsOff(designer, { table, keys: ['Old', 'Small'] });
  const correct = (approvalId: string, corrections: object) =>
    decide(w.viewer('boss'), { approvalId, decision: 'approve', comment: '', corrections: corrections as never });
  expect(await correct(first, { days: 5, machine: { table, key: 'Old' } })).toMatchObject({ ok: true });
  expect(await correct(second, { days: 5, machine: { table, key: 'Small' } })).toMatchObject({ ok: false, code: 'invalid' });
  expect(await correct(second, { days: 5, machine: { table, key: 'Large' } })).toMatchObject({ ok: true });
});
