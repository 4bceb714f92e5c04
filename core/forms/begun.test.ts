import { describe, expect, it } from 'vitest';
import { machines, wideForm } from '../testing/samples.ts';
import { rowId } from '../values/index.ts';
import {
  begunAnswers,
  factsFor,
  heldAgain,
  missingFields,
  notKnownOf,
  nothingKnown,
  surelyBegins,
  validateAnswers,
  withHeld,
  type CellsOf,
  type Exists,
  type Facts,
  type Field,
  type Form,
  type Known,
  type SlotsOf,
} from './index.ts';

const asker: Facts = {
  self: { person: 'tor' },
  manager: { person: 'runa' },
  name: 'Tor Strand',
  mail: 'tor@skerrin.example',
  department: 'Charts',
  job: null,
  place: { location: 'quay' },
};
const cells: CellsOf = (row) => machines[rowId(row)];
const slots: SlotsOf = (id) => (id === 'h1' ? { size: 'Large', days: 14, until: '2026-12-03' } : undefined);
const known: Known = { asker, cells, slots };
const large = { table: 'machines', key: 'Large' };
const field = (more: Partial<Field>): Field => ({ id: 'f', kind: 'text', label: 'F', required: true, ...more });

describe('what a form begins with', () => {
  it('is looked up of whoever asks and of the rows they pick, else the default', () => {
    expect(begunAnswers(wideForm, known)).toEqual({ account: 'Charts', boss: { person: 'runa' } });
    expect(begunAnswers(wideForm, known, { machine: large })).toMatchObject({ daily: { amount: '12.50', currency: 'EUR' } });
    expect(begunAnswers(wideForm, nothingKnown, { machine: large })).toEqual({ account: 'Charts' });
    const job: Form = {
      fields: [field({ prefill: { ofAsker: 'job' }, default: 'Not stated' }), field({ id: 'd', prefill: { ofAsker: 'department' } })],
    };
    expect(begunAnswers(job, known)).toEqual({ f: 'Not stated', d: 'Charts' });
  });

  it('is never of another type than the field', () => {
    expect(begunAnswers({ fields: [field({ kind: 'number', prefill: { ofAsker: 'name' } })] }, known)).toEqual({});
    expect(factsFor('person').map((f) => f.fact)).toEqual(['self', 'manager']);
    expect(factsFor('text').map((f) => f.fact)).toEqual(['name', 'mail', 'department', 'job']);
    expect(factsFor('location').map((f) => f.fact)).toEqual(['place']);
    expect(factsFor('number')).toEqual([]);
  });
});

describe('a field that whoever asks does not fill in', () => {
  it('holds what it begins with, whatever is sent for it', () => {
    const sent = { machine: large, daily: { amount: '0', currency: 'EUR' }, account: 'Somewhere', boss: { person: 'tor' } };
    expect(withHeld(wideForm, sent, known)).toEqual({
      machine: large,
      daily: { amount: '12.50', currency: 'EUR' },
      account: 'Charts',
      boss: { person: 'runa' },
      open: null,
    });
    // A row without a price has none: nothing that was sent stands in its place.
    expect(withHeld(wideForm, { ...sent, machine: null }, known)).toMatchObject({ daily: null });
  });

  it('is wanted of nobody but those to whom it is opened', () => {
    const form: Form = { fields: [field({ held: 'hidden' })] };
    expect([validateAnswers(form, {}).ok, missingFields(form, {})]).toEqual([true, []]);
    expect(validateAnswers(form, {}, undefined, new Set(['f']))).toMatchObject({ ok: false, problems: [{ field: 'f', sentence: 'Fill in “F”.' }] });
  });

  it('has a value for certain where its default says so, or everybody has the fact', () => {
    expect(surelyBegins(field({ held: 'hidden', default: 'x' }))).toBe(true);
    expect(surelyBegins(field({ held: 'hidden', prefill: { ofAsker: 'mail' } }))).toBe(true);
    expect(surelyBegins(field({ held: 'hidden', prefill: { ofAsker: 'manager' } }))).toBe(false);
    expect(surelyBegins(field({ held: 'hidden', prefill: { row: 'm', column: 'c' } }))).toBe(false);
  });
});

describe('what is looked up of a holding', () => {
  const longer: Form = {
    fields: [
      field({ id: 'machine', kind: 'holding', gave: 'park.make', lent: true }),
      field({ id: 'size', held: 'locked', prefill: { holding: 'machine', slot: 'size' } }),
      field({ id: 'until', kind: 'date', required: false, held: 'locked', prefill: { holding: 'machine', slot: 'until' } }),
    ],
  };
  const [mine, other] = [{ holding: 'h1' }, { holding: 'h2' }];

  it('follows which one is picked, and is nothing where nothing is known of it, whatever is sent', () => {
    expect(begunAnswers(longer, known, { machine: mine })).toEqual({ size: 'Large', until: '2026-12-03' });
    const sent = { machine: mine, size: 'Small', until: '2030-01-01' };
    expect(withHeld(longer, sent, known)).toEqual({ machine: mine, size: 'Large', until: '2026-12-03' });
    expect(withHeld(longer, { ...sent, machine: other }, known)).toEqual({ machine: other, size: null, until: null });
    const before = { machine: mine, size: 'Medium', until: '2026-11-01' };
    // As it stood when it was asked for, unless it is about another one now.
    expect(heldAgain(longer, { machine: mine, size: 'x' }, before, known)).toEqual(before);
    expect(heldAgain(longer, { machine: mine }, { ...before, machine: other }, known)).toMatchObject({ size: 'Large' });
  });

  it('that is required has to be known, and so is certain', () => {
    expect(notKnownOf(longer, { machine: mine, size: 'Large' })).toEqual([]);
    expect(notKnownOf(longer, { machine: other, size: null, until: null })).toEqual([
      { field: 'machine', sentence: 'F: “F” of it is not known here. Pick another, or ask the desk.' },
    ]);
    expect(notKnownOf(longer, {})).toEqual([]);
    expect(longer.fields.map(surelyBegins)).toEqual([false, true, false]);
  });

  it('is picked among what there is, given by the action that the field names', () => {
    const form: Form = { fields: [longer.fields[0]!] };
    const said = (exists: Exists, machine: unknown = mine) => {
      const held = validateAnswers(form, { machine }, exists);
      return held.ok ? 'taken' : held.problems[0]!.sentence;
    };
    expect(said((kind, id, of) => kind === 'holding' && id === 'h1' && of.gave === 'park.make' && of.lent === true)).toBe('taken');
    expect(said((_, __, of) => of.gave === 'directory.addMember')).toBe('F: this holding is not known. Pick one from the list.');
    expect(said(() => true, { group: 'tides' })).toBe('F: this holding is not known. Pick one from the list.');
    expect(said(() => true, null)).toBe('Pick “F”.');
  });
});
