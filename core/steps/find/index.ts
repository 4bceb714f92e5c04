import { own } from '../../boundary/index.ts';
import type { Naming } from '../../conditions/index.ts';
import { fieldType } from '../../forms/index.ts';
import { isEmpty, isGroup, isReference, sameValue, type Row, type Value } from '../../values/index.ts';
import type { Catalogue } from '../catalogue.ts';
import { inputFindings, teamFindings, typeFindings } from '../check.ts';
import { stop, unset, warn, type Finding } from '../finding.ts';
import { output, readOne, readOperands, type Places } from '../place.ts';
import type { Room } from '../room.ts';
import { ended, fail, personOf, putOutputs, read, valuesOf, type RunContext, type Scope } from '../run/context.ts';
import type { Wanted } from '../run/effect.ts';
import type { Candidate } from '../run/event.ts';
import type { Activity } from '../run/state.ts';
import { managerWords, statedWords, teamWords } from '../words.ts';
import { Find, type Lookup } from './settings.ts';

type RowsLookup = Extract<Lookup, { find: 'rows' | 'row' }>;
const isOfRows = (l: Lookup | undefined): l is RowsLookup => l?.find === 'rows' || l?.find === 'row';
const columnsOf = (l: RowsLookup, catalogue: Catalogue) => (l.table === undefined ? [] : (own(catalogue.tables, l.table)?.columns ?? []));

function rowsWords(l: RowsLookup, naming: Naming, catalogue: Catalogue): string {
  const table = l.table === undefined ? undefined : own(catalogue.tables, l.table)?.name;
  const columns = columnsOf(l, catalogue);
  const where = Object.entries(l.where).map(([id, o]) => {
    const label = columns.find((c) => c.id === id)?.label ?? 'a column that is gone';
    return `${label} is ${isReference(o) ? naming.place(o.ref) : statedWords(o.literal, catalogue)}`;
  });
  const words = `${l.find === 'row' ? 'the row' : 'the rows'} of ${table === undefined ? 'a table not chosen yet' : `“${table}”`}`;
  const several = l.find === 'row' ? (l.several === 'first' ? '; of several the first by its key' : '; several are a failure') : '';
  return `${words}${where.length > 0 ? ` in which ${where.join(' and ')}` : ''}${several}`;
}

function lookupWords(l: Lookup | undefined, naming: Naming, catalogue: Catalogue): string {
  if (!l) return 'nothing yet';
  if (isOfRows(l)) return rowsWords(l, naming, catalogue);
  if (l.find === 'managerOf') return `${managerWords(l.levels)} ${naming.place(l.person.ref)}`;
  if (l.find === 'reportsOf') return `everyone whose manager is ${naming.place(l.person.ref)}`;
  if (l.find === 'teamMembers') return `the members of ${teamWords(l.team, catalogue)}`;
  return `the ${l.find === 'ownersOf' ? 'owners' : 'members'} of ${naming.place(l.group.ref)}`;
}

/** What the look-up asks for, by values as they are now; undefined where what it reads leads to nobody. */
function wantedOf(context: RunContext, l: Exclude<Lookup, RowsLookup>, scope: Scope): Wanted | undefined {
  if (l.find === 'teamMembers') return { from: 'team', team: l.team };
  if (l.find === 'ownersOf' || l.find === 'membersOf') {
    const group = read(context, scope, l.group.ref);
    return isGroup(group) ? { from: l.find, group: group.group } : undefined;
  }
  const person = personOf(read(context, scope, l.person.ref));
  if (person === undefined) return undefined;
  return l.find === 'reportsOf' ? { from: 'reportsOf', person } : { from: 'managerOf', person, levels: l.levels ?? 1 };
}

/** What a look-up of rows leaves behind: of one that is looked for, none may be found; a list may be empty. */
const rowOutputs = (step: Find, l: RowsLookup) => {
  const table = l.table !== undefined && { table: l.table };
  const count = output(step, 'count', 'How many rows were found', 'number', true);
  return l.find === 'row'
    ? [{ ...output(step, 'row', 'The row found', 'row', false), ...table }, count]
    : [
        { ...output(step, 'rows', 'The rows found', 'rows', false), ...table },
        { ...count, counts: `steps.${step.id}.rows` },
      ];
};

/** A look-up of one person may find nobody; a list may be empty. */
function lookedUp(context: RunContext, step: Find, activity: Activity, scope: Scope, people: Candidate[]): void {
  const list = people.map((p) => ({ person: p.person }));
  const outputs: Record<string, Value> = step.lookup?.find === 'managerOf' ? { person: list[0] ?? null } : { people: list, count: list.length };
  putOutputs(scope, step.id, outputs);
  ended(context, activity, 'done', outputs);
}

/** Rows that were looked up; of one that is looked for, several may be a failure. */
function foundRows(context: RunContext, step: Find, lookup: RowsLookup, activity: Activity, scope: Scope, rows: readonly Row[]): void {
  if (lookup.find === 'row' && lookup.several === 'fail' && rows.length > 1)
    return void fail(context, scope, activity, `“${step.name}” found ${rows.length} rows where one was looked for.`);
  const outputs: Record<string, Value> =
    lookup.find === 'row' ? { row: rows[0] ?? null, count: rows.length } : { rows: rows.length > 0 ? [...rows] : null, count: rows.length };
  putOutputs(scope, step.id, outputs);
  ended(context, activity, 'done', outputs);
}

/** What is wrong with what rows are looked up by. */
function rowsLack(step: Find, l: RowsLookup, anywhere: Places, catalogue: Catalogue): Finding[] {
  if (l.table === undefined) return [unset(step, 'a table to look in')];
  if (!own(catalogue.tables, l.table))
    return [
      stop(step, {
        code: 'unknown-table',
        sentence: `“${step.name}” looks in a table that does not exist.`,
        mend: 'Choose another reference table.',
      }),
    ];
  const columns = columnsOf(l, catalogue);
  const gone = Object.keys(l.where).filter((id) => !columns.some((c) => c.id === id));
  return [
    ...gone.map(() =>
      stop(step, {
        code: 'unknown-reference',
        sentence: `“${step.name}” looks up rows by a column that the table does not have any more.`,
        mend: 'Take the column off, or pick another.',
      }),
    ),
    ...inputFindings(
      step,
      l.where,
      columns.map((c) => ({ name: c.id, label: c.label, type: fieldType(c.kind), required: false })),
      anywhere,
    ),
    ...(gone.length === 0 ? choicesWithoutRow(step, l, anywhere, catalogue) : []),
  ];
}

/** More combinations of choices than this are not looked at. */
const mostCombinations = 500;

/** Choices that a form offers, together where rows are looked up by several, for which the table has no row now. */
function choicesWithoutRow(step: Find, l: RowsLookup, anywhere: Places, catalogue: Catalogue): Finding[] {
  const table = l.table === undefined ? undefined : own(catalogue.tables, l.table);
  const { looked } = table ?? {};
  if (!table || !looked) return [];
  const asked = Object.entries(l.where).flatMap(([column, o]) => {
    const options = isReference(o) ? anywhere.get(o.ref)?.options : [{ value: o.literal, label: '' }];
    return options && looked.columns.includes(column) ? [{ at: looked.columns.indexOf(column), options }] : [];
  });
  const combinations = asked.reduce((n, a) => n * a.options.length, 1);
  if (!asked.some((a) => a.options.length > 1) || combinations > mostCombinations) return [];
  const missing = asked
    .reduce<{ at: number; option: { value: Value; label: string } }[][]>(
      (all, a) => all.flatMap((c) => a.options.map((option) => [...c, { at: a.at, option }])),
      [[]],
    )
    .filter((c) => !looked.rows.some((row) => c.every(({ at, option }) => sameValue(row[at] ?? null, option.value))))
    .map((c) => c.flatMap(({ option }) => (option.label ? [`“${option.label}”`] : [])).join(' with '));
  if (missing.length === 0) return [];
  const [some, more] = [missing.slice(0, 3), missing.length - 3];
  return [
    warn(step, {
      code: 'no-row',
      sentence: `“${step.name}” finds no row of “${table.name}” for ${some.join(', ')}${more > 0 ? ` and ${more} more` : ''}.`,
      mend: 'Add the rows to the table, or take the choices out of the form.',
    }),
  ];
}

/** The room of this kind; `room.ts` says what each member means. */
export const find: Room<Find> = {
  verb: 'Find',
  does: 'Look up a person, people, or rows of a table',
  alsoCalled: ['look up', 'person', 'manager', 'search', 'table', 'row'],
  schema: () => Find,
  fresh: () => ({}),
  outputs: (step) =>
    isOfRows(step.lookup)
      ? rowOutputs(step, step.lookup)
      : step.lookup?.find === 'managerOf'
        ? [output(step, 'person', 'The one found', 'person', false)]
        : // Nobody may be found: the list is there, and empty.
          [
            output(step, 'people', 'Those found', 'people', false),
            { ...output(step, 'count', 'How many were found', 'number', true), counts: `steps.${step.id}.people` },
          ],
  reads: ({ lookup }, catalogue) =>
    isOfRows(lookup)
      ? readOperands(lookup.where, (id) => columnsOf(lookup, catalogue).find((c) => c.id === id)?.label ?? 'Look up').map((r) => ({
          ...r,
          needed: false,
        }))
      : !lookup || lookup.find === 'teamMembers'
        ? []
        : readOne('group' in lookup ? lookup.group.ref : lookup.person.ref, 'Look up'),
  lacks: (step, anywhere, catalogue) => {
    const l = step.lookup;
    if (!l) return [unset(step, 'anything to look up')];
    if (isOfRows(l)) return rowsLack(step, l, anywhere, catalogue);
    if (l.find === 'teamMembers') return teamFindings(step, l.team, catalogue);
    return 'group' in l
      ? typeFindings(step, 'Look up', l.group.ref, ['group'], anywhere)
      : typeFindings(step, 'Look up', l.person.ref, ['person'], anywhere);
  },
  looksIn: ({ lookup }) => (isOfRows(lookup) ? lookup.table : undefined),
  looksBy: ({ lookup }, table) => (isOfRows(lookup) && lookup.table === table ? Object.keys(lookup.where) : []),
  steers: true,
  party: () => 'The run itself',
  sentence: (step, naming, catalogue) => `Look up ${lookupWords(step.lookup, naming, catalogue)}.`,
  start: (context, step, activity, scope) => {
    if (!step.lookup) return void fail(context, scope, activity, `“${step.name}” has nothing to look up.`);
    if (isOfRows(step.lookup)) {
      const { table = '', where } = step.lookup;
      const values = valuesOf(context, scope, where);
      // What is compared with nothing finds nothing.
      if (Object.values(values).some((v) => isEmpty(v))) return foundRows(context, step, step.lookup, activity, scope, []);
      activity.phase = 'finding';
      context.effects.push({ effect: 'findRows', key: activity.key, table, where: values });
      return;
    }
    const wanted = wantedOf(context, step.lookup, scope);
    if (!wanted) return lookedUp(context, step, activity, scope, []);
    activity.phase = 'finding';
    context.effects.push({ effect: 'find', key: activity.key, wanted });
  },
  on: (context, { step, activity, scope }, event) => {
    if (activity.phase !== 'finding') return 'not-open';
    if (event.type === 'rowsFound' && isOfRows(step.lookup)) {
      activity.phase = 'inside';
      foundRows(context, step, step.lookup, activity, scope, event.rows);
      return undefined;
    }
    if (event.type !== 'found' || isOfRows(step.lookup)) return 'not-open';
    activity.phase = 'inside';
    lookedUp(context, step, activity, scope, event.people);
    return undefined;
  },
  bpmn: (step, from, write) => write.simple('bpmn:ServiceTask', step, from),
};
