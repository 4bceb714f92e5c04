import { z } from 'zod';
import { line, own } from '../boundary/index.ts';
import { compile, Condition, conditionReferences, analyseCoverage, type Domain, mismatches } from '../conditions/index.ts';
import { CountRule } from '../plans/index.ts';
import { Id, isReference, Key, PersonValue, ValueType, type Operand, type Reference, type Value } from '../values/index.ts';

/** Whom one line of a policy asks. */
export const PolicyApprovers = z.union([
  z.object({ from: z.literal('nobody') }),
  z.object({ from: z.literal('people'), people: z.array(PersonValue).min(1, 'Name at least one person.').max(50) }),
  z.object({ from: z.literal('team'), team: Key }),
  /** So many levels up from the requester, one after another. */
  z.object({ from: z.literal('chain'), levels: z.number().int().min(1).max(10) }),
]);
export type PolicyApprovers = z.infer<typeof PolicyApprovers>;

/** One line of a policy: for what it holds, whom it asks, by which rule. */
export const PolicyLine = z.object({
  id: Id,
  /** Absent: always. Reads `input.<name>`. */
  when: Condition.optional(),
  approvers: PolicyApprovers,
  rule: CountRule,
});
export type PolicyLine = z.infer<typeof PolicyLine>;

/** Who has to agree, by amount, size or category. The first line that holds is followed; a gate gives the inputs. */
export const Policy = z.object({
  name: line(80).trim().min(1, 'The policy needs a name.'),
  purpose: line(300),
  inputs: z
    .array(
      z.object({
        name: Id,
        label: line(80).trim().min(1, 'Every input needs words.'),
        type: ValueType,
        options: z.array(z.object({ value: line(60), label: line(120) })).optional(),
      }),
    )
    .max(10),
  lines: z.array(PolicyLine).max(50),
});
export type Policy = z.infer<typeof Policy>;

/** The line that these values fall under, or none. */
export function lineFor(policy: Policy, values: Record<string, Value>): PolicyLine | undefined {
  const read = (ref: string) => (ref.startsWith('input.') ? own(values, ref.slice(6)) : undefined);
  return policy.lines.find((l) => !l.when || compile(l.when)(read));
}

/** A condition of a policy in terms of what a gate gives it; undefined where it reads an input that is a stated value, or not given. */
export function inTermsOf(condition: Condition, given: Record<string, Operand>): Condition | undefined {
  const ref = (of: Reference): Reference | undefined => {
    const operand = of.ref.startsWith('input.') ? own(given, of.ref.slice(6)) : undefined;
    return isReference(operand) ? operand : undefined;
  };
  const each = (all: Condition[]): Condition[] | undefined => {
    const parts = all.map((c) => inTermsOf(c, given));
    return parts.every((c) => c !== undefined) ? parts : undefined;
  };
  if ('all' in condition) {
    const all = each(condition.all);
    return all && { all };
  }
  if ('any' in condition) {
    const any = each(condition.any);
    return any && { any };
  }
  if ('not' in condition) {
    const not = inTermsOf(condition.not, given);
    return not && { not };
  }
  if ('has' in condition) {
    const has = ref(condition.has);
    return has && { has };
  }
  const left = ref(condition.left);
  const right = isReference(condition.right) ? ref(condition.right) : condition.right;
  return left && right && { ...condition, left, right };
}

/** What is wrong with a policy: lines that are never followed or can never be approved, and values that no line covers. */
export function checkPolicy(policy: Policy): string[] {
  const domain = (ref: string): Domain | undefined => {
    const input = policy.inputs.find((i) => `input.${i.name}` === ref);
    return input && { type: input.type, optional: true, ...(input.options && { options: input.options.map((o) => o.value) }) };
  };
  const found: string[] = [];
  policy.lines.forEach((_, i) => {
    const always = policy.lines.slice(0, i).findIndex((l) => !l.when);
    if (always >= 0) found.push(`Line ${i + 1} is never followed: line ${always + 1} always holds.`);
  });
  policy.lines.forEach(({ rule, approvers }, i) => {
    const named = approvers.from === 'people' ? approvers.people.length : undefined;
    if (named !== undefined && rule.rule === 'atLeast' && rule.count > named)
      found.push(`Line ${i + 1} can never be approved: at least ${rule.count} must approve, and ${named === 1 ? '1 is' : `${named} are`} named.`);
  });
  const places = new Map<string, Policy['inputs'][number]>(policy.inputs.map((i) => [`input.${i.name}`, i]));
  policy.lines.forEach(({ when }, i) => {
    if (!when) return;
    for (const ref of conditionReferences(when)) if (!places.has(ref)) found.push(`Line ${i + 1} reads an input that is not there any more.`);
    for (const wrong of mismatches(when, places)) found.push(`Line ${i + 1} ${wrong}.`);
  });
  const always = policy.lines.some((l) => !l.when);
  const ranges = analyseCoverage(
    policy.lines.map((l) => l.when),
    domain,
  );
  ranges?.first.forEach((first, i) => {
    if (!first && policy.lines[i]?.when)
      found.push(
        `Line ${i + 1} is never followed: ${ranges.possible[i] ? 'the lines above it take everything it would' : 'its condition can never hold'}.`,
      );
  });
  if (!always)
    found.push(
      'Some values may fall under no line; the gate then says what happens when nobody is found. End with a line without a condition to rule that out.',
    );
  return found;
}
