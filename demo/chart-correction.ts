import type { ItemDefinition } from '../core/items/index.ts';
import { sentence } from '../core/values/index.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };

/** What is wrong on a chart, told by whoever sails by it: by the public link as well as at the Counter. */
export const chartCorrection = (helpdesk: string): ItemDefinition => ({
  name: 'Chart correction',
  summary: 'Tell us what is wrong on one of our charts. You hear what we found, and in which edition it is mended.',
  category: 'Charts',
  alsoCalled: 'error on a chart, wrong depth, notice to mariners',
  outsiders: true,
  form: {
    fields: [
      {
        id: 'chart',
        kind: 'text',
        label: 'Number of the chart',
        help: 'In its lower left corner, as in SK-204.',
        required: true,
        shape: { pieces: [{ exactly: 'SK-' }, { of: 'digits', least: 3, most: 4 }], sentence: 'A chart is numbered SK- and three or four digits.' },
      },
      {
        id: 'about',
        kind: 'choice',
        label: 'What is wrong',
        required: true,
        options: [
          { value: 'depth', label: 'A depth' },
          { value: 'mark', label: 'A buoy, light or mark' },
          { value: 'name', label: 'A name' },
          { value: 'else', label: 'Something else' },
        ],
      },
      { id: 'where', kind: 'text', label: 'Where', help: 'A position, or what it lies by.', required: true },
      { id: 'what', kind: 'longText', label: 'What you found', required: true },
      { id: 'seen', kind: 'date', label: 'Seen on', required: true },
    ],
  },
  plan: {
    steps: [
      {
        id: 'look',
        kind: 'task',
        name: 'Hold it against the survey',
        forRequester: 'It is held against our survey',
        expected: { min: 'PT1H', likely: 'PT4H', max: 'P3D' },
        assignee: { team: helpdesk },
        instructions: [
          {
            text: [
              [
                { text: 'Chart ' },
                { ref: 'form.chart', bold: true },
                { text: ', ' },
                { ref: 'form.where' },
                { text: ': ' },
                { ref: 'form.about' },
                { text: '.' },
              ],
              [{ ref: 'form.what' }],
            ],
          },
        ],
        checklist: [],
        fields: [
          { id: 'found', kind: 'longText', label: 'What was found', required: true },
          { id: 'edition', kind: 'text', label: 'Mended in edition', required: false },
        ],
        due: { within: 'P3D' },
      },
      {
        id: 'answer',
        kind: 'tell',
        name: 'Tell what was found',
        forRequester: 'You are told what was found',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[{ text: 'Your correction of chart ' }, { ref: 'form.chart' }]],
        body: [
          { text: [[{ ref: 'steps.look.found' }]] },
          {
            when: { has: { ref: 'steps.look.edition' } },
            text: [[{ text: 'It is mended in edition ' }, { ref: 'steps.look.edition' }, { text: '.' }]],
          },
          { text: sentence('Thank you for telling us.') },
        ],
      },
    ],
  },
});
