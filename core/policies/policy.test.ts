import { describe, expect, it } from 'vitest';
import { compile, type Condition } from '../conditions/index.ts';
import { checkPolicy, inTermsOf, lineFor, type Policy, type PolicyLine } from './index.ts';

const line = (id: string, atLeast: number | undefined, approvers: PolicyLine['approvers']): PolicyLine => ({
  id,
  ...(atLeast !== undefined && { when: { compare: 'atLeast', left: { ref: 'input.cores' }, right: { literal: atLeast } } }),
  approvers,
  rule: { rule: 'any' },
});
const policy = (...lines: PolicyLine[]): Policy => ({
  name: 'Machines',
  purpose: '',
  inputs: [{ name: 'cores', label: 'Processors', type: 'number' }],
  lines,
});
const lead = { from: 'people' as const, people: [{ person: 'lead' }] };

describe('an approval policy', () => {
  // Common practice, no source: one processor is free to take, two need approval.
  const machines = policy(line('many', 8, { from: 'chain', levels: 2 }), line('two', 2, lead), line('free', undefined, { from: 'nobody' }));
  it('follows the first line that holds', () => {
    expect([1, 2, 7, 8, null].map((cores) => lineFor(machines, { cores })?.id)).toEqual(['free', 'two', 'two', 'many', 'free']);
    expect(lineFor(policy(line('two', 2, lead)), { cores: 1 })).toBeUndefined();
  });
  it('is told in terms of what a gate gives it, with the same truth', () => {
    const when = machines.lines[1]!.when!;
    const given = { cores: { ref: 'form.size.processors' } };
    expect(inTermsOf(when, given)).toEqual({ ...when, left: { ref: 'form.size.processors' } });
    expect(inTermsOf(when, { cores: { literal: 3 } })).toBeUndefined();
    expect(inTermsOf(when, {})).toBeUndefined();
    const deep: Condition = { not: { any: [{ all: [when, { has: { ref: 'input.cores' } }] }, { not: when }] } };
    for (const cores of [1, 2, null]) {
      const at = (ref: string) => (ref === 'form.size.processors' || ref === 'input.cores' ? cores : undefined);
      expect(compile(inTermsOf(deep, given)!)(at)).toBe(compile(deep)(at));
    }
  });
  it('is checked for lines that are never followed, and for values under no line', () => {
    expect(checkPolicy(machines)).toEqual([]);
    expect(checkPolicy(policy(line('two', 2, lead), line('four', 4, lead), line('free', undefined, lead)))).toEqual([
      expect.stringContaining('Line 2 is never followed'),
    ]);
    expect(checkPolicy(policy(line('free', undefined, lead), line('two', 2, lead)))[0]).toContain('line 1 always holds');
    expect(checkPolicy(policy(line('two', 2, lead)))).toEqual([expect.stringContaining('no line')]);
  });
  it('is checked for lines that ask for more approvals than people are named', () => {
    const two = { from: 'people' as const, people: [{ person: 'lead' }, { person: 'head' }] };
    const least = (count: number, approvers: PolicyLine['approvers']) =>
      checkPolicy(policy({ ...line('a', undefined, approvers), rule: { rule: 'atLeast', count } }));
    expect(least(2, two)).toEqual([]);
    expect(least(3, two)).toEqual(['Line 1 can never be approved: at least 3 must approve, and 2 are named.']);
    expect(least(2, lead)).toEqual(['Line 1 can never be approved: at least 2 must approve, and 1 is named.']);
    expect(least(9, { from: 'team', team: 't' })).toEqual([]);
  });
});
