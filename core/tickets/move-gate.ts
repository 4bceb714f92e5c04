import { checkPlan } from '../checks/index.ts';
import type { Answers, Field } from '../forms/index.ts';
import type { ItemDefinition } from '../items/index.ts';
import { startPlaces, type Block, type Catalogue, type Finding, type PlainGate, type Place, type Places } from '../plans/index.ts';
import { statusOf, type MapFinding, type Move } from '../statuses/index.ts';
import type { Value } from '../values/index.ts';
import type { TicketKind } from './kind.ts';

// A move that has a gate begins a run: of a plan with this gate in it, over what is known of the ticket.

/** A move that has a gate. */
export type GatedMove = Move & { gate: PlainGate };
/** The moves of a kind that have gates. */
export const gatedMoves = (kind: TicketKind): GatedMove[] => kind.map.moves.filter((m): m is GatedMove => m.gate !== undefined);

/** A gate as it begins. */
export const freshGate = (name: string): PlainGate => ({
  id: 'agreed',
  kind: 'gate',
  name,
  expected: { min: 'PT15M', likely: 'PT4H', max: 'P3D' },
  rule: { rule: 'any' },
  ownRequest: 'skip',
});

const own = {
  requester: 'its_requester',
  mover: 'its_mover',
  subject: 'its_subject',
  said: 'its_said',
  words: 'its_words',
  category: 'its_category',
  place: 'its_place',
  priority: 'its_priority',
  team: 'its_team',
  holder: 'its_holder',
} as const;
/** The field that says whose ticket it is. */
export const whoseTicket = own.requester;
/** The field of the run under which what the desk fills in is known; where both sides have one of a key, this one has another. */
const deskId = (kind: TicketKind, id: string): string => (kind.form.fields.some((f) => f.id === id) ? `${id.slice(0, 35)}_desk` : id);

/** What those who have to agree can read of a ticket, as the form of the run that asks them. */
function fieldsOf(kind: TicketKind): Field[] {
  const { priorities } = kind.priority;
  const asked = (f: Field): Field => ({
    id: f.id,
    kind: f.kind,
    label: f.label,
    required: false,
    ...(f.options && { options: f.options }),
    ...(f.columns && { columns: f.columns }),
    ...(f.table !== undefined && { table: f.table }),
    ...(f.unit !== undefined && { unit: f.unit }),
  });
  return [
    { id: own.subject, kind: 'text', label: 'Ticket', required: true },
    { id: own.requester, kind: 'person', label: 'Whose ticket', required: true },
    { id: own.mover, kind: 'person', label: 'Who wants it moved', required: true },
    { id: own.said, kind: 'longText', label: 'What they say of it', required: false },
    { id: own.words, kind: 'longText', label: 'What was reported', required: false },
    { id: own.category, kind: 'text', label: 'What it is about', required: false },
    { id: own.place, kind: 'location', label: 'Place', required: false },
    { id: own.priority, kind: 'choice', label: 'Priority', required: true, options: priorities.map((p) => ({ value: p.id, label: p.label })) },
    { id: own.team, kind: 'team', label: 'Team', required: false },
    { id: own.holder, kind: 'person', label: 'Who has it', required: false },
    ...kind.form.fields.map(asked),
    ...kind.desk.map((f) => ({ ...asked(f), id: deskId(kind, f.id) })),
  ];
}

/** What is known of a ticket when it is asked whether it may go. */
export interface Known {
  requesterId: string;
  /** Who wants it moved. */
  moverId: string;
  /** What they wrote with it, to the requester or within the desk. */
  said: string;
  subject: string;
  words: string;
  category: string | null;
  placeId: string | null;
  priority: string;
  team?: string | undefined;
  holder?: string | undefined;
  answers: Answers;
  filled: Answers;
}
/** The same as the answers of the run that asks. */
export function moveAnswers(kind: TicketKind, known: Known): Answers {
  const answers = new Map<string, Value>([
    [own.subject, known.subject],
    [own.requester, { person: known.requesterId }],
    [own.mover, { person: known.moverId }],
    [own.priority, known.priority],
  ]);
  if (known.said !== '') answers.set(own.said, known.said);
  if (known.words !== '') answers.set(own.words, known.words);
  if (known.category !== null) answers.set(own.category, known.category);
  if (known.placeId !== null) answers.set(own.place, { location: known.placeId });
  if (known.team !== undefined) answers.set(own.team, { team: known.team });
  if (known.holder !== undefined) answers.set(own.holder, { person: known.holder });
  const some = (fields: readonly Field[], from: Answers, id: (f: Field) => string) => {
    for (const f of fields) if (Object.hasOwn(from, f.id) && from[f.id] !== null && from[f.id] !== undefined) answers.set(id(f), from[f.id]!);
  };
  some(kind.form.fields, known.answers, (f) => f.id);
  some(kind.desk, known.filled, (f) => deskId(kind, f.id));
  return Object.fromEntries(answers);
}

/**
 * The run that asks whether a ticket may go from one status to another, as a definition of its own: Fulfilled where it was agreed to, Declined
 * or Lapsed where it was not, Failed where nobody could be asked. The requester of the ticket is told nothing by it.
 */
export function moveDefinition(kind: TicketKind, { from, to, gate }: GatedMove): ItemDefinition {
  const [a, b] = [statusOf(kind.map, from)?.name ?? from, statusOf(kind.map, to)?.name ?? to];
  const expected = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };
  const ends = (id: string, outcome: 'declined' | 'lapsed' | 'failed', name: string): Block => [{ id, kind: 'finish', name, expected, outcome }];
  return {
    name: `${kind.name}: ${a} → ${b}`.slice(0, 80),
    summary: '',
    category: '',
    form: { fields: fieldsOf(kind) },
    plan: {
      steps: [
        {
          id: 'asks',
          kind: 'guard',
          name: 'Somebody can be asked',
          expected,
          body: [
            {
              ...gate,
              declined: ends('declined', 'declined', 'Not agreed to'),
              ...(gate.deadline !== undefined && { lapsed: ends('lapsed', 'lapsed', 'Nobody answered') }),
            },
          ],
          remedy: ends('failed', 'failed', 'Nobody could be asked'),
        },
      ],
    },
  };
}

/** The places that the gates of a kind can name: what is known of the ticket. Who wants the move is none of them. */
export const movePlaces = (kind: TicketKind, catalogue: Catalogue): Places =>
  new Map(
    [...startPlaces({ fields: fieldsOf(kind) }, catalogue)].flatMap(([ref, p]) =>
      ref === 'request.for' || ref === `form.${own.mover}` ? [] : [[ref, ref === 'request.number' ? { ...p, label: 'Ticket number' } : p]],
    ),
  );

/** The field of what is written with a move, and who wants it: what a status tells can say neither. */
const ofTheMove: ReadonlySet<string> = new Set([own.said, own.mover].map((id) => `form.${id}`));

/** The values that what a status tells can hold: what is known of the ticket, and when it is promised. */
export const tellPlaces = (kind: TicketKind): Place[] => [
  ...[...movePlaces(kind, { actions: [], people: {} }).values()].filter((p) => !ofTheMove.has(p.ref)),
  { ref: promisedBy, label: 'Promised by', type: 'instant', always: false, source: 'Ticket' },
];
/** When a ticket is promised to be done. */
export const promisedBy = 'ticket.promisedBy';

/** All gates of a kind, as what the catalogue is asked for that they name. */
export const gatesDefinition = (kind: TicketKind): ItemDefinition => ({
  name: kind.name,
  summary: '',
  category: '',
  form: { fields: fieldsOf(kind) },
  plan: { steps: gatedMoves(kind).map((m) => m.gate) },
});

/** What the check finds in the gates of a kind, each at its move. */
export const checkGates = (kind: TicketKind, catalogue: Catalogue): MapFinding[] =>
  gatedMoves(kind).flatMap((move) =>
    checkMoveGate(kind, move, catalogue).map((f): MapFinding => {
      const way = [move.from, move.to].map((id) => `“${statusOf(kind.map, id)?.name ?? id}”`).join(' to ');
      return {
        code: 'gate',
        stops: f.severity === 'stops',
        at: { from: move.from, to: move.to },
        sentence: `The gate from ${way}: ${f.sentence} ${f.mend}`,
      };
    }),
  );

/** What the check finds in the gate of a move. */
export const checkMoveGate = (kind: TicketKind, move: GatedMove, catalogue: Catalogue): Finding[] =>
  checkPlan(moveDefinition(kind, move).plan, movePlaces(kind, catalogue), catalogue).filter((f) => f.step === move.gate.id);
