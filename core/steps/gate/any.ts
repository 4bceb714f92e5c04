import fc from 'fast-check';
import type { Approvers, ApproverSource, Gate } from '../../plans/index.ts';
import { type AnyStep, type Made } from '../../testing/drawn.ts';
import { gate } from '../../testing/samples.ts';

const source: fc.Arbitrary<ApproverSource> = fc.constantFrom<ApproverSource>(
  { from: 'ownersOf', group: { ref: 'form.group' } },
  { from: 'ownersOf', group: { literal: { group: 'tides' } } },
  { from: 'people', people: [{ person: 'ada' }] },
  { from: 'person', person: { ref: 'request.requester' } },
  { from: 'person', person: { ref: 'form.crew' } },
  { from: 'person', person: { ref: 'form.machine.keeper' } },
  { from: 'managerOf', person: { ref: 'request.requester' } },
  { from: 'managerOf', person: { ref: 'request.for' } },
  { from: 'managerOf', person: { ref: 'request.requester' }, levels: 2 },
  { from: 'team', team: 'desk' },
);
const chain: fc.Arbitrary<Approvers> = fc.constantFrom<Approvers>(
  { from: 'chain', person: { ref: 'request.requester' }, levels: 2 },
  { from: 'chain', person: { ref: 'request.requester' }, levels: 3, amount: { ref: 'form.cores' }, limits: [1, 5] },
);
const several: fc.Arbitrary<Approvers> = fc.array(source, { minLength: 2, maxLength: 3 }).map((of) => ({ from: 'several', of }));
const approvers: fc.Arbitrary<Approvers> = fc.oneof(
  { arbitrary: source, weight: 7 },
  { arbitrary: chain, weight: 2 },
  { arbitrary: several, weight: 3 },
);

export const any: AnyStep = (inner) =>
  fc
    .record({
      approvers,
      rule: fc.constantFrom<Gate['rule']>({ rule: 'all' }, { rule: 'any' }, { rule: 'first' }, { rule: 'atLeast', count: 2 }, { rule: 'oneOfEach' }),
      ownRequest: fc.constantFrom('skip' as const, 'manager' as const, 'allow' as const),
      nobody: fc.constantFrom<NonNullable<Gate['nobody']>>({ then: 'ask', person: { person: 'ada' } }, { then: 'pass' }, { then: 'fail' }),
      order: fc.constantFrom('together' as const, 'inTurn' as const),
      deadline: fc.boolean(),
      reminders: fc.boolean(),
      sendBack: fc.boolean(),
      corrects: fc.constantFrom<string[]>([], ['cores'], ['kind', 'colleague']),
      approved: fc.option(inner),
      declined: fc.option(inner),
      lapsed: fc.option(inner),
    })
    .map((g): Made => (id, blocks) => {
      const one = g.approvers.from === 'people' && g.rule.rule === 'atLeast';
      return gate({
        id,
        name: `Gate ${id}`,
        approvers: g.approvers,
        rule: one ? { rule: 'all' } : g.rule.rule === 'oneOfEach' && g.approvers.from !== 'several' ? { rule: 'any' } : g.rule,
        ownRequest: g.ownRequest,
        nobody: g.nobody,
        order: g.order,
        sendBack: g.sendBack,
        ...(g.corrects.length > 0 && { corrects: g.corrects }),
        ...(g.deadline && { deadline: 'P5D' }),
        ...(g.reminders && { reminders: { after: 'P1D', times: 2 } }),
        ...(g.approved && { approved: blocks(g.approved) }),
        ...(g.declined && { declined: blocks(g.declined) }),
        ...(g.lapsed && { lapsed: blocks(g.lapsed) }),
      });
    });
