import fc from 'fast-check';
import type { Approvers, GateRule, NobodyAnswer, PlainGate } from '../plans/index.ts';
import type { RichText } from '../values/index.ts';
import { clockEffects, movers, type StatusMap } from './status-map.ts';

const ids = ['fresh', 'read', 'work', 'wait', 'done', 'shut'];
const days = fc.constantFrom('PT1H', 'P1D', 'P5D').map((length) => ({ length, counted: 'working' as const }));

const gate: fc.Arbitrary<PlainGate> = fc
  .record(
    {
      approvers: fc.constantFrom<Approvers>(
        { from: 'managerOf', person: { ref: 'form.its_requester' } },
        { from: 'team', team: 'desk' },
        { from: 'people', people: [{ person: 'ada' }] },
      ),
      rule: fc.constantFrom<GateRule>({ rule: 'any' }, { rule: 'all' }, { rule: 'atLeast', count: 2 }),
      ownRequest: fc.constantFrom('skip', 'manager', 'allow'),
      nobody: fc.constantFrom<NobodyAnswer>({ then: 'pass' }, { then: 'fail' }, { then: 'ask', person: { person: 'ada' } }),
      deadline: fc.constantFrom('P5D', 'PT4H'),
      order: fc.constantFrom('together', 'inTurn'),
      reminders: fc.constant({ after: 'P1D', times: 2 }),
    },
    { requiredKeys: ['approvers', 'rule', 'ownRequest', 'nobody'] },
  )
  .map((g) => ({ ...g, id: 'agreed', kind: 'gate', name: 'Agreed', expected: { min: 'PT0S', likely: 'PT1H', max: 'P1D' } }));

const words = fc.constantFrom<RichText>(
  [],
  [[{ text: 'It is there.' }]],
  [[{ text: 'By ' }, { ref: 'form.its_holder', bold: true }, { text: ', ' }, { ref: 'request.number' }]],
);

/** A status map with any moves, waits and effects: many of them are bad ones. */
export const anyMap: fc.Arbitrary<StatusMap> = fc.integer({ min: 1, max: ids.length }).chain((n) => {
  const its = ids.slice(0, n);
  const one = fc.constantFrom(...its);
  const maybe = <T>(of: fc.Arbitrary<T>) => fc.option(of, { nil: undefined, freq: 2 });
  const statuses = fc.tuple(
    ...its.map((id) =>
      fc
        .record({ tells: words, clock: fc.constantFrom(...clockEffects), answered: maybe(one), passes: maybe(fc.record({ after: days, to: one })) })
        .map(({ tells, clock, answered, passes }) => ({
          id,
          name: id,
          words: '',
          clock,
          tells,
          ...(answered !== undefined && { answered }),
          ...(passes && passes.to !== id && { passes }),
        })),
    ),
  );
  const moves = fc
    .uniqueArray(
      fc.record(
        { from: one, to: one, who: fc.subarray([...movers]), needs: fc.subarray(['word', 'cause']), gate: maybe(gate) },
        { requiredKeys: ['from', 'to', 'who', 'needs'] },
      ),
      {
        maxLength: 12,
        selector: (m) => `${m.from} ${m.to}`,
      },
    )
    .map((all) => all.filter((m) => m.from !== m.to));
  return fc.record({ statuses, begin: one, moves });
});
