import { randomBytes } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Field, Form } from '../../core/forms/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import { gate, step, tell } from '../../core/testing/samples.ts';
import { decide } from '../approvals/commands.ts';
import { approvalFor } from '../approvals/queries.ts';
import { previewFor } from '../items/preview.ts';
import { offeredItem } from '../items/offered.ts';
import { publish, saveDraft } from '../items/commands.ts';
import { draftOf } from '../items/queries.ts';
import { bringRowsBack, takeRowsOff } from '../tables/commands.ts';
import { world, type World } from '../testing/world.ts';
import { answerQuestion } from './commands.ts';
import { begunFor, foreseen } from './foreseen.ts';
import { answersAgain, myRequest } from './queries.ts';
import { submitRequest } from './submit.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());

const text = (id: string, more: Partial<Field> = {}): Field => ({ id, kind: 'text', label: id, required: true, ...more });
const machine = (): Field => ({ id: 'machine', kind: 'row', label: 'Machine', required: false, table: w.machine.table });
const send = (itemId: string, answers: Record<string, unknown>, who = 'tor', key = randomBytes(8).toString('hex')) =>
  submitRequest(w.viewer(who), { itemId, revision: 1, answers, idempotencyKey: key });
const told = (r: Awaited<ReturnType<typeof send>>) => (r.ok ? 'taken' : (r.problems?.map((p) => `${p.field}: ${p.sentence}`) ?? r.sentence));
const answersOf = async (number: number) =>
  (await w.query<{ answers: Record<string, unknown> }>('select answers from service_case where number = $1', [number]))[0]!.answers;
const askOwner = (more: Parameters<typeof gate>[0] = {}) =>
  gate({ approvers: { from: 'people', people: [{ person: w.id('ina') }] }, rule: { rule: 'all' }, nobody: { then: 'pass' }, ...more });
const ends = () => ({ steps: [askOwner(), tell('t', 'Told')] });
const definitionOf = async (id: string) => (await offeredItem(w.viewer('tor'), id))!.definition;
async function publishAs(id: string, more: Partial<ItemDefinition>): Promise<void> {
  const dan = w.viewer('dan', 'designer');
  const draft = (await draftOf(dan, id))!;
  const saved = await saveDraft(dan, { id, version: draft.version, draft: { ...draft.draft, ...more } });
  if (!saved.ok) throw new Error(saved.sentence);
  const published = await publish(dan, { id, version: saved.version, note: '' });
  if (!published.ok) throw new Error(published.sentence);
}

describe('what a form begins with', () => {
  it('is known of whoever asks, and of the row they pick; what nobody fills in is never what was sent', async () => {
    const form: Form = {
      fields: [
        text('mail', { kind: 'address', prefill: { ofAsker: 'mail' } }),
        text('boss', { kind: 'person', required: false, prefill: { ofAsker: 'manager' }, held: 'locked' }),
        machine(),
        text('processors', { kind: 'number', required: false, prefill: { row: 'machine', column: 'processors' }, held: 'locked' }),
        text('account', { held: 'hidden', default: 'Charts' }),
      ],
    };
    const item = await w.item('Begun', ends(), form);
    const offered = { id: item.id, definition: await definitionOf(item.id) };
    const begun = await begunFor(w.viewer('tor'), offered, {});
    expect(begun.answers).toEqual({ mail: 'tor@skerrin.example', boss: { person: w.id('runa') }, account: 'Charts' });
    expect(begun.names[w.id('runa')]).toContain('Runa');
    const picked = await foreseen(w.viewer('tor'), offered, { machine: w.machine });
    expect(picked.begins).toEqual({ processors: 8 });
    const forged = { mail: 'other@skerrin.example', machine: w.machine, processors: 64, account: 'Mine', boss: { person: w.id('tor') } };
    const made = await send(item.id, forged);
    if (!made.ok) throw new Error(told(made) as string);
    expect(await answersOf(made.number)).toEqual({
      mail: 'other@skerrin.example',
      boss: { person: w.id('runa') },
      machine: w.machine,
      processors: 8,
      account: 'Charts',
    });
    const mine = (await myRequest(w.viewer('tor'), made.number))!;
    expect(mine.answers.map((a) => a.label)).toEqual(['mail', 'boss', 'Machine', 'processors']);
    const again = await answersAgain(w.viewer('tor'), made.number, form);
    expect(Object.keys(again!.answers)).toEqual(['mail', 'machine']);
  });

  it('is what a designer sees for anybody, of the draft as it stands', async () => {
    const item = await w.item('Previewed', ends(), { fields: [text('boss', { kind: 'person', prefill: { ofAsker: 'manager' } })] });
    const dan = w.viewer('dan', 'designer');
    const seen = await previewFor(dan, { id: item.id, person: w.id('tor'), answers: {} });
    expect(seen!.begins).toEqual({ boss: { person: w.id('runa') } });
    expect(seen!.foreseen.agreed.map((a) => a.sentence)).toEqual(['Ina Strand must agree.']);
    expect((await previewFor(dan, { id: item.id, person: w.id('boss'), answers: {} }))!.begins).toEqual({});
    expect(await previewFor(w.viewer('tor'), { id: item.id, person: w.id('tor'), answers: {} })).toBeUndefined();
  });
});

describe('a field that is opened to approvers', () => {
  it('is theirs to fill in, wanted of them, and stays when the request is sent back', async () => {
    const form: Form = { fields: [text('what'), text('cost', { kind: 'number', held: 'hidden' })] };
    const item = await w.item(
      'Costed',
      { steps: [askOwner({ corrects: ['cost'], sendBack: true }), askOwner({ id: 'second', name: 'Second', sendBack: true }), tell('t', 'T')] },
      form,
    );
    const made = await send(item.id, { what: 'A desk', cost: 5 });
    if (!made.ok) throw new Error(told(made) as string);
    expect(await answersOf(made.number)).toEqual({ what: 'A desk', cost: null });
    const waiting = async () =>
      (
        await w.query<{ id: string }>(
          "select approval.id from approval join gate on gate.id = gate_id where status = 'waiting' and gate.closed_at is null and person_id = $1 order by asked_at desc limit 1",
          [w.id('ina')],
        )
      )[0]!.id;
    const ina = w.viewer('ina');
    const first = await waiting();
    expect((await approvalFor(ina, first))!.correctable.fields.map((f) => f.id)).toEqual(['cost']);
    expect(await decide(ina, { approvalId: first, decision: 'approve', comment: '', corrections: { cost: '' } })).toMatchObject({
      ok: false,
      problems: [{ field: 'cost' }],
    });
    expect(await decide(ina, { approvalId: first, decision: 'approve', comment: '', corrections: { cost: 120 } })).toMatchObject({ ok: true });
    expect(await answersOf(made.number)).toEqual({ what: 'A desk', cost: 120 });
    expect(await decide(ina, { approvalId: await waiting(), decision: 'sendBack', comment: 'Which desk?' })).toMatchObject({ ok: true });
    const mine = (await myRequest(w.viewer('tor'), made.number))!;
    const sent = await answerQuestion(w.viewer('tor'), { id: mine.questions[0]!.id, values: { what: 'The tall desk', cost: 1 } });
    expect(sent).toMatchObject({ ok: true });
    expect(await answersOf(made.number)).toEqual({ what: 'The tall desk', cost: 120 });
  });
});

describe('what is looked up in a row', () => {
  it('is looked up anew where an approver, or whoever asked, picks another row, and stays else', async () => {
    const form: Form = {
      fields: [
        text('what'),
        machine(),
        text('processors', { kind: 'number', required: false, prefill: { row: 'machine', column: 'processors' }, held: 'locked' }),
        text('account', { held: 'hidden', default: 'Charts' }),
      ],
    };
    const gates = [askOwner({ corrects: ['machine', 'what'] }), askOwner({ id: 'second', name: 'Second', sendBack: true })];
    const item = await w.item('Looked up', { steps: [...gates, tell('t', 'T')] }, form);
    const made = await send(item.id, { what: 'A machine', machine: w.machine });
    if (!made.ok) throw new Error(told(made) as string);
    const small = { ...w.machine, key: 'Small' };
    await bringRowsBack(w.viewer('dan', 'designer'), { table: w.machine.table, keys: ['Small'] });
    const ofThis = async () =>
      (
        await w.query<{ id: string }>(
          "select a.id from approval a join gate on gate.id = gate_id join run on run.id = gate.run_id join service_case c on c.id = run.case_id where c.number = $1 and a.status = 'waiting' and gate.closed_at is null",
          [made.number],
        )
      )[0]!.id;
    const ina = w.viewer('ina');
    expect(
      await decide(ina, { approvalId: await ofThis(), decision: 'approve', comment: '', corrections: { machine: small, what: 'A small one' } }),
    ).toMatchObject({
      ok: true,
    });
    expect(await answersOf(made.number)).toEqual({ what: 'A small one', machine: small, processors: 1, account: 'Charts' });
    expect(await decide(ina, { approvalId: await ofThis(), decision: 'sendBack', comment: 'Which?' })).toMatchObject({ ok: true });
    const [question] = (await myRequest(w.viewer('tor'), made.number))!.questions;
    const again = await answerQuestion(w.viewer('tor'), { id: question!.id, values: { what: 'A large one', machine: w.machine, processors: 64 } });
    expect(again).toMatchObject({ ok: true });
    expect(await answersOf(made.number)).toEqual({ what: 'A large one', machine: w.machine, processors: 8, account: 'Charts' });
  });
});

describe('an answer that must be the only one', () => {
  it('is refused while an open request has it, whatever its capitals, and taken again when that has ended', async () => {
    const item = await w.item('Spaces', ends(), { fields: [text('space', { unique: { among: 'open' } })] });
    const other = await w.item('Other spaces', ends(), { fields: [text('space', { unique: { among: 'open' } })] });
    const first = await send(item.id, { space: 'Tide tables' });
    if (!first.ok) throw new Error(told(first) as string);
    expect(told(await send(item.id, { space: 'TIDE tables' }, 'runa'))).toEqual([
      'space: space is taken: an open request asks for it already. Choose another.',
    ]);
    const offered = { id: item.id, definition: await definitionOf(item.id) };
    expect((await foreseen(w.viewer('runa'), offered, { space: 'tide Tables' })).taken).toHaveLength(1);
    expect((await foreseen(w.viewer('runa'), offered, { space: 'Tide table' })).taken).toEqual([]);
    expect(told(await send(other.id, { space: 'Tide tables' }))).toBe('taken');
    const [run] = await w.query<{ id: string }>('select run.id from run join service_case c on c.id = case_id where c.number = $1', [first.number]);
    await w.decide('ina', run!.id, 'decline', 'No');
    expect(told(await send(item.id, { space: 'Tide tables' }, 'runa'))).toBe('taken');
  });

  it('is given to one of many who send it at once; the same form sent twice is one request', async () => {
    const item = await w.item('Contested', ends(), { fields: [text('space', { unique: { among: 'open' } })] });
    const all = await Promise.all(Array.from({ length: 12 }, (_, i) => send(item.id, { space: 'One' }, ['tor', 'runa', 'olav'][i % 3], `k${i % 6}`)));
    const numbers = new Set(all.flatMap((r) => (r.ok ? [r.number] : [])));
    expect(numbers.size).toBe(1);
    const [count] = await w.query<{ n: number }>('select count(*)::int as n from service_case where item_id = $1', [item.id]);
    expect(count!.n).toBe(1);
    // Sent again by the same, under the same key: the same request.
    const winner = all.findIndex((r) => r.ok);
    expect(await send(item.id, { space: 'One' }, ['tor', 'runa', 'olav'][winner % 3], `k${winner % 6}`)).toMatchObject({ ok: true });
  });

  it('is looked for among the rows of a table and the groups of the directory', async () => {
    const fields = [
      text('size', { unique: { among: 'rows', table: w.machine.table, column: 'size' } }),
      text('group', { unique: { among: 'groups' } }),
    ];
    const item = await w.item('Sizes', ends(), { fields });
    expect(told(await send(item.id, { size: 'large', group: 'Tide-Models' }))).toEqual([
      'size: size is taken: it stands in “Machine sizes” already. Choose another.',
      'group: group is taken: there is a group “tide-models” already. Choose another.',
    ]);
    await takeRowsOff(w.viewer('dan', 'designer'), { table: w.machine.table, keys: ['Small'] });
    expect(told(await send(item.id, { size: 'Small', group: 'tide' }))).toBe('taken');
  });

  it('is held to when an approver corrects, and not against the request itself', async () => {
    const item = await w.item(
      'Corrected',
      { steps: [askOwner({ corrects: ['space'] }), tell('t', 'T')] },
      { fields: [text('space', { unique: { among: 'open' } })] },
    );
    const [one, two] = [await send(item.id, { space: 'North' }), await send(item.id, { space: 'South' }, 'runa')];
    if (!one.ok || !two.ok) throw new Error('Not sent');
    const approvals = await w.query<{ id: string }>(
      'select approval.id from approval join gate on gate.id = gate_id join run on run.id = gate.run_id join service_case c on c.id = run.case_id where c.number = $1',
      [two.number],
    );
    const by = (space: string) => decide(w.viewer('ina'), { approvalId: approvals[0]!.id, decision: 'approve', comment: '', corrections: { space } });
    expect(await by('north')).toMatchObject({ ok: false, problems: [{ field: 'space' }] });
    expect(await by('south')).toMatchObject({ ok: true });
  });
});

describe('what answers lead to', () => {
  it('is priced by the rows and numbers they hold, as the table is now', async () => {
    const item = await w.item('Priced', ends(), { fields: [machine(), text('days', { kind: 'number', required: false })] });
    await publishAs(item.id, {
      prices: [
        { id: 'p1', label: 'Setting up', amount: { literal: { amount: '100', currency: 'EUR' } }, per: 'once' },
        { id: 'p2', label: 'Machine', amount: { ref: 'form.machine.daily' }, per: 'day' },
        { id: 'p3', label: 'In all', amount: { ref: 'form.machine.daily' }, times: [{ ref: 'form.days' }], per: 'once' },
      ],
    });
    const offered = { id: item.id, definition: await definitionOf(item.id) };
    const price = async (answers: Record<string, never>) => (await foreseen(w.viewer('tor'), offered, answers)).price;
    expect(await price({})).toEqual({
      lines: [{ label: 'Setting up', words: '100.00 EUR once' }],
      totals: ['100.00 EUR once'],
      open: ['Machine', 'In all'],
    });
    expect(await price({ machine: w.machine, days: 30 } as never)).toEqual({
      lines: [
        { label: 'Setting up', words: '100.00 EUR once' },
        { label: 'Machine', words: '12.50 EUR per day' },
        { label: 'In all', words: '375.00 EUR once' },
      ],
      totals: ['475.00 EUR once', '12.50 EUR per day'],
      open: [],
    });
  });

  it('says which answer raises a gate, and which would not', async () => {
    const plan = {
      steps: [
        step('choose', 'c', {
          cases: [{ id: 'x', name: 'Many', when: { compare: 'atLeast', left: { ref: 'form.cores' }, right: { literal: 2 } }, block: [askOwner()] }],
        }),
        tell('t', 'T'),
      ],
    };
    const item = await w.item('Machines', plan, { fields: [text('cores', { kind: 'number', label: 'Processors', min: 1, max: 8 })] });
    const offered = { id: item.id, definition: await definitionOf(item.id) };
    const agreed = async (cores: number) => (await foreseen(w.viewer('tor'), offered, { cores })).agreed;
    expect(await agreed(4)).toEqual([
      { sentence: 'Ina Strand must agree.', why: 'Because “Processors” is at least 2. Not asked with “Processors”: 1.' },
    ]);
    expect(await agreed(1)).toEqual([]);
  });
});

describe('a form’s tests', () => {
  it('stop publishing where one comes out otherwise', async () => {
    const fields = [text('days', { kind: 'number', max: 5 })];
    const item = await w.item('Tested', ends(), { fields });
    const tests = [{ id: 't1', name: 'Too long', answers: { days: 9 }, refused: { field: 'days', sentence: 'days: at most 5.' } }];
    await publishAs(item.id, { form: { fields, tests } });
    await expect(publishAs(item.id, { form: { fields: [text('days', { kind: 'number', max: 10 })], tests } })).rejects.toThrow('one finding stops');
  });
});
