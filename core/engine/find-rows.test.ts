import { describe, expect, it } from 'vitest';
import { checkItem, stops } from '../checks/index.ts';
import { namingOf, placesByStep, roomOf, type Block } from '../plans/index.ts';
import { play } from '../testing/player.ts';
import { catalogue, step, tell, wideForm } from '../testing/samples.ts';

const [large, small] = ['Large', 'Small'].map((key) => ({ table: 'machines', key }));
const outputs = (steps: Block, answers = {}) => {
  const p = play({ steps }, { answers: { cores: 8, ...answers } });
  const found = p.effects.find((e) => e.effect === 'ended' && e.key.startsWith('find'));
  return { p, found: found?.effect === 'ended' ? found.outputs : undefined };
};
const find = (lookup: object) => step('find', 'find', { lookup } as never);
const byCores = { processors: { ref: 'form.cores' } };

describe('rows that are looked up', () => {
  it('are those whose columns say just this, in the order of their keys; none where a value is missing', () => {
    expect(outputs([find({ find: 'rows', table: 'machines', where: {} })]).found).toEqual({ rows: [large, small], count: 2 });
    expect(outputs([find({ find: 'rows', table: 'machines', where: byCores })]).found).toEqual({ rows: [large], count: 1 });
    expect(outputs([find({ find: 'rows', table: 'machines', where: byCores })], { cores: 3 }).found).toEqual({ rows: null, count: 0 });
    const { p, found } = outputs([find({ find: 'rows', table: 'machines', where: byCores })], { cores: null });
    expect([found, p.effects.some((e) => e.effect === 'findRows')]).toEqual([{ rows: null, count: 0 }, false]);
  });

  it('of one that is looked for, none may be found; several are what is stated', () => {
    const one = (where: object, several: string) => outputs([find({ find: 'row', table: 'machines', where, several })]);
    expect(one(byCores, 'fail').found).toEqual({ row: large, count: 1 });
    expect(one({ processors: { literal: 99 } }, 'fail').found).toEqual({ row: null, count: 0 });
    expect(one({}, 'first').found).toEqual({ row: large, count: 2 });
    expect(one({}, 'fail').p.open('find')).toMatchObject({ phase: 'stuck', cause: '“find find” found 2 rows where one was looked for.' });
  });

  it('are gone through row by row, their columns read when a step reads them, their team the one that does it', () => {
    const task = step('task', 'do', { assignee: { from: { ref: 'form.by' } }, instructions: [], checklist: [], fields: [], tellTeam: true });
    const say = { ...tell('say', 'Say'), body: [{ text: [[{ ref: 'row.value.processors' }]] }] } as never;
    const each = step('forEach', 'each', { list: { ref: 'steps.find.rows' }, body: [say, task] });
    const { p } = outputs([find({ find: 'rows', table: 'machines', where: {} }), each], { by: { team: 'desk' } });
    expect(p.effects.flatMap((e) => (e.effect === 'message' ? [e.body.values['row.value.processors']] : []))).toEqual([8, 1]);
    expect(p.effects.flatMap((e) => (e.effect === 'openTask' ? [[e.assignee, e.tellTeam, e.row]] : []))).toEqual([
      [{ team: 'desk' }, true, large],
      [{ team: 'desk' }, true, small],
    ]);
  });

  it('are said in words, and what is wrong with them is found', () => {
    const words = (lookup: object) => {
      const plan = { steps: [find(lookup)] };
      return roomOf(plan.steps[0]!).sentence(plan.steps[0]!, namingOf(placesByStep(plan, wideForm, catalogue).anywhere, catalogue), catalogue);
    };
    expect(words({ find: 'rows', table: 'machines', where: byCores })).toBe('Look up the rows of “Machine sizes” in which Processors is Processors.');
    expect(words({ find: 'row', table: 'machines', where: { size: { literal: 'Large' } }, several: 'fail' })).toBe(
      'Look up the row of “Machine sizes” in which Size is Large; several are a failure.',
    );
    const wrong = (lookup: object) => stops(checkItem(wideForm, { steps: [find(lookup)] }, catalogue)).map((f) => f.code);
    expect(wrong({ find: 'rows', table: 'machines', where: byCores })).toEqual([]);
    expect(wrong({ find: 'rows', where: {} })).toEqual(['unset-setting']);
    expect(wrong({ find: 'rows', table: 'gone', where: {} })).toEqual(['unknown-table']);
    expect(wrong({ find: 'rows', table: 'machines', where: { weight: { literal: 3 } } })).toEqual(['unknown-reference']);
    expect(wrong({ find: 'rows', table: 'machines', where: { processors: { ref: 'form.reason' } } })).toEqual(['wrong-type']);
  });
});

describe('when a task is due', () => {
  it('is so many working days before a day', () => {
    const due = (by: string, workingDaysBefore?: number) => {
      const task = step('task', 'do', {
        assignee: { team: 'desk' },
        instructions: [],
        checklist: [],
        fields: [],
        due: { by: { ref: by }, ...(workingDaysBefore && { workingDaysBefore }) },
      });
      const p = play({ steps: [task] }, { answers: { from: '2026-03-09' } });
      return p.effects.find((e) => e.effect === 'taskDue');
    };
    expect(due('form.from')).toMatchObject({ at: '2026-03-09T16:00:00.000Z' });
    expect(due('form.from', 1)).toMatchObject({ at: '2026-03-06T16:00:00.000Z' });
    expect(due('form.from', 6)).toMatchObject({ at: '2026-02-27T16:00:00.000Z' });
    // Of an instant, its day in the zone of the hours that count.
    expect(due('request.opened', 1)).toMatchObject({ at: '2026-02-27T16:00:00.000Z' });
  });
});
