import fc from 'fast-check';
import type { Condition } from '../conditions/index.ts';
import type { Block, Passage, Step } from '../plans/index.ts';
import { sentence } from '../values/index.ts';

/** Names that once meant something to every object, to HTML, or to a reader of lines. */
export const names = fc.constantFrom(
  'Constructor',
  'toString',
  '__proto__',
  'has Own Property',
  '<b>Bold</b> & "quoted"',
  'Øvre skjær 🛶',
  'مرحبا',
  'Entries',
  'Hand out from Stores',
);
const duration = fc.constantFrom('PT2H', 'P1D', 'PT30M');
export const span = fc.record({ length: duration, counted: fc.constantFrom('working' as const, 'always' as const) });

/** Conditions over the form, of every kind of comparison; they hold, or not, for the answers of the samples. */
export const condition: fc.Arbitrary<Condition> = fc.letrec<{ c: Condition }>((tie) => ({
  c: fc.oneof(
    { maxDepth: 2, depthSize: 'small' },
    fc.constantFrom<Condition>(
      { compare: 'is', left: { ref: 'form.kind' }, right: { literal: 'daily' } },
      { compare: 'is', left: { ref: 'form.kind' }, right: { literal: 'project' } },
      { compare: 'isNot', left: { ref: 'form.kind' }, right: { literal: 'daily' } },
      { compare: 'atLeast', left: { ref: 'form.cores' }, right: { literal: 4 } },
      { compare: 'less', left: { ref: 'form.cores' }, right: { literal: 3 } },
      { compare: 'more', left: { ref: 'form.from' }, right: { literal: '2026-03-01' } },
      { compare: 'is', left: { ref: 'form.remote' }, right: { literal: true } },
      { compare: 'is', left: { ref: 'form.colleague' }, right: { ref: 'request.requester' } },
      { compare: 'more', left: { ref: 'form.price' }, right: { literal: { amount: '1000', currency: 'EUR' } } },
      { compare: 'is', left: { ref: 'form.price' }, right: { literal: { amount: '1250.5', currency: 'EUR' } } },
      { compare: 'is', left: { ref: 'form.place' }, right: { literal: { location: 'l1' } } },
      { compare: 'isNot', left: { ref: 'form.by' }, right: { literal: { team: 'desk' } } },
      { compare: 'is', left: { ref: 'form.machine' }, right: { literal: { table: 'machines', key: 'Large' } } },
      { compare: 'atLeast', left: { ref: 'form.machine.processors' }, right: { literal: 2 } },
      { compare: 'more', left: { ref: 'form.machine.daily' }, right: { literal: { amount: '10', currency: 'EUR' } } },
      { has: { ref: 'form.spare.processors' } },
      { compare: 'is', left: { ref: 'form.mail' }, right: { literal: 'guest@example.org' } },
      { compare: 'less', left: { ref: 'form.cores' }, right: { literal: { decimal: '2.00000000000000000001' } } },
      { has: { ref: 'form.colleague' } },
      { has: { ref: 'form.kit' } },
      { has: { ref: 'form.sketch' } },
    ),
    fc.array(tie('c'), { minLength: 1, maxLength: 2 }).map((all) => ({ all })),
    fc.array(tie('c'), { minLength: 1, maxLength: 2 }).map((any) => ({ any })),
    tie('c').map((not) => ({ not })),
  ),
})).c as fc.Arbitrary<Condition>;

export const body: fc.Arbitrary<Passage[]> = fc.array(
  fc.record(
    {
      when: condition,
      text: fc.constantFrom(
        sentence('About your request'),
        [[{ text: 'Number ' }, { ref: 'request.number', bold: true as const }]],
        [[{ text: 'On ' }, { ref: 'form.machine' }, { text: ' with ' }, { ref: 'form.machine.processors' }]],
        [[{ ref: 'form.reason' }, { text: ' <i>' }], { list: 'points' as const, items: [[{ ref: 'form.kind' }]] }],
      ),
    },
    { requiredKeys: ['text'] },
  ),
  { minLength: 1, maxLength: 2 },
);

/** Makes a step of its id; `blocks` makes the blocks it holds, so that every id in a plan is its own. */
export type Made = (id: string, more: (blocks: Shape[]) => Block) => Step;
/** A step without its id: made when the whole plan is there, so that ids are each their own. */
export interface Shape {
  make: Made;
  name: string | undefined;
  forRequester: string | undefined;
}
/** Draws a step of one kind; `inner` draws the blocks it holds. Each room has one, so that a setting added is a setting tried. */
export type AnyStep = (inner: fc.Arbitrary<Shape[]>) => fc.Arbitrary<Made>;
