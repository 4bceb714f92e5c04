import { own, setOwn, unkeepableIn } from '../boundary/index.ts';
import { dayAfter, deskCalendar, isDate, type Calendar } from '../calendar/index.ts';
import { compile, compileFailing, conditionReferences } from '../conditions/index.ts';
import {
  compareNumbers,
  isEmpty,
  isEntry,
  isMailAddress,
  isNamed,
  isNumber,
  isOfType,
  isRow,
  mustBe,
  namedIn,
  rowType,
  typedAs,
  typeWords,
  Value,
  type Entry,
  type NamedKind,
  type Single,
  type SingleType,
} from '../values/index.ts';
import type { Answers, Apart, Column, Field, Form } from './form.ts';
import { countedAs, fieldRoom, fieldType, hasColumns, type FieldKind } from './kinds.ts';
import { isInShape, shapeWords } from './shape.ts';

/** What is wrong with one answer, as a sentence. */
export interface FieldProblem {
  field: string;
  sentence: string;
}

/** The fields shown for these answers, top to bottom. A hidden field counts as empty for the fields below it. */
export function visibleFields(form: Form, answers: Answers): Field[] {
  const seen: Record<string, Value> = {};
  const read = (ref: string) => (ref.startsWith('form.') ? own(seen, ref.slice(5)) : undefined);
  return form.fields.filter((field) => {
    if (field.visibleWhen && !compile(field.visibleWhen)(read)) return false;
    const answer = own(answers, field.id);
    if (answer !== undefined) setOwn(seen, field.id, answer);
    return true;
  });
}

/**
 * When answers are held, and by whose hours. `today` (YYYY-MM-DD): the day it is asked on; without it what counts from that day is not looked
 * at. `desk`: whose days count as working days; without it Monday to Friday do.
 */
export interface AskedOn {
  today?: string | undefined;
  desk?: Calendar | undefined;
}

/**
 * Holds answers against the form. Fields that are not shown are dropped, texts trimmed, empty optional fields become null.
 * Existence of persons and groups is not known here; `exists` is asked where given. Of the fields that whoever asks does not fill
 * in, an answer is wanted only of those in `opened`. `on`: when it is asked, and by whose hours.
 */
export function validateAnswers(
  form: Form,
  raw: Record<string, unknown>,
  exists: Exists = () => true,
  opened: ReadonlySet<string> = noFields,
  on: AskedOn = {},
): { ok: true; answers: Answers } | { ok: false; problems: FieldProblem[]; answers: Answers } {
  const problems: FieldProblem[] = [];
  const answers: Answers = {};
  const parsed: Answers = {};
  for (const field of form.fields) {
    const value = Value.safeParse(own(raw, field.id) ?? null);
    setOwn(parsed, field.id, value.success ? tidied(field, value.data) : null);
    if (!value.success) problems.push({ field: field.id, sentence: notAnAnswer(field, own(raw, field.id)) });
  }
  const shown = visibleFields(form, parsed);
  const needed = requiredOf(shown, parsed, opened);
  for (const field of shown) {
    const value = own(parsed, field.id) ?? null;
    if (problems.some((p) => p.field === field.id)) continue;
    setOwn(answers, field.id, isEmpty(value) ? null : saying(value));
    const say = (sentence: string) => problems.push({ field: field.id, sentence });
    if (isEmpty(value)) {
      if (needed.has(field.id)) say(missing(field));
      continue;
    }
    // What nobody filled in we looked up ourselves.
    const problem = problemOf(field, value, field.held && !opened.has(field.id) ? () => true : exists);
    if (problem) say(problem);
  }
  for (const broken of brokenRules(form, answers, on)) if (!problems.some((p) => p.field === broken.field)) problems.push(broken);
  return problems.length > 0 ? { ok: false, problems, answers } : { ok: true, answers };
}

/** What is wrong with the answers that are given, as long as somebody is still filling in: nothing is said of what is missing. */
export function wrongAnswers(form: Form, answers: Answers): FieldProblem[] {
  return visibleFields(form, answers).flatMap((f) => {
    const value = own(answers, f.id) ?? null;
    if (f.held || isEmpty(value)) return [];
    const sentence = problemOf(f, tidied(f, value), () => true);
    return sentence === undefined ? [] : [{ field: f.id, sentence }];
  });
}

/** Reads the answers to these fields; what is not shown has none. */
function readerOf(shown: readonly Field[], answers: Answers): (ref: string) => Value | undefined {
  const ids = new Set(shown.map((f) => f.id));
  return (ref) => (ref.startsWith('form.') && ids.has(ref.slice(5)) ? own(answers, ref.slice(5)) : undefined);
}

const noFields: ReadonlySet<string> = new Set();
/** Which of the fields that are shown want an answer of whoever fills them in, for these answers. */
function requiredOf(shown: readonly Field[], answers: Answers, opened = noFields): Set<string> {
  const read = readerOf(shown, answers);
  const wanted = (f: Field) => (!f.held || opened.has(f.id)) && (f.required || (f.requiredWhen && compile(f.requiredWhen)(read)));
  return new Set(shown.flatMap((f) => (wanted(f) ? [f.id] : [])));
}
/** Which fields of a form want an answer, for these answers. */
export const requiredNow = (form: Form, answers: Answers): Set<string> => requiredOf(visibleFields(form, answers), answers);

/**
 * The rules of a form that these answers break, each at the field it names, while that is shown. `whole`: only those all of whose
 * answers are given, as long as somebody is still filling in.
 */
export function brokenRules(form: Form, answers: Answers, on: AskedOn = {}, whole = false): FieldProblem[] {
  if (!form.rules?.length) return [];
  const shown = visibleFields(form, answers);
  const read = readerOf(shown, answers);
  return form.rules.flatMap(({ holds, apart, field, sentence }) => {
    if (field === undefined || !sentence.trim() || !shown.some((f) => f.id === field)) return [];
    if (apart && isTooSoon(apart, read, on)) return [{ field, sentence }];
    if (!holds || (whole && conditionReferences(holds).some((ref) => isEmpty(read(ref))))) return [];
    return compileFailing(holds)(read) ? [{ field, sentence }] : [];
  });
}

const mondayToFriday = deskCalendar('utc');
/** Whether rules of a form count working days, so that it matters whose hours count. */
export const countsWorkingDays = (form: Form): boolean => form.rules?.some((r) => r.apart?.counted === 'working') ?? false;

/** Whether a date comes before the day it is to come on at the earliest; what is not known is not too soon. */
function isTooSoon({ date, days, counted, after }: Apart, read: (ref: string) => Value | undefined, { today, desk }: AskedOn): boolean {
  const [day, from] = [date && read(date.ref), after ? read(after.ref) : today];
  const earliest = typeof from === 'string' ? dayAfter(from, days, counted, desk ?? mondayToFriday) : undefined;
  return typeof day === 'string' && isDate(day) && earliest !== undefined && day < earliest;
}

/** An answer without blanks around its texts; lines with their columns and no more. */
function tidied(field: Field, value: Value): Value {
  if (typeof value === 'string') return value.trim();
  if (!Array.isArray(value) || !value.some(isEntry)) return value;
  const { columns = [] } = field;
  return value.map((v): Single => (isEntry(v) ? tidiedLine(columns, v) : v));
}

/** A line with its columns and no more, without blanks around its texts; what is empty is null. */
export function tidiedLine(columns: readonly Column[], line: Entry): Entry {
  const cells: Entry['entry'] = {};
  for (const c of columns) {
    const cell = own(line.entry, c.id) ?? null;
    const text = typeof cell === 'string' ? cell.trim() : cell;
    setOwn(cells, c.id, isEmpty(text) ? null : text);
  }
  return { entry: cells };
}

/** Lines that say nothing are not kept. They count where a line is told by its number, since they stand on the screen. */
const saying = (value: Value): Value => (Array.isArray(value) ? value.filter((v) => !isEntry(v) || !isEmpty(v)) : value);

/** Why something that was sent cannot be an answer at all. */
export function notAnAnswer(field: Pick<Field, 'label'>, raw: unknown): string {
  const bad = typeof raw === 'string' ? unkeepableIn(raw) : undefined;
  return bad
    ? `${field.label} holds a character that cannot be kept (${bad}). Take it out.`
    : `${field.label} holds something that is not an answer.`;
}

/** Of a holding: the action that is to have given it, and whether it is to be lent until a day. */
export type OfHolding = Pick<Field, 'gave' | 'lent'>;
/** Whether what answers name by an id is there to be named, and is what the field offers. */
export type Exists = (kind: NamedKind, id: string, of: OfHolding) => boolean;

/** What is wrong with an answer that is not empty. */
function problemOf(field: Field, value: Value, exists: Exists): string | undefined {
  const { label } = field;
  const { type, offers, longest } = fieldRoom(field.kind);
  if (hasColumns(field.kind)) return problemOfLines(field, value, exists);
  const named = namedIn(value);
  const single = rowType(type) === undefined;
  const there = named.every((n) => exists(n.kind, n.id, field));
  if (single && isNamed(type) && !(isOfType(value, type) && there))
    return `${label}: this ${typeWords[type]} is not known. ${type === 'file' ? 'Attach it again.' : 'Pick one from the list.'}`;
  if (!isOfType(value, type))
    return `${label} ${offers && !single ? 'must be a list of choices' : !single ? `must be a ${typeWords[type]}` : mustBe(type)}.`;
  if (!there) return type === 'files' ? `${label} has a file that is not known. Attach it again.` : `${label} names somebody who is not known.`;
  const counted = countedAs[field.kind as keyof typeof countedAs];
  if (counted && Array.isArray(value)) {
    const count = (n: number) => `${n} ${n === 1 ? counted[0] : counted[1]}`;
    if (field.min !== undefined && value.length < field.min) return `${label}: at least ${count(field.min)}.`;
    if (field.max !== undefined && value.length > field.max) return `${label}: at most ${count(field.max)}.`;
  }
  if (isRow(value) && value.table !== field.table) return `${label}: this row is of another table. Pick one from the list.`;
  if (offers && ![value].flat().every((v) => (field.options ?? []).some((o) => o.value === v)))
    return `${label}: pick ${single ? 'one of' : 'among'} the choices.`;
  if (isNumber(value)) {
    const unit = field.unit ? ` ${field.unit}` : '';
    if (field.min !== undefined && compareNumbers(value, field.min) < 0) return `${label}: at least ${field.min}${unit}.`;
    if (field.max !== undefined && compareNumbers(value, field.max) > 0) return `${label}: at most ${field.max}${unit}.`;
  }
  if (type === 'address' && !isMailAddress(value as string)) return `${label} ${mustBe(type)}.`;
  if (longest !== undefined) {
    const length = [...(value as string)].length;
    if (length > longest) return `${label} has ${length} characters; at most ${longest} fit.`;
  }
  if (field.shape && typeof value === 'string' && !isInShape(field.shape, value))
    return field.shape.sentence?.trim() || `${label} is not written as it must be: ${shapeWords(field.shape)}.`;
  return undefined;
}

/** What is wrong with lines: how many there are, or the first cell that is not as its column wants it. */
function problemOfLines(field: Field, value: Value, exists: Exists): string | undefined {
  const lines = Array.isArray(value) ? value.filter(isEntry) : [];
  if (!Array.isArray(value) || lines.length < value.length) return `${field.label} must be a ${typeWords.entries}.`;
  const count = (n: number) => `${n} ${n === 1 ? 'line' : 'lines'}`;
  const said = lines.filter((line) => !isEmpty(line)).length;
  if (field.min !== undefined && said < field.min) return `${field.label}: at least ${count(field.min)}.`;
  if (field.max !== undefined && said > field.max) return `${field.label}: at most ${count(field.max)}.`;
  const wrong = wrongCell(field, lines, exists);
  return wrong && `${field.label}, line ${wrong.line + 1}: ${wrong.sentence}`;
}

/** The first cell of lines that is not as its column wants it: the line's place from 0, the column's key, and what is wrong. Lines that say nothing are passed by. */
export function wrongCell(
  { columns = [] }: Field,
  lines: readonly Entry[],
  exists: Exists = () => true,
): { line: number; column: string; sentence: string } | undefined {
  for (const [line, row] of lines.entries()) {
    const [first] = isEmpty(row) ? [] : wrongCells(columns, row, exists);
    if (first) return { line, ...first };
  }
  return undefined;
}

/** Every cell of a line that is not as its column wants it, in the order of the columns. */
export const wrongCells = (columns: readonly Column[], { entry }: Entry, exists: Exists = () => true): { column: string; sentence: string }[] =>
  columns.flatMap((column) => {
    const cell = own(entry, column.id) ?? null;
    const sentence = isEmpty(cell) ? (column.required ? missing(column) : undefined) : problemOf(column, cell, exists);
    return sentence === undefined ? [] : [{ column: column.id, sentence }];
  });

const missing = (field: Pick<Field, 'kind' | 'label'>): string => `${fieldRoom(field.kind).verb} “${field.label}”.`;

/**
 * What was posted for a field, as the value its kind holds: one text, or each of several. What does not fit is kept as it was
 * typed, to be refused and not lost.
 */
export function postedAs(kind: FieldKind, one: string, all: string[]): Value {
  const type = fieldType(kind);
  const row = rowType(type);
  const read = (text: string, as: SingleType) => typedAs(text, as) ?? (text === '' ? null : text);
  if (row === undefined) return read(one, type as SingleType);
  const rows = all.flatMap((text) => read(text, row) ?? []);
  return rows.length > 0 ? rows : null;
}

/** The fields that still miss an answer, for the words beside the submit button. */
export function missingFields(form: Form, answers: Answers): Field[] {
  const shown = visibleFields(form, answers);
  const needed = requiredOf(shown, answers);
  return shown.filter((f) => needed.has(f.id) && isEmpty(own(answers, f.id)));
}
