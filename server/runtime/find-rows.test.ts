import { typedAs } from '../../core/values/index.ts';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { passages, type Block } from '../../core/plans/index.ts';
import { step } from '../../core/testing/samples.ts';
import { changeTable, createTable, saveRow, takeRowsOff } from '../tables/commands.ts';
import { tableOf, tableUses } from '../tables/queries.ts';
import { rowsWhere } from '../tables/read.ts';
import { world, type World } from '../testing/world.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());

let tables = 0;
async function needs(): Promise<string> {
  const dan = w.viewer('dan', 'designer');
  const table = await createTable(dan, { name: `Needs ${++tables}` });
  if (!table.ok) throw new Error(table.sentence);
  const definition = {
    name: `Needs ${tables}`,
    purpose: '',
    columns: [
      { id: 'role', kind: 'choice' as const, label: 'Role', required: true, options: ['daily', 'project'].map((value) => ({ value, label: value })) },
      { id: 'what', kind: 'text' as const, label: 'What', required: true },
      { id: 'todo', kind: 'formatted' as const, label: 'To do', required: true },
      { id: 'team', kind: 'team' as const, label: 'Team', required: true },
      { id: 'who', kind: 'person' as const, label: 'Who knows', required: false },
      { id: 'many', kind: 'number' as const, label: 'How many', required: false },
    ],
    key: ['role', 'what'],
  };
  const changed = await changeTable(dan, { id: table.id, version: 1, definition });
  if (!changed.ok) throw new Error(changed.sentence);
  for (const [role, what, many] of [
    ['daily', 'Laptop', 1],
    ['daily', 'Vest', 2],
    ['project', 'Boat', 1],
  ] as const)
    await saveRow(dan, {
      table: table.id,
      cells: {
        role,
        what,
        todo: todo(`Hand out the **${what}**.\n\n- Note [its number](https://stores.skerrin.example/list).`),
        team: { team: w.teamId },
        who: { person: w.id('ina') },
        many,
      },
    });
  return table.id;
}

/** Formatted text, as somebody types it in plain letters. */
const todo = (source: string) => typedAs(source, 'formatted')!;

describe('rows that are looked up', () => {
  it('are those that say just this now: texts whatever their capitals, numbers and names by what they are', async () => {
    const table = await needs();
    const keys = async (where: Parameters<typeof rowsWhere>[2]) => (await rowsWhere(w.db(), table, where)).map((r) => r.key);
    expect(await keys({})).toEqual(['daily|Laptop', 'daily|Vest', 'project|Boat']);
    expect(await keys({ role: 'daily', what: 'VEST' })).toEqual(['daily|Vest']);
    expect(await keys({ many: 1, who: { person: w.id('ina') } })).toEqual(['daily|Laptop', 'project|Boat']);
    expect(await keys({ many: { decimal: '1' } as never })).toEqual([]);
    expect(await keys({ who: { person: w.id('tor') } })).toEqual([]);
    expect(await keys({ gone: 'x' })).toEqual([]);
    await takeRowsOff(w.viewer('dan', 'designer'), { table, keys: ['daily|Vest'] });
    expect(await keys({ role: 'daily' })).toEqual(['daily|Laptop']);
    expect(await rowsWhere(w.db(), 'no table', {})).toEqual([]);
  });

  it('become a task each for the team that the row names, which is told; a changed row counts for the next request', async () => {
    const table = await needs();
    const dan = w.viewer('dan', 'designer');
    const steps: Block = [
      step('find', 'needs', { lookup: { find: 'rows', table, where: { role: { ref: 'form.kind' } } } } as never),
      step('forEach', 'each', {
        list: { ref: 'steps.needs.rows' },
        body: [
          step('task', 'do', {
            assignee: { from: { ref: 'row.value.team' } },
            tellTeam: true,
            instructions: [{ text: [[{ ref: 'row.value.todo' }]] }],
            checklist: [],
            fields: [],
            due: { by: { ref: 'form.from' }, workingDaysBefore: 1 },
          } as never),
        ],
      }),
      step('tell', 'told', { to: { ref: 'request.requester' }, subject: [[{ text: 'Done' }]], body: passages('Done') } as never),
    ];
    const asked = await w.askPlan({ steps });
    const tasks = async (run: string) =>
      w.query<{ name: string; team_id: string; said: string; due_at: Date }>(
        'select name, team_id, instructions::text as said, due_at from task where run_id = $1 order by name',
        [run],
      );
    const first = await tasks(asked.id);
    expect(first.map((t) => [t.name, t.team_id])).toEqual([
      ['task do: daily, Laptop', w.teamId],
      ['task do: daily, Vest', w.teamId],
    ]);
    // The row's formatted text stands in the task as it was formatted, and in the mail that tells the team of it.
    expect(JSON.parse(first[0]!.said)).toEqual([
      [{ text: 'Hand out the ' }, { text: 'Laptop', bold: true }, { text: '.' }],
      { list: 'points', items: [[{ text: 'Note ' }, { text: 'its number', link: 'https://stores.skerrin.example/list' }, { text: '.' }]] },
    ]);
    // The day before the fourth of December 2026, a Friday.
    expect(first[0]!.due_at.toISOString()).toBe('2026-12-03T16:00:00.000Z');
    await w.work();
    const mails = await w.mails('dan');
    expect(mails.filter((m) => m.subject.includes('task do: daily')).length).toBe(2);
    const definition = (await tableOf(dan, table))!.definition;
    expect((await tableUses(dan, table))!.map((u) => u.columns.toSorted())).toEqual([['role', 'team', 'todo']]);
    expect(
      await changeTable(dan, { id: table, version: 2, definition: { ...definition, columns: definition.columns.filter((c) => c.id !== 'todo') } }),
    ).toMatchObject({
      ok: false,
    });
    await saveRow(dan, { table, cells: { role: 'daily', what: 'Tablet', todo: todo('Charge it.'), team: { team: w.teamId } } });
    const again = await w.askPlan({ steps });
    expect((await tasks(again.id)).map((t) => t.name)).toEqual(['task do: daily, Laptop', 'task do: daily, Tablet', 'task do: daily, Vest']);
    expect((await tasks(asked.id)).length).toBe(2);
  });
});
