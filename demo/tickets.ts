import type { RoutingCell, RoutingRow, RoutingTable } from '../core/routing/index.ts';
import type { PlainGate } from '../core/plans/index.ts';
import { freshGate, shippedKinds, type TicketKind } from '../core/tickets/index.ts';

const shipped = (name: string): TicketKind => shippedKinds.find((k) => k.name === name)!;

/** Incidents at Skerrin: what they are about, a picture of it, the words the desk writes most. */
export const incident: TicketKind = {
  ...shipped('Incident'),
  categories: ['Access', 'Charts', 'Field equipment', 'Machines', 'Models', 'Pay', 'Rooms'],
  form: { fields: [{ id: 'picture', kind: 'file', label: 'A picture of it', required: false, help: 'If there is something to be seen.' }] },
  replies: [
    { name: 'Which device', words: 'Which number is on the back, the one beginning with **FT**?' },
    { name: 'Come by', words: 'Please bring it to us at the Stores between 8 and 16, or say when we may come.' },
  ],
};

/** What is asked for and stands in no item. */
export const request: TicketKind = { ...shipped('Request'), categories: ['Access', 'Charts', 'Field equipment', 'Machines', 'Pay', 'Rooms'] };

/** What lies behind incidents. */
export const problem: TicketKind = { ...shipped('Problem'), categories: ['Field equipment', 'Machines', 'Models'] };

/** Changes have a day only once the head of tides has agreed: most machines here run their models. */
export function change(headOfTides: string): TicketKind {
  const kind = shipped('Change');
  const gate: PlainGate = {
    ...freshGate('Tides agrees to the day'),
    approvers: { from: 'people', people: [{ person: headOfTides }] },
    ownRequest: 'manager',
    nobody: { then: 'fail' },
    reminders: { after: 'P1D', times: 2 },
    deadline: 'P5D',
  };
  const moves = kind.map.moves.map((m) => (m.from === 'weighed' && m.to === 'planned' ? { ...m, gate } : m));
  return { ...kind, categories: ['Charts', 'Machines', 'Models'], map: { ...kind.map, moves } };
}

/** Who calibrates: at Lunnick whoever of the team has least to do, else whoever picks it up. */
export const whoCalibrates = (lunnick: string, workplace: string): RoutingTable => ({
  name: 'Who calibrates',
  chooses: 'nearest',
  columns: (['item', 'category', 'place'] as const).map((fact) => ({ id: fact, fact })),
  rows: [{ id: 'lunnick', cells: { place: { is: 'under', places: [lunnick] } }, answer: { team: workplace, how: 'leastLoaded' } }],
  fallback: { team: workplace, how: 'pickUp' },
});

/** Who gets a ticket: by what it is, what it is about and where it is. */
export function whoGetsATicket(by: {
  kind: (name: string) => string;
  place: (name: string) => string;
  team: (name: string) => string;
  person: (key: string) => string;
}): RoutingTable {
  const oneOf = (...values: string[]): RoutingCell => ({ is: 'oneOf', values });
  const under = (...places: string[]): RoutingCell => ({ is: 'under', places: places.map(by.place) });
  const to = (team: string, how: 'pickUp' | 'inTurn' | 'leastLoaded' = 'pickUp') => ({ team: by.team(team), how });
  const [broken, wished] = [oneOf(by.kind('Incident')), oneOf(by.kind('Request'))];
  const rows: Omit<RoutingRow, 'id'>[] = [
    { cells: { kind: broken, place: under('Anseli', 'Kittiwake') }, answer: to('Workplace') },
    { cells: { kind: broken, category: oneOf('Access') }, answer: to('Directory and access') },
    {
      cells: { kind: broken, category: oneOf('Field equipment'), place: under('Lunnick Station'), priority: oneOf('high') },
      answer: { person: by.person('technician') },
    },
    { cells: { kind: broken, category: oneOf('Field equipment'), place: under('Lunnick Station') }, answer: to('Workplace', 'inTurn') },
    { cells: { kind: broken, category: oneOf('Field equipment'), place: under('Torvay') }, answer: to('Workplace', 'leastLoaded') },
    { cells: { kind: broken, category: oneOf('Models', 'Machines') }, answer: to('Platforms') },
    { cells: { kind: wished, category: oneOf('Pay') }, answer: to('People office') },
    { cells: { kind: wished, place: under('Boat Shed') }, answer: to('Stores') },
    {
      cells: { kind: wished, category: oneOf('Charts'), place: under('Quay House'), priority: oneOf('high', 'medium') },
      answer: to('Charts helpdesk'),
    },
    { cells: { kind: wished, category: oneOf('Charts'), place: under('Quay House') }, answer: to('Charts helpdesk', 'inTurn') },
  ];
  return {
    name: 'Who gets a ticket',
    chooses: 'nearest',
    columns: [
      { id: 'kind', fact: 'kind' },
      { id: 'category', fact: 'category' },
      { id: 'place', fact: 'place' },
      { id: 'priority', fact: 'priority' },
    ],
    rows: rows.map((r, i) => ({ id: `row${i + 1}`, ...r })),
    fallback: to('Workplace'),
  };
}

/** A ticket of the demo: who reported what, how many working hours ago, and what came of it so far. */
export interface DemoTicket {
  who: string;
  hours: number;
  kind?: 'Incident' | 'Request' | 'Change';
  /** Who opened it for them. */
  openedBy?: string;
  subject: string;
  words: string;
  category: string;
  place?: string;
  impact?: string;
  urgency?: string;
  /** In their order: who writes or acts, how many working hours after it was opened. */
  then?: { after: number; by: string; words?: string; inside?: true; to?: string; take?: true }[];
}

/** Tickets as they stand at the desk this week. */
export const demoTickets: DemoTicket[] = [
  {
    who: 'owner',
    hours: 3.5,
    subject: 'Tablet does not charge',
    words: 'It says it charges, but the number falls. Same with the cable from the other one.',
    category: 'Field equipment',
    place: 'Observatory',
    impact: 'several',
    urgency: 'now',
    then: [
      { after: 0.2, by: 'technician', words: 'Which number is on the back, the one beginning with **FT**?', to: 'waiting' },
      { after: 0.5, by: 'owner', words: 'FT-0148.' },
      { after: 0.6, by: 'technician', words: 'Second one with this port; Stores has two at Lunnick.', inside: true },
    ],
  },
  {
    who: 'charts-second',
    hours: 5,
    subject: 'Cannot print charts on the second floor',
    words: 'The plotter takes the sheet, whirs, and gives it back blank.\n\n- other sheets too\n- the small printer works',
    category: 'Charts',
  },
  {
    who: 'no-manager-one',
    hours: 10,
    subject: 'Model run stops at hour 40',
    words: 'It stops without a word, each time in the same place.',
    category: 'Models',
    then: [
      { after: 1, by: 'administrator', take: true },
      { after: 1.5, by: 'administrator', words: 'Can you start it once more and send what stands in the last ten lines?', to: 'waiting' },
    ],
  },
  {
    who: 'long-two',
    hours: 1,
    subject: 'Door to the Boat Shed stays locked',
    words: 'My badge is green, the door is not.',
    category: 'Rooms',
    place: 'Boat Shed',
    urgency: 'now',
    impact: 'several',
  },
  {
    who: 'long-one',
    hours: 6,
    subject: 'Sounder log will not open',
    words: 'The programme closes as soon as I choose the file.',
    category: 'Field equipment',
    impact: 'several',
    urgency: 'now',
    then: [{ after: 0.5, by: 'technician', take: true }],
  },
  {
    who: 'requester',
    hours: 8.5,
    subject: 'Payslip missing for two of the crew',
    words: 'Nobody on the second watch has had one since September.',
    category: 'Pay',
    impact: 'several',
    urgency: 'soon',
  },
  {
    who: 'other-script',
    hours: 1,
    kind: 'Request',
    subject: 'A desk by the window for the spring',
    words: 'Two of us would share it while the new gauges are calibrated.',
    category: 'Rooms',
    urgency: 'later',
  },
  {
    who: 'requester',
    hours: 20,
    subject: 'Mail on the tablet asks for a password each time',
    words: 'Since the last change.',
    category: 'Access',
    then: [{ after: 1, by: 'access-lead', words: 'The certificate on it had run out. It has a new one now.', to: 'done' }],
  },
  {
    who: 'owner',
    openedBy: 'technician',
    hours: 6,
    kind: 'Change',
    subject: 'Newer numerical library on the tide machines',
    words: 'The one there is three years old, and the new model wants the next. Everything that runs has to stop for an hour.',
    category: 'Machines',
    impact: 'several',
    urgency: 'later',
    then: [
      { after: 0.5, by: 'technician', take: true },
      { after: 1, by: 'technician', words: 'We have tried it on the spare machine: the old model gives the same tides.', to: 'weighed' },
      { after: 2, by: 'technician', words: 'Only Sunday morning is free of runs. Asked whether that will do.', inside: true, to: 'planned' },
    ],
  },
];
