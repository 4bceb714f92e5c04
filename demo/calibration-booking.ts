import type { ItemDefinition } from '../core/items/index.ts';
import { sentence } from '../core/values/index.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };

/** Instruments, line by line: each is calibrated in a task of its own by whoever a routing table names, and those that go to sea are tried on the water first. */
export const calibrationBooking = (workplace: string, whoCalibrates: string): ItemDefinition => ({
  name: 'Calibration booking',
  summary: 'Have instruments calibrated before a survey. Name each of them; you hear when all are back.',
  category: 'Instruments',
  audience: [{ department: 'Hydrography' }, { department: 'Tides' }, { department: 'Vessels' }, { department: 'Charts' }],
  // Those at sea have it done by those ashore.
  onBehalf: { managers: true, by: [{ department: 'Vessels' }] },
  form: {
    fields: [
      {
        id: 'instruments',
        kind: 'lines',
        label: 'Instruments',
        help: 'A line for each.',
        required: true,
        min: 1,
        max: 12,
        columns: [
          {
            id: 'what',
            kind: 'choice',
            label: 'Instrument',
            required: true,
            options: [
              { value: 'sounder', label: 'Echo sounder' },
              { value: 'gauge', label: 'Tide gauge' },
              { value: 'probe', label: 'Salinity probe' },
            ],
          },
          { id: 'serial', kind: 'text', label: 'Serial number', required: true },
          { id: 'atSea', kind: 'yesNo', label: 'Goes to sea', required: true },
        ],
      },
      { id: 'handed', kind: 'date', label: 'Handed in on', required: true },
      { id: 'back', kind: 'date', label: 'Wanted back by', required: true },
      {
        id: 'papers',
        kind: 'files',
        label: 'Papers of the instruments',
        help: 'Earlier certificates, where there are any.',
        required: false,
        max: 5,
      },
    ],
    rules: [
      {
        id: 'ahead',
        apart: { date: { ref: 'form.handed' }, days: 1, counted: 'working' },
        field: 'handed',
        sentence: 'The workshop wants a working day to make room: choose a later day.',
      },
      {
        id: 'later',
        holds: { compare: 'more', left: { ref: 'form.back' }, right: { ref: 'form.handed' } },
        field: 'back',
        sentence: 'A calibration takes a day at least: choose a day after the one they are handed in.',
      },
    ],
  },
  plan: {
    steps: [
      {
        id: 'each',
        kind: 'forEach',
        name: 'Each instrument',
        forRequester: 'Your instruments are calibrated',
        expected: now,
        list: { ref: 'form.instruments' },
        body: [
          {
            id: 'calibrate',
            kind: 'task',
            name: 'Calibrate on the bench',
            forRequester: 'An instrument is calibrated',
            expected: { min: 'PT1H', likely: 'PT2H', max: 'P1D' },
            assignee: { routed: whoCalibrates },
            instructions: [
              {
                text: [[{ text: 'Calibrate ' }, { ref: 'row.what' }, { text: ', serial number ' }, { ref: 'row.serial', bold: true }, { text: '.' }]],
              },
              {
                when: { has: { ref: 'form.papers' } },
                text: [[{ text: 'Earlier certificates came with it: ' }, { ref: 'form.papers' }, { text: '.' }]],
              },
            ],
            checklist: [],
            fields: [
              { id: 'deviation', kind: 'text', label: 'Deviation found', required: true },
              { id: 'certificate', kind: 'file', label: 'Certificate', required: false },
            ],
            due: { by: { ref: 'form.back' } },
          },
          {
            id: 'toSea',
            kind: 'choose',
            name: 'Does it go to sea?',
            expected: now,
            cases: [
              {
                id: 'sea',
                name: 'It goes to sea',
                when: { compare: 'is', left: { ref: 'row.atSea' }, right: { literal: true } },
                block: [
                  {
                    id: 'water',
                    kind: 'task',
                    name: 'Try it on the water',
                    forRequester: 'An instrument is tried on the water',
                    expected: { min: 'PT2H', likely: 'PT4H', max: 'P2D' },
                    assignee: { team: workplace },
                    instructions: [
                      { text: [[{ text: 'Try ' }, { ref: 'row.serial', bold: true }, { text: ' from the boat, in shelter and in swell.' }]] },
                    ],
                    checklist: [
                      { id: 'shelter', words: 'In shelter' },
                      { id: 'swell', words: 'In swell' },
                    ],
                    fields: [],
                    due: { by: { ref: 'form.back' } },
                  },
                ],
              },
            ],
            otherwise: [],
          },
        ],
      },
      {
        id: 'slip',
        kind: 'write',
        name: 'Write the slip to fetch them with',
        forRequester: 'The slip to fetch them with is written',
        expected: now,
        fileName: [[{ text: 'Calibrated ' }, { ref: 'request.number' }]],
        head: sentence('Skerrin Hydrographic, workshop in Quay House'),
        title: sentence('Calibrated instruments'),
        body: [
          {
            text: [
              [
                { text: 'Handed in by ' },
                { ref: 'request.for', bold: true },
                { text: ' on ' },
                { ref: 'form.handed' },
                { text: ', ' },
                { ref: 'request.number' },
                { text: '.' },
              ],
            ],
            table: {
              list: { ref: 'form.instruments' },
              columns: [
                { id: 'what', head: 'Instrument' },
                { id: 'serial', head: 'Serial number' },
                { id: 'atSea', head: 'Tried on the water' },
              ],
            },
          },
        ],
        numbered: false,
      },
      {
        id: 'tellBack',
        kind: 'tell',
        name: 'Tell that they are back',
        forRequester: 'You are told that they are back',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[{ text: 'Your instruments are calibrated: ' }, { ref: 'request.number' }]],
        body: [{ text: [...sentence('Please fetch them from the workshop in Quay House:'), [{ ref: 'form.instruments' }]] }],
        attaches: [{ ref: 'steps.slip.file' }],
      },
      {
        id: 'windUp',
        kind: 'closing',
        name: 'What was handed in goes back',
        expected: now,
        withdrawn: [
          {
            id: 'handBack',
            kind: 'task',
            name: 'Hand the instruments back as they are',
            forRequester: 'Your instruments are handed back as they are',
            expected: { min: 'PT10M', likely: 'PT30M', max: 'P1D' },
            assignee: { team: workplace },
            instructions: [{ text: [[{ text: 'The booking was withdrawn. Hand back: ' }], [{ ref: 'form.instruments' }]] }],
            checklist: [{ id: 'dry', words: 'Rinsed and dry' }],
            fields: [],
          },
          {
            id: 'tellHandedBack',
            kind: 'tell',
            name: 'Tell that they can be fetched',
            forRequester: 'You are told that they can be fetched',
            expected: now,
            to: { ref: 'request.requester' },
            subject: [[{ text: 'Withdrawn: ' }, { ref: 'request.number' }]],
            body: [{ text: sentence('Your instruments lie ready in the workshop in Quay House, as you handed them in.') }],
          },
        ],
      },
    ],
  },
});
