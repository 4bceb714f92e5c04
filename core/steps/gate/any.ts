import fc from 'fast-check';
import type { Approvers, Gate } from '../../plans/index.ts';
import { type AnyStep, type Made } from '../../testing/drawn.ts';
import { gate } from '../../testing/samples.ts';

const approvers: fc.Arbitrary<Approvers> = fc.constantFrom<Approvers>(
  { from: 'ownersOf', group: { ref: 'form.group' } },
  { from: 'people', people: [{ person: 'ada' }] },
  { from: 'person', person: { ref: 'request.requester' } },
  { from: 'person', person: { ref: 'form.crew' } },
  { from: 'person', person: { ref: 'form.machine.keeper' } },
  { from: 'managerOf', person: { ref: 'request.requester' } },
  { from: 'managerOf', person: { ref: 'request.requester' }, levels: 2 },
  { from: 'team', team: 'desk' },
  { from: 'chain', person: { ref: 'request.requester' }, levels: 2 },
  { from: 'chain', person: { ref: 'request.requester' }, levels: 3, amount: { ref: 'form.cores' }, limits: [1, 5] },
);

export const any: AnyStep = (inner) =>
  fc
    .record({
      approvers,
      rule: fc.constantFrom<Gate['rule']>({ rule: 'all' }, { rule: 'any' }, { rule: 'first' }, { rule: 'atLeast', count: 2 }),
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
        rule: one ? { rule: 'all' } : g.rule,
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
