import { describe, expect, it } from 'vitest';
import { machines, wideForm } from '../testing/samples.ts';
import { rowId } from '../values/index.ts';
import {
  begunAnswers,
  factsFor,
  missingFields,
  nothingKnown,
  surelyBegins,
  validateAnswers,
  withHeld,
  type CellsOf,
  type Facts,
  type Field,
  type Form,
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
const known = { asker, cells };
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
