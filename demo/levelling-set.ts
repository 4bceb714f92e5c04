import type { ItemDefinition } from '../core/items/index.ts';
import { lend, managerAgrees } from './field-tablet.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };

/** A set of instruments, lent for some days: the last day is reckoned from the day on which it is agreed to. */
export const levellingSet = (kind: string): ItemDefinition => ({
  name: 'Levelling set for some days',
  summary: 'Level, tripod and two staffs in one case, for two weeks at most. Your manager agrees; the stores hand it to you.',
  category: 'Instruments',
  alsoCalled: 'level, tripod, staff, borrow, instruments',
  form: {
    fields: [
      { id: 'days', kind: 'number', label: 'For how many days', required: true, min: 1, max: 14, unit: 'days' },
      { id: 'where', kind: 'location', label: 'Where you want it', help: 'Left empty, where you work.', required: false },
      { id: 'work', kind: 'longText', label: 'What you level', required: true },
    ],
  },
  plan: {
    undoWhen: ['withdrawn'],
    steps: [
      managerAgrees,
      {
        id: 'day',
        kind: 'workOut',
        name: 'The last day',
        expected: now,
        feel: 'date(request.now) + duration("P" + string(form.days) + "D")',
        type: 'date',
      },
      lend('set', 'levelling set', kind, { ref: 'steps.day.value' }),
      {
        id: 'tellIt',
        kind: 'tell',
        name: 'Tell until when',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[{ text: 'Your levelling set' }]],
        body: [
          {
            text: [
              [{ ref: 'steps.set.what' }, { text: ' is lent to you until ' }, { ref: 'steps.day.value' }, { text: '. Bring the whole case back.' }],
            ],
          },
        ],
      },
    ],
  },
});
