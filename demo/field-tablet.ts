import type { Step } from '../core/plans/index.ts';
import type { Operand } from '../core/values/index.ts';
import type { ItemDefinition } from '../core/items/index.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };
/** From the stores, where one is free: an hour or two; where none is, a few days. */
const stores = { min: 'PT30M', likely: 'PT3H', max: 'P3D' };

export const managerAgrees: Step = {
  id: 'manager',
  kind: 'gate',
  name: 'The manager agrees',
  forRequester: 'Your manager agrees',
  expected: { min: 'PT10M', likely: 'PT4H', max: 'P2D' },
  approvers: { from: 'managerOf', person: { ref: 'request.for' } },
  rule: { rule: 'first' },
  ownRequest: 'skip',
  nobody: { then: 'fail' },
  deadline: 'P5D',
};

/** Something of a kind is lent to whoever it is asked for, until a day. */
export const lend = (id: string, what: string, kind: string, until: Operand = { ref: 'form.until' }): Step => ({
  id,
  kind: 'provision',
  name: `The stores hand out a ${what}`,
  forRequester: `The stores have a ${what} for you`,
  expected: stores,
  action: 'equipment.lend',
  inputs: { kind: { literal: kind }, person: { ref: 'request.for' }, place: { ref: 'form.where' }, until },
});

/** A tablet for work outside, lent until a day; with it a case where that is wanted. */
export const fieldTablet = (kinds: { tablet: string; case: string }): ItemDefinition => ({
  name: 'Field tablet',
  summary: 'A tablet for work outside, lent until a day you name. Your manager agrees; the nearest stores hand it to you.',
  category: 'Instruments',
  alsoCalled: 'tablet, rugged computer, borrow, lend',
  onBehalf: { managers: true, by: [] },
  form: {
    fields: [
      { id: 'work', kind: 'longText', label: 'What you do with it', required: true },
      { id: 'until', kind: 'date', label: 'Until which day', help: 'You can ask for more days later.', required: true },
      { id: 'where', kind: 'location', label: 'Where you want it', help: 'Left empty, where you work.', required: false },
      { id: 'cased', kind: 'yesNo', label: 'With a carrying case', required: true },
    ],
  },
  plan: {
    undoWhen: ['withdrawn'],
    steps: [
      managerAgrees,
      lend('tablet', 'tablet', kinds.tablet),
      {
        id: 'case',
        kind: 'choose',
        name: 'With a case?',
        expected: now,
        cases: [
          {
            id: 'yes',
            name: 'A case is wanted',
            when: { compare: 'is', left: { ref: 'form.cased' }, right: { literal: true } },
            block: [lend('cased', 'case', kinds.case)],
          },
        ],
        otherwise: [],
      },
      {
        id: 'tellIt',
        kind: 'tell',
        name: 'Tell what was handed out',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[{ text: 'Your field tablet' }]],
        body: [
          {
            text: [
              [
                { ref: 'steps.tablet.what' },
                { text: ' was handed over at ' },
                { ref: 'steps.tablet.from' },
                { text: '. It is lent until ' },
                { ref: 'form.until' },
                { text: '.' },
              ],
              [{ text: 'Say under My things that you have it. There it is given back, too, and more days are asked for.' }],
            ],
          },
        ],
      },
    ],
  },
});

/** The same tablet for more days. */
export const tabletLonger: ItemDefinition = {
  name: 'Field tablet for longer',
  summary: 'Keep equipment that you were lent for more days. Your manager agrees again.',
  category: 'Instruments',
  alsoCalled: 'extend, prolong, keep',
  form: {
    fields: [
      { id: 'piece', kind: 'holding', label: 'What you have', required: true, gave: 'equipment.lend', lent: true },
      { id: 'before', kind: 'date', label: 'Lent until now', required: false, held: 'locked', prefill: { holding: 'piece', slot: 'until' } },
      { id: 'until', kind: 'date', label: 'Until which day', required: true },
      { id: 'work', kind: 'longText', label: 'What you still need it for', required: true },
    ],
    rules: [
      {
        id: 'later',
        holds: { compare: 'more', left: { ref: 'form.until' }, right: { ref: 'form.before' } },
        field: 'until',
        sentence: 'This is not later than it is lent already.',
      },
    ],
  },
  plan: {
    steps: [
      { ...managerAgrees, approvers: { from: 'managerOf', person: { ref: 'request.requester' } } } as Step,
      {
        id: 'keep',
        kind: 'provision',
        name: 'Lent until that day',
        forRequester: 'It is lent for longer',
        expected: now,
        action: 'equipment.keep',
        inputs: { holding: { ref: 'form.piece' }, until: { ref: 'form.until' } },
      },
      {
        id: 'tellUntil',
        kind: 'tell',
        name: 'Tell until when',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[{ text: 'You keep ' }, { ref: 'form.piece' }]],
        body: [{ text: [[{ ref: 'form.piece' }, { text: ' is lent to you until ' }, { ref: 'form.until' }, { text: ' now.' }]] }],
      },
    ],
  },
};
