import { describe, expect, it } from 'vitest';
import { checkItem } from '../../checks/index.ts';
import { play } from '../../testing/player.ts';
import { catalogue, step, tell, wideForm } from '../../testing/samples.ts';
import { sentence } from '../../values/index.ts';
import type { Plan, Write } from '../../plans/index.ts';

const letter = (more: Partial<Write> = {}) =>
  step('write', 'loan', {
    name: 'Loan paper',
    fileName: sentence('Loan'),
    title: sentence('What is lent'),
    body: [{ text: sentence('What is lent:') }],
    numbered: true,
    ...more,
  } as never);
const found = (steps: Plan['steps']) =>
  checkItem(wideForm, { steps }, catalogue)
    .filter((f) => f.step === 'loan' || f.step === 'send')
    .map((f) => [f.code, f.sentence]);
const after = tell('end', 'Tell');

describe('what the check finds of a letter', () => {
  it('nothing, where it is whole', () => expect(found([letter(), after])).toEqual([]));
  it.each<[string, Partial<Write>, string]>([
    ['a name', { fileName: [] }, 'a name for its file'],
    ['a title', { title: sentence(' ') }, 'a title'],
    ['words', { body: [{ text: [] }] }, 'words'],
    ['a list for its table', { body: [{ text: [], table: { columns: [] } }] }, 'the list of its table'],
  ])('that it has not %s', (_, more, what) => {
    const all = found([letter(more), after]);
    expect(all.map(([code]) => code)).toEqual(['unset-setting']);
    expect(all[0]![1]).toContain(what);
  });
  it('that a table is to be made of what is no list, or of columns that the list has not', () => {
    const of = (ref: string, id: string) =>
      found([letter({ body: [{ text: [], table: { list: { ref }, columns: [{ id, head: 'Weight' }] } }] }), after]);
    expect(of('form.gear', 'what')).toEqual([]);
    expect(of('form.gear', 'weight')).toEqual(
      [['unknown-reference', 'The table of “loan” has a column “Weight” that “Instruments” has not.']].map(([c, s]) => [
        c,
        s!.replace('loan', 'Loan paper'),
      ]),
    );
    expect(of('form.reason', 'what').map(([code]) => code)).toEqual(['wrong-type', 'unknown-reference']);
  });
  it('that a value in it may not be there, unless its passage is shown only then', () => {
    const text = [[{ ref: 'form.colleague' }]];
    expect(found([letter({ body: [{ text }] }), after]).map(([code]) => code)).toEqual(['may-have-no-value']);
    expect(found([letter({ body: [{ when: { has: { ref: 'form.colleague' } }, text }] }), after])).toEqual([]);
  });
  it('that a message is to take something with it that is no file, or a letter that is not written before it', () => {
    const send = { ...tell('send', 'Send'), attaches: [{ ref: 'steps.loan.file' }] } as never;
    expect(found([letter(), send])).toEqual([]);
    expect(found([send, letter()]).map(([code]) => code)).toEqual(['unknown-reference']);
    expect(found([{ ...tell('send', 'Send'), attaches: [{ ref: 'form.reason' }] } as never, after]).map(([code]) => code)).toEqual(['wrong-type']);
  });
});

describe('a letter of a request', () => {
  const plan: Plan = { steps: [letter({ body: [{ text: [[{ ref: 'form.kind' }]], table: { list: { ref: 'form.crew' }, columns: [] } }] }), after] };
  const key = 'loan#1';
  it('is asked for once with the values of the moment, and the request goes on with its file', () => {
    const p = play(plan);
    expect(p.effects.filter((e) => e.effect === 'letter')).toMatchObject([
      {
        key,
        round: 0,
        numbered: true,
        body: [{ words: { values: { 'form.kind': 'daily' } }, table: { list: 'form.crew', rows: expect.any(Array) as unknown, columns: [] } }],
      },
    ]);
    p.feed({ type: 'answered', key, round: 0, outputs: { file: { file: 'f1' } } });
    expect(p.state().outcome).toBe('fulfilled');
    expect(p.state().outputs['loan']).toEqual({ file: { file: 'f1' } });
    expect(p.feed({ type: 'answered', key, round: 0, outputs: { file: { file: 'f2' } } })).toMatchObject([{ effect: 'ignored' }]);
  });
  it('that cannot be made waits for a person; asked for anew it is another, and what comes of the first is late', () => {
    const p = play(plan);
    p.feed({ type: 'callFailed', key, round: 0, cause: 'Too long.' });
    expect(p.open('loan')).toMatchObject({ phase: 'stuck', cause: 'Too long.' });
    expect(p.feed({ type: 'retried', key, person: 'tech' })).toContainEqual(expect.objectContaining({ effect: 'letter', round: 1 }));
    expect(p.feed({ type: 'answered', key, round: 0, outputs: {} })).toMatchObject([{ effect: 'ignored' }]);
    p.feed({ type: 'answered', key, round: 1, outputs: { file: { file: 'f1' } } });
    expect(p.state().outcome).toBe('fulfilled');
  });
  it('is not needed any more where the request is withdrawn', () => {
    const p = play(plan);
    expect(p.feed({ type: 'withdrawn', person: 'req' })).toContainEqual({ effect: 'cancelLetter', key });
  });
});
