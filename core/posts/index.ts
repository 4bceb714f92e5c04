import { z } from 'zod';
import { own } from '../boundary/index.ts';
import { isDate } from '../calendar/index.ts';
import { Coming } from '../meetings/index.ts';
import type { FieldProblem } from '../forms/index.ts';

/**
 * What people type into a form of ours, other than a catalog item's: one schema each. The browser holds what is typed against it
 * before it goes out, the command when it comes in; every message is a sentence that stands at its field.
 */
const words = (most: number, needed?: string) => {
  const text = z
    .string()
    .trim()
    .max(most, `At most ${most.toLocaleString('en')} characters.`);
  // A field that did not come at all is one that was left empty.
  return (needed === undefined ? text : text.min(1, needed)).prefault('');
};
/** Exactly as it was typed, blanks and all. */
const secret = (needed: string) => z.string().min(1, needed).prefault('');

/** Who signs in. */
export const SignIn = z.object({ name: words(200, 'Your user name or mail address is missing.'), password: secret('Your password is missing.') });
/** A password is changed; the present one shows that it is one's own. */
export const PasswordChange = z.object({ now: secret('Your present password is missing.'), next: secret('The new password is missing.') });

/** An item, a part, a policy or a table is begun. */
export const Begun = z.object({ name: words(80, 'Give it a name.') });
/** The name of a view that is kept. */
export const KeptView = z.object({ name: words(60, 'Give the view a name.') });
/** What changed and why, kept with a revision. */
export const RevisionNote = z.object({ note: words(1000) });

/** A task goes to a person, or to a team. */
export const HandOver = z.object({ to: words(40), team: words(40) }).superRefine((v, ctx) => {
  if ((v.to === '') !== (v.team === '')) return;
  const message = v.to ? 'To a person or to a team, not to both.' : 'Name a person or choose a team.';
  ctx.addIssue({ code: 'custom', path: ['to'], message });
});

/** A task, an approval or a question to the requester, added to a request while it runs. `to`: the milestone that waits for it, by its step; or `end`. */
export const Addition = z
  .object({
    kind: z.enum(['task', 'gate', 'question']).catch('task'),
    name: words(120, 'Give it a name.'),
    instructions: words(2000),
    team: words(40),
    person: words(40),
    to: words(40),
  })
  .superRefine((v, ctx) => {
    const missing = (path: string, message: string) => ctx.addIssue({ code: 'custom', path: [path], message });
    if (!v.instructions && v.kind === 'question') missing('instructions', 'Write the question.');
    if (!v.instructions && v.kind === 'task') missing('instructions', 'Say what is to be done.');
    if (!v.person && v.kind === 'gate') missing('person', 'Say who must agree.');
    if (!v.person && !v.team && v.kind === 'task') missing('person', 'Say who does it.');
  });

/** A comment that somebody needs who is told no, or has to do something: what to write, by what was decided. */
const commented = (needed: Record<string, string>) =>
  z.object({ decision: z.string().optional(), comment: words(2000) }).superRefine((v, ctx) => {
    const message = own(needed, v.decision ?? '');
    if (message !== undefined && v.comment === '') ctx.addIssue({ code: 'custom', path: ['comment'], message });
  });
/** The decision of an approver. */
export const Decision = commented({
  decline: 'Say why you decline; the requester is told.',
  sendBack: 'Say what is to be corrected; the requester is told.',
});
/** The decision of a system's owner about what an item gives of it. */
export const ConsentDecision = commented({ decline: 'Say why not; whoever publishes the item reads it.' });

/** Something that is given back, or taken from somebody else: they are told why. */
export const GiveBack = z
  .object({ why: words(500), whose: z.enum(['mine', 'theirs']) })
  .refine((v) => v.whose === 'mine' || v.why !== '', { path: ['why'], error: 'Say why; whoever has it is told.' });

const stale = 'It is not known which time you answer to. Read the page anew.';
/** Whether somebody comes to a meeting; `sequence`: of the time that they read. */
export const SayComing = z.object({
  says: z.enum(Coming.options, 'Choose whether you come.'),
  words: words(500),
  sequence: z.coerce.number(stale).int(stale),
});

/** What can be decided of a difference between a system and what is held. */
export const settledHow = ['end', 'takeOver', 'takeBack', 'follow', 'leave'] as const;
/** What becomes of a difference between a system and what is held. `person`: whose it is, where somebody is to hold it. */
export const SettleDifference = z.object({
  how: z.enum(settledHow, 'Choose what is to be done.'),
  why: words(500, 'Say why; it stands in the log.'),
  person: z.string().max(100).prefault(''),
});
/** Leaving all as it is that a system has, as far as it was found by a moment (ISO 8601). */
export const LeaveAll = z.object({ system: z.string().max(100), why: words(500, 'Say why; it stands in the log.'), foundBy: z.iso.datetime() });

/** Two groups that are kept apart in one person: why, and who may make an exception. */
export const KeepApart = z
  .object({ one: words(100), other: words(100), why: words(300, 'Say why; whoever is stopped by it reads this.') })
  .superRefine((v, ctx) => {
    const wrong = (path: string, message: string) => ctx.addIssue({ code: 'custom', path: [path], message });
    if (v.one === '') wrong('one', 'Pick a group.');
    if (v.other === '') wrong('other', 'Pick a group.');
    else if (v.one === v.other) wrong('other', 'Pick another group than the first.');
  });
/** Somebody may have both all the same; `until` (YYYY-MM-DD): the last day of that, empty: for good. */
export const ApartException = z.object({
  person: words(100, 'Say who may have both.'),
  until: words(10).refine((day) => day === '' || isDate(day), 'This is no date.'),
  why: words(300, 'Say why; it stands in the log.'),
});

/** A day that is typed; empty where none is. */
const dayOrNone = words(10).refine((day) => day === '' || isDate(day), 'This is no date.');
/** Marks of pieces as they are read or typed: one a line, or with commas between; each once, in order. */
const marks = words(60_000).transform((text) => [
  ...new Map(text.split(/[\n,;]+/).flatMap((m) => (m.trim() === '' ? [] : [[m.trim().toLowerCase(), m.trim()]]))).values(),
]);
const goodMarks = marks
  .refine((all) => all.length <= 1000, 'At most 1,000 at a time.')
  .refine((all) => all.every((m) => m.length <= 80), 'A serial number has at most 80 characters.');

/** A kind of equipment. */
export const EquipmentKind = z.object({
  name: words(80, 'Give it a name.'),
  marked: z.enum(['each', 'none'], 'Say whether each piece has a serial number.'),
});
/** Where equipment stands, and which team keeps it. */
export const StockPlace = z.object({
  place: words(40, 'Choose a place.'),
  team: words(40, 'Choose the team that keeps it.'),
  told: z.enum(['', 'on']).optional(),
});
/** Of how many on more are ordered, and up to how many; both empty: of none. */
export const StockLevel = z
  .object({ least: words(6), upTo: words(6) })
  .superRefine((v, ctx) => {
    const wrong = (path: string, message: string) => ctx.addIssue({ code: 'custom', path: [path], message });
    const isNumber = (n: string) => /^\d{1,4}$/.test(n);
    if (v.least === '' && v.upTo === '') return;
    if (!isNumber(v.least)) wrong('least', 'A whole number.');
    if (!isNumber(v.upTo)) wrong('upTo', 'A whole number.');
    else if (Number(v.upTo) < Math.max(1, Number(v.least))) wrong('upTo', 'Not less than the least, and one at least.');
  })
  .transform((v) => (v.least === '' ? undefined : { least: Number(v.least), upTo: Number(v.upTo) }));
/** A piece is handed over: with what stands on it, where its kind is told apart so. */
export const HandPiece = z.object({ mark: words(80) });
/** A piece comes back: where to, and how it is. */
export const PieceBack = z.object({
  place: words(40, 'Choose where it goes.'),
  how: z.enum(['fine', 'repair', 'lost'], 'Say how it came back.'),
  note: words(300),
});
/** Pieces of a kind at a place, that arrived or were counted: their marks, or how many. */
export const StockEntry = z.object({ kind: words(40, 'Choose a kind.'), place: words(40, 'Choose a place.'), marks: goodMarks, number: words(6) });
/** A piece is in another state: it is free again, in repair, missing, or gone for good. */
export const PieceChange = z.object({ state: z.enum(['free', 'repair', 'missing', 'retired'], 'Choose what became of it.'), note: words(300) });
/** Something that runs low was ordered: by what whoever delivers knows it, and for when. */
export const Ordered = z.object({ reference: words(80, 'Say by what it is known where it was ordered.'), expected: dayOrNone });
/** Whoever something was handed to says that they have it not. */
export const NotReceived = z.object({ why: words(300, 'Say what happened; whoever keeps the stock reads it.') });

/** A stuck step that somebody skips, or did by hand. */
export const ByHand = z.object({ comment: words(2000, 'Say why; it stands in the trace.') });

/** What is reported: in a line, and in the words of whoever reports it. */
export const Report = z.object({
  subject: words(120, 'Say in a line what it is about.'),
  words: words(8000, 'Say what happens, and what you have tried.'),
});
/** A word about a ticket or a request, in CommonMark. */
export const CaseWords = z.object({ words: words(8000) });
/** The number of a ticket or request that another has to do with, as it is typed. */
export const RelatedNumber = z.object({ other: words(20, 'Give its number.') });
/** Why a ticket goes to somebody else, or is judged anew; it stands in its history. */
export const Because = z.object({ why: words(300) });

/** What is wrong, each at its field; one within a list by its place: `lines[2].label`. */
export const problemsOf = (error: z.ZodError): FieldProblem[] =>
  error.issues.map((i) => ({
    field: i.path.reduce<string>((to, part) => (typeof part === 'number' ? `${to}[${part}]` : to ? `${to}.${String(part)}` : String(part)), ''),
    sentence: i.message,
  }));
