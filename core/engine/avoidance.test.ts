import { describe, expect, it } from 'vitest';
import { add, gate, step } from '../testing/samples.ts';
import type { Condition } from '../conditions/index.ts';
import type { Answers, Form } from '../forms/index.ts';
import { agreements, avoidances } from './index.ts';

const at = (id: string) => ({ ref: `form.${id}` });
const form: Form = {
  fields: [
    { id: 'cores', kind: 'number', label: 'Processors', required: true, min: 1, max: 16 },
    {
      id: 'kind',
      kind: 'choice',
      label: 'Kind',
      required: true,
      options: ['daily', 'project', 'trial'].map((value) => ({ value, label: value })),
    },
    { id: 'from', kind: 'date', label: 'From', required: true },
    { id: 'far', kind: 'yesNo', label: 'Far', required: true },
  ],
};
const plan = (when: Condition) => ({ steps: [step('choose', 'c', { cases: [{ id: 'x', name: 'X', when, block: [gate({ id: 'lead' })] }] }), add] });
function found(when: Condition, answers: Answers) {
  const raised = (given: Answers) => agreements(plan(when), given, 'req', () => undefined);
  const [lead] = raised(answers);
  if (!lead) return undefined;
  return avoidances(form, answers, lead.because, (given) => raised(given).some((a) => a.gate.id === 'lead')).map((a) => [a.field.id, a.value]);
}

describe('which answer would avoid an agreement', () => {
  const cores: Condition = { compare: 'atLeast', left: at('cores'), right: { literal: 2 } };
  it('is the nearest number or day, every other choice, and the other of two', () => {
    expect(found(cores, { cores: 4 })).toEqual([['cores', 1]]);
    expect(found({ compare: 'is', left: at('kind'), right: { literal: 'project' } }, { kind: 'project' })).toEqual([
      ['kind', 'daily'],
      ['kind', 'trial'],
    ]);
    expect(found({ compare: 'less', left: at('from'), right: { literal: '2026-12-01' } }, { from: '2026-11-20' })).toEqual([['from', '2026-12-01']]);
    expect(found({ compare: 'is', left: at('far'), right: { literal: true } }, { far: true })).toEqual([['far', false]]);
  });

  it('is only what the form takes, and what avoids it by itself', () => {
    expect(found({ compare: 'atLeast', left: at('cores'), right: { literal: 1 } }, { cores: 3 })).toEqual([]);
    const either: Condition = { any: [cores, { compare: 'is', left: at('far'), right: { literal: true } }] };
    expect(found(either, { cores: 4, far: true })).toEqual([]);
    expect(found(either, { cores: 1, far: true })).toEqual([['far', false]]);
    expect(found(cores, { cores: 1 })).toBeUndefined();
  });

  it('is said of a gate under “otherwise” as well', () => {
    const otherwise = {
      steps: [step('choose', 'c', { cases: [{ id: 'x', name: 'X', when: cores, block: [add] }], otherwise: [gate({ id: 'lead' })] })],
    };
    const [lead] = agreements(otherwise, { cores: 1 }, 'req', () => undefined);
    expect(lead!.because).toEqual([{ not: cores }]);
    const leads = (given: Answers) => agreements(otherwise, given, 'req', () => undefined).length > 0;
    expect(avoidances(form, { cores: 1 }, lead!.because, leads).map((a) => a.value)).toEqual([2]);
  });
});
