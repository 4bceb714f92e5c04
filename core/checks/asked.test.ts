import { describe, expect, it } from 'vitest';
import type { Field, Form } from '../forms/index.ts';
import type { PriceLine } from '../prices/index.ts';
import { blankItem, checkDefinition } from '../items/index.ts';
import { catalogue, gate, tell, wideForm } from '../testing/samples.ts';
import { checkForm, checkItem } from './index.ts';

const field = (more: Partial<Field>): Field => ({ id: 'f', kind: 'text', label: 'F', required: true, ...more });
const machine: Field = { id: 'machine', kind: 'row', label: 'Machine', required: true, table: 'machines' };
const found = (form: Form) => checkForm(form, catalogue).map((x) => [x.code, x.field ?? x.section ?? x.test]);
const of = (more: Partial<Field>) => found({ fields: [machine, field(more)] });

describe('what is found in a form', () => {
  it('is nothing in the sample of everything', () => {
    expect(checkForm(wideForm, catalogue)).toEqual([]);
  });

  it('names what a field begins with that is not there, or is of another type', () => {
    expect(of({ prefill: { ofAsker: 'manager' } })).toEqual([['wrong-type', 'f']]);
    expect(of({ prefill: { ofAsker: 'department' } })).toEqual([]);
    expect(of({ prefill: { row: 'gone', column: 'size' } })).toEqual([['unknown-reference', 'f']]);
    expect(of({ prefill: { row: 'f', column: 'size' } })).toEqual([['unknown-reference', 'f']]);
    expect(of({ prefill: { row: 'machine', column: 'weight' } })).toEqual([['unknown-reference', 'f']]);
    expect(of({ prefill: { row: 'machine', column: 'processors' } })).toEqual([['wrong-type', 'f']]);
    expect(of({ kind: 'number', prefill: { row: 'machine', column: 'processors' } })).toEqual([]);
  });

  it('names what a field offers of holdings, and begins with of one, that is not there, of another type, or need not be picked', () => {
    const access: Field = { id: 'access', kind: 'holding', label: 'Access', required: true, gave: 'directory.addMember' };
    const about = (more: Partial<Field>, first: Partial<Field> = {}) => found({ fields: [{ ...access, ...first }, field(more)] });
    expect(about({})).toEqual([]);
    expect(about({}, { gave: undefined })).toEqual([['unset-setting', 'access']]);
    expect(about({}, { gave: 'web.gone.make' })).toEqual([['unknown-action', 'access']]);
    expect(about({}, { gave: 'accounts.create' })).toEqual([['wrong-type', 'access']]);
    const [group, text] = [
      { holding: 'access', slot: 'group' },
      { holding: 'access', slot: 'note' },
    ];
    expect(about({ kind: 'group', prefill: group })).toEqual([]);
    expect(about({ prefill: group })).toEqual([['wrong-type', 'f']]);
    expect(about({ prefill: { holding: 'access', slot: 'weight' } })).toEqual([['unknown-reference', 'f']]);
    expect(about({ prefill: { holding: 'f', slot: 'note' } })).toEqual([['unknown-reference', 'f']]);
    expect(about({ held: 'locked', prefill: text }, { required: false })).toEqual([['may-have-no-value', 'f']]);
    expect(about({ held: 'locked', required: false, prefill: text }, { required: false })).toEqual([]);
  });

  it('names an action that is about what another one gave than the form offers, and nothing where it is the one', () => {
    const keep = (gave: string, input: object = { ref: 'form.access' }) =>
      checkItem(
        { fields: [{ id: 'access', kind: 'holding', label: 'Access', required: true, gave }] },
        {
          steps: [
            gate({ approvers: { from: 'people', people: [{ person: 'ada' }] }, rule: { rule: 'all' } }),
            {
              id: 'keep',
              kind: 'provision',
              name: 'Keep it',
              expected: { min: 'PT0S', likely: 'PT0S', max: 'PT0S' },
              action: 'directory.keepMember',
              inputs: { holding: input, until: { literal: '2027-03-01' } },
            } as never,
            tell('t', 'T'),
          ],
        },
        { ...catalogue, actions: [...catalogue.actions, { ...catalogue.actions[0]!, id: 'rooms.let', system: 'Rooms', label: 'Let somebody in' }] },
      ).map((f) => f.sentence);
    expect(keep('directory.addMember')).toEqual([]);
    expect(keep('rooms.let')).toEqual([
      '“Keep it” (“Leave a person in a group until another day” of Directory) is about what “Add a person to a group” of Directory gave, and “Access” is what “Let somebody in” of Rooms gave.',
    ]);
    expect(keep('directory.addMember', { ref: 'request.requester' })).toEqual(['Which holding of “Keep it” needs a holding and is given a person.']);
  });

  it('names a locked or hidden field that nothing gives a value, unless a gate opens it', () => {
    const form: Form = { fields: [field({ held: 'hidden' })] };
    expect(found(form)).toEqual([['unset-setting', 'f']]);
    expect(found({ fields: [field({ held: 'locked', default: 'x' })] })).toEqual([]);
    const opening = gate({ approvers: { from: 'people', people: [{ person: 'ada' }] }, rule: { rule: 'all' }, corrects: ['f'] });
    expect(checkItem(form, { steps: [opening, tell('t', 'T')] }, catalogue).filter((x) => x.field !== undefined)).toEqual([]);
    // What nobody fills in is not certain, though it is required of those to whom it is opened.
    const told = { ...tell('t', 'T'), subject: [[{ ref: 'form.f' }]] } as never;
    expect(checkItem(form, { steps: [opening, told] }, catalogue).map((x) => x.code)).toContain('may-have-no-value');
    expect(checkItem({ fields: [field({ held: 'hidden', default: 'x' })] }, { steps: [told] }, catalogue).map((x) => x.code)).toEqual([]);
  });

  it('names a way of writing that is not whole, what cannot be the only one, a section that says nothing', () => {
    expect(of({ shape: { pieces: [] } })).toEqual([['unset-setting', 'f']]);
    expect(of({ kind: 'yesNo', unique: { among: 'open' } })).toEqual([['wrong-type', 'f']]);
    expect(of({ unique: { among: 'rows' } })).toEqual([['unset-setting', 'f']]);
    expect(of({ unique: { among: 'rows', table: 'gone', column: 'size' } })).toEqual([['unknown-table', 'f']]);
    expect(of({ unique: { among: 'rows', table: 'machines', column: 'gone' } })).toEqual([['unknown-reference', 'f']]);
    expect(of({ unique: { among: 'rows', table: 'machines', column: 'size' } })).toEqual([]);
    // Of a system: an action that only reads, wants one text, and answers yes or no.
    expect(of({ unique: { among: 'system' } })).toEqual([['unset-setting', 'f']]);
    expect(of({ unique: { among: 'system', action: 'gone' } })).toEqual([['unknown-action', 'f']]);
    expect(of({ unique: { among: 'system', action: 'accounts.create' } })).toEqual([['wrong-type', 'f']]);
    const slot = (name: string, type: 'text' | 'boolean' | 'number') => ({ name, label: name, type });
    const exists = {
      id: 'spaces.exists',
      system: 'Spaces',
      label: 'Whether there is a space',
      grants: false,
      inputs: [{ ...slot('name', 'text'), required: true }],
      outputs: [
        { ...slot('there', 'boolean'), always: true },
        { ...slot('size', 'number'), always: false },
      ],
    };
    const withIt = (action: typeof exists) =>
      checkForm({ fields: [field({ unique: { among: 'system', action: 'spaces.exists' } })] }, { ...catalogue, actions: [action] }).map(
        (x) => x.code,
      );
    expect(withIt(exists)).toEqual([]);
    expect(withIt({ ...exists, grants: true })).toEqual(['wrong-type']);
    expect(withIt({ ...exists, inputs: [...exists.inputs, { ...slot('who', 'text'), required: true }] })).toEqual(['wrong-type']);
    expect(withIt({ ...exists, outputs: exists.outputs.map((o) => ({ ...o, always: false })) })).toEqual(['wrong-type']);
    expect(found({ fields: [machine], sections: [{ id: 's', title: ' ', note: [] }] })).toEqual([['unset-setting', 's']]);
  });

  it('is a test that comes out otherwise than it says', () => {
    const test = (answers: object, refused?: { field: string; sentence: string }) => {
      const form: Form = { fields: [field({})], tests: [{ id: 't', name: 'Empty', answers: answers as never, ...(refused && { refused }) }] };
      return checkForm(form, catalogue).map((x) => x.sentence);
    };
    expect(test({ f: 'x' })).toEqual([]);
    expect(test({})).toEqual(['The test “Empty” expects that its answers are taken. They are refused: Fill in “F”.']);
    expect(test({}, { field: 'f', sentence: '' })).toEqual([]);
    expect(test({}, { field: 'f', sentence: 'Fill in “F”.' })).toEqual([]);
    expect(test({}, { field: 'f', sentence: 'Otherwise.' })).toEqual(['The test “Empty” expects “Otherwise.” It is told “Fill in “F”.”']);
    expect(test({ f: 'x' }, { field: 'f', sentence: '' })).toEqual(['The test “Empty” expects a refusal at “F”. Its answers are taken.']);
    expect(test({}, { field: 'gone', sentence: '' })).toEqual(['The test “Empty” expects a refusal at a field that the form does not ask any more.']);
  });

  it('is a rule that no answers can keep, or none can break, within the bounds of the form', () => {
    const cores = (compare: 'more' | 'atMost' | 'atLeast', n: number, required = true): Form => ({
      fields: [{ id: 'cores', kind: 'number', label: 'Processors', required, min: 1, max: 16 }],
      rules: [{ id: 'r', holds: { compare, left: { ref: 'form.cores' }, right: { literal: n } }, field: 'cores', sentence: 'Not so many.' }],
    });
    const told = (form: Form) => checkForm(form, catalogue).map((f) => [f.code, f.severity, f.rule]);
    expect(told(cores('more', 20))).toEqual([['never-holds', 'stops', 'r']]);
    expect(told(cores('atMost', 16))).toEqual([['always-holds', 'warns', 'r']]);
    expect(told(cores('atLeast', 2))).toEqual([]);
    // Left empty it breaks nothing, and so is taken.
    expect(told(cores('more', 20, false))).toEqual([]);
    expect(told(cores('atMost', 16, false))).toEqual([['always-holds', 'warns', 'r']]);
  });

  it('is a line of the price that is not whole, or reads what is not there', () => {
    const prices = (...lines: Partial<PriceLine>[]) => {
      const all = lines.map((l, i): PriceLine => ({
        id: `p${i}`,
        label: 'Machine',
        per: 'day',
        amount: { literal: { amount: '1', currency: 'EUR' } },
        ...l,
      }));
      const item = {
        ...blankItem('Machine'),
        form: { fields: [machine, field({ kind: 'number' })] },
        plan: { steps: [tell('t', 'T')] },
        prices: all,
      };
      return checkDefinition('item', item, catalogue).map((x) => [x.code, x.price]);
    };
    expect(prices({}, { amount: { ref: 'form.machine.daily' }, times: [{ ref: 'form.f' }, { ref: 'form.machine.processors' }] })).toEqual([]);
    expect(prices({ label: ' ' }, { amount: undefined }, { amount: { literal: null } })).toEqual([
      ['unset-setting', 'p0'],
      ['unset-setting', 'p1'],
      ['unset-setting', 'p2'],
    ]);
    expect(prices({ amount: { ref: 'form.machine.size' } }, { times: [{ ref: 'form.machine' }] }, { amount: { ref: 'form.gone' } })).toEqual([
      ['wrong-type', 'p0'],
      ['wrong-type', 'p1'],
      ['unknown-reference', 'p2'],
    ]);
    expect(prices({ when: { compare: 'less', left: { ref: 'form.f' }, right: { literal: 'x' } } })).toEqual([['wrong-type', 'p0']]);
  });
});
