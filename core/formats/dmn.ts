import { DmnModdle, type ModdleElement } from 'dmn-moddle';
import {
  cellOf,
  factNames,
  RoutingTable,
  winningOrder,
  type PlaceTree,
  type RoutingAnswer,
  type RoutingCell,
  type RoutingColumn,
  type RoutingNames,
  type RoutingRow,
} from '../routing/index.ts';

/** What a routing table needs to be written or read: what everything is called, what lies in what, and which answers are several. */
export interface DmnContext {
  names: RoutingNames;
  tree: PlaceTree;
  /** Whether a fact of a case is several values: groups, and answers of which several can be chosen. */
  several: (column: Pick<RoutingColumn, 'fact' | 'field'>) => boolean;
}

/** The name in FEEL of the fact that a column looks at. Of a place it is the list of it and those around it, the nearest first. */
const expressionOf = (c: Pick<RoutingColumn, 'fact' | 'field'>): string =>
  c.fact === 'answer' ? `answers.${c.field ?? ''}` : c.fact === 'place' ? 'places' : c.fact === 'group' ? 'groups' : c.fact;

const text = JSON.stringify;
const spreads = { pickUp: 'pick up', inTurn: 'in turn', leastLoaded: 'least loaded' } as const;
const outputs = ['goes to', 'how'] as const;

/** A cell as a unary test in FEEL. */
function testOf(cell: RoutingCell, column: RoutingColumn, { names, several }: DmnContext): string {
  const key = column.fact === 'answer' ? `answer.${column.field}` : column.fact;
  const called = (id: string): string => {
    const name = names.of(key, id);
    // A name that two things have tells neither.
    return name !== undefined && names.called(key, name).length === 1 ? name : id;
  };
  const has = (ids: readonly string[]) => ids.map((id) => `list contains(?, ${text(called(id))})`).join(' or ');
  const isSeveral = several(column);
  switch (cell.is) {
    case 'any':
      return '-';
    case 'empty':
      return isSeveral || column.fact === 'place' ? 'count(?) = 0' : 'null';
    case 'under':
      return has(cell.places);
    case 'oneOf':
      if (column.fact === 'place') return `list contains([${cell.values.map((id) => text(called(id))).join(', ')}], ?[1])`;
      if (isSeveral) return has(cell.values);
      return cell.values.flatMap((v) => [text(called(v)), ...(column.fact === 'answer' && isNumber(v) ? [v] : [])]).join(', ');
    case 'between':
      return cell.from === undefined ? `<= ${cell.to}` : cell.to === undefined ? `>= ${cell.from}` : `[${cell.from}..${cell.to}]`;
  }
}
/** A text that is a number as FEEL writes one. */
const isNumber = (s: string): boolean => /^-?\d+(\.\d+)?$/.test(s) && String(Number(s)) === s;

function answerOf(answer: RoutingAnswer, { names }: DmnContext): [string, string] {
  const [key, id] = 'team' in answer ? ['team', answer.team] : ['person', answer.person];
  const name = names.of(key, id);
  return [name !== undefined && names.called(key, name).length === 1 ? name : id, 'team' in answer ? spreads[answer.how] : 'person'];
}

/**
 * A routing table as a DMN 1.3 decision table, rows under the hit policy First or Unique. One in which the most specific row wins is written
 * in the order in which rows win; where there is none (`winningOrder`), it says so.
 */
export async function dmnOf(table: RoutingTable, context: DmnContext): Promise<{ ok: true; xml: string } | { ok: false; sentence: string }> {
  const rows = table.chooses === 'nearest' ? winningOrder(table, context.tree) : table.rows;
  if (!rows)
    return {
      ok: false,
      sentence:
        'It cannot be written as DMN as it stands: rows for a place and for one within it stand on both sides of an equally specific row for no place, and DMN knows one order only. Move that row.',
    };
  const moddle = new DmnModdle();
  const make = (type: string, attrs: Record<string, unknown>) => moddle.create(`dmn:${type}`, attrs);
  const literal = (id: string, words: string) => make('LiteralExpression', { id, text: words });
  const used = new Map<string, number>();
  const once = (id: string): string => {
    const n = (used.get(id) ?? 0) + 1;
    used.set(id, n);
    return n === 1 ? id : `${id}_${n}`;
  };
  const fallback = answerOf(table.fallback, context);
  const logic = make('DecisionTable', {
    id: 'table',
    hitPolicy: table.chooses === 'unique' ? 'UNIQUE' : 'FIRST',
    input: table.columns.map((c) =>
      make('InputClause', {
        id: `input_${c.id}`,
        label: context.names.column(c),
        inputExpression: make('LiteralExpression', { id: `expression_${c.id}`, text: expressionOf(c) }),
      }),
    ),
    output: outputs.map((name, i) =>
      make('OutputClause', {
        id: `output_${i}`,
        name,
        label: name,
        typeRef: 'string',
        defaultOutputEntry: literal(`default_${i}`, text(fallback[i])),
      }),
    ),
    rule: rows.map((row) => {
      const id = once(`row_${row.id}`);
      return make('DecisionRule', {
        id,
        inputEntry: table.columns.map((c) => make('UnaryTests', { id: `${id}_in_${c.id}`, text: testOf(cellOf(row, c.id), c, context) })),
        outputEntry: answerOf(row.answer, context).map((words, i) => literal(`${id}_out_${i}`, text(words))),
      });
    }),
  });
  const decision = make('Decision', {
    id: 'decision',
    name: table.name,
    ...(table.chooses === 'nearest' && { description: 'The most specific row wins; rows stand in the order in which they win.' }),
    decisionLogic: logic,
  });
  const definitions = make('Definitions', { id: 'routing', name: table.name, namespace: 'https://nessmoor.example/routing', drgElement: [decision] });
  return { ok: true, xml: (await moddle.toXML(definitions, { format: true })).xml };
}

/** The most characters of a file that is read. */
export const largestDmn = 2_000_000;

type Read<T> = { ok: true; value: T } | { ok: false; sentence: string };
const no = (sentence: string): { ok: false; sentence: string } => ({ ok: false, sentence });

/** A DMN decision table as a routing table, with what in it cannot be one said in a sentence; nothing is guessed. */
export async function readDmn(xml: string, context: DmnContext): Promise<{ ok: true; table: RoutingTable } | { ok: false; sentence: string }> {
  if (xml.length > largestDmn) return no('The file is larger than 2 MB.');
  // Nobody who writes such a file needs entities of their own.
  if (/<!(doctype|entity)/i.test(xml)) return no('The file declares entities of its own, which are not read.');
  let root: ModdleElement;
  try {
    root = (await new DmnModdle().fromXML(xml)).rootElement;
  } catch {
    return no('This is no DMN file, or it did not arrive whole.');
  }
  const decisions = elements(root, 'drgElement').flatMap((d) => (d.$type === 'dmn:Decision' ? [d] : []));
  const decision = decisions.find((d) => (d['decisionLogic'] as ModdleElement | undefined)?.$type === 'dmn:DecisionTable');
  if (!decision) return no('There is no decision table in this file.');
  const logic = decision['decisionLogic'] as ModdleElement;
  const policy = String(logic['hitPolicy'] ?? 'UNIQUE').toUpperCase();
  if (policy !== 'FIRST' && policy !== 'UNIQUE') return no(`Its hit policy is ${policy}; a routing table is First or Unique.`);
  const columns: RoutingColumn[] = [];
  for (const [i, clause] of elements(logic, 'input').entries()) {
    const column = columnOf(textOf(clause['inputExpression']), i);
    if (!column) return no(`Column ${i + 1} looks at “${textOf(clause['inputExpression'])}”, which a routing table does not know.`);
    columns.push(column);
  }
  const clauses = elements(logic, 'output');
  if (clauses.length !== 2) return no('A routing table has two outputs: who gets it, and how it is spread there.');
  const fallback = answerIn(
    clauses.map((c) => textOf(c['defaultOutputEntry'])),
    context,
    'What no row takes',
  );
  if (!fallback.ok) return fallback;
  const rows: RoutingRow[] = [];
  for (const [i, rule] of elements(logic, 'rule').entries()) {
    const entries = elements(rule, 'inputEntry').map(textOf);
    if (entries.length !== columns.length) return no(`Row ${i + 1} has ${entries.length} conditions for ${columns.length} columns.`);
    const cells: Record<string, RoutingCell> = {};
    for (const [n, column] of columns.entries()) {
      const cell = cellIn(entries[n]!, column, context);
      if (!cell.ok) return no(`Row ${i + 1}, ${context.names.column(column)}: ${cell.sentence}`);
      if (cell.value.is !== 'any') cells[column.id] = cell.value;
    }
    const answer = answerIn(elements(rule, 'outputEntry').map(textOf), context, `Row ${i + 1}`);
    if (!answer.ok) return answer;
    rows.push({ id: `r${i + 1}`, cells, answer: answer.value });
  }
  const read = RoutingTable.safeParse({
    name: String(decision['name'] ?? 'Routing').slice(0, 80),
    chooses: policy === 'FIRST' ? 'first' : 'unique',
    columns,
    rows,
    fallback: fallback.value,
  });
  return read.success ? { ok: true, table: read.data } : no(read.error.issues[0]?.message ?? 'It cannot be a routing table.');
}

const elements = (of: ModdleElement, name: string): ModdleElement[] => (of[name] as ModdleElement[] | undefined) ?? [];
const textOf = (of: unknown): string => String((of as ModdleElement | undefined)?.['text'] ?? '').trim();

function columnOf(expression: string, i: number): RoutingColumn | undefined {
  const field = /^answers\.([A-Za-z][\w]{0,60})$/.exec(expression)?.[1];
  if (field !== undefined) return { id: `c${i + 1}`, fact: 'answer', field };
  const fact = factNames.find((f) => f !== 'answer' && expressionOf({ fact: f }) === expression);
  return fact && { id: `c${i + 1}`, fact };
}

const string = String.raw`"(?:[^"\\]|\\.)*"`;
const number = String.raw`-?\d+(?:\.\d+)?`;
const whole = (pattern: string) => new RegExp(`^${pattern}$`);
const contains = String.raw`list contains\(\s*\?\s*,\s*(${string})\s*\)`;
const ones = whole(String.raw`(?:${string}|${number})(?:\s*,\s*(?:${string}|${number}))*`);
const severals = whole(String.raw`${contains}(?:\s+or\s+${contains})*`);
const onlys = whole(String.raw`list contains\(\s*\[\s*(${string}(?:\s*,\s*${string})*)\s*\]\s*,\s*\?\[1\]\s*\)`);
const strings = (words: string): string[] => (words.match(new RegExp(string, 'g')) ?? []).map((s) => JSON.parse(s) as string);

/** A unary test as a cell; only what `testOf` writes, and plain comparisons, are understood. */
function cellIn(test: string, column: RoutingColumn, { names, several }: DmnContext): Read<RoutingCell> {
  const key = column.fact === 'answer' ? `answer.${column.field}` : column.fact;
  const isSeveral = several(column);
  const ids = (called: string[]): Read<string[]> => {
    const found: string[] = [];
    for (const name of called) {
      const [id, other] = names.called(key, name);
      if (other !== undefined) return no(`more than one is called “${name}”.`);
      if (id === undefined && column.fact !== 'answer' && names.of(key, name) === undefined) return no(`nothing here is called “${name}”.`);
      if (!found.includes(id ?? name)) found.push(id ?? name);
    }
    return { ok: true, value: found };
  };
  const cell = (called: string[], make: (ids: string[]) => RoutingCell): Read<RoutingCell> => {
    const found = ids(called);
    return found.ok ? { ok: true, value: make(found.value) } : found;
  };
  if (test === '-' || test === '') return { ok: true, value: { is: 'any' } };
  if (test === 'null' || /^count\(\s*\?\s*\)\s*=\s*0$/.test(test)) return { ok: true, value: { is: 'empty' } };
  try {
    const only = onlys.exec(test);
    if (only && column.fact === 'place') return cell(strings(only[1]!), (values) => ({ is: 'oneOf', values }));
    if (severals.test(test) && (isSeveral || column.fact === 'place'))
      return cell(strings(test), (found) => (column.fact === 'place' ? { is: 'under', places: found } : { is: 'oneOf', values: found }));
    if (ones.test(test) && !isSeveral && column.fact !== 'place') {
      const numbers = test.replace(new RegExp(string, 'g'), '').match(new RegExp(number, 'g')) ?? [];
      return cell([...new Set([...strings(test), ...numbers])], (values) => ({ is: 'oneOf', values }));
    }
  } catch {
    return no(`“${test}” holds a text that cannot be read.`);
  }
  const range = new RegExp(String.raw`^(?:\[\s*(${number})\s*\.\.\s*(${number})\s*\]|>=\s*(${number})|<=\s*(${number}))$`).exec(test);
  if (range && column.fact === 'answer') {
    const [from, to] = [range[1] ?? range[3], range[2] ?? range[4]];
    if (from !== undefined && to !== undefined && Number(from) > Number(to)) return no('the first number is the smaller one.');
    return { ok: true, value: { is: 'between', ...(from !== undefined && { from: Number(from) }), ...(to !== undefined && { to: Number(to) }) } };
  }
  return no(`“${test}” is no condition that a routing table knows.`);
}

function answerIn(entries: string[], { names }: DmnContext, where: string): Read<RoutingAnswer> {
  let said: unknown[];
  try {
    said = entries.map((e) => JSON.parse(e) as unknown);
  } catch {
    return no(`${where} has no answer that can be read; it is two texts.`);
  }
  const [name, how] = said;
  if (typeof name !== 'string' || typeof how !== 'string') return no(`${where} has no answer that can be read; it is two texts.`);
  const find = (key: 'team' | 'person'): Read<string> => {
    const [id, other] = names.called(key, name);
    if (other !== undefined) return no(`${where} goes to “${name}”, and more than one is called so.`);
    const known = id ?? (names.of(key, name) === undefined ? undefined : name);
    return known === undefined ? no(`${where} goes to “${name}”, and nothing here is called so.`) : { ok: true, value: known };
  };
  if (how === 'person') {
    const id = find('person');
    return id.ok ? { ok: true, value: { person: id.value } } : id;
  }
  const spread = (Object.keys(spreads) as (keyof typeof spreads)[]).find((s) => spreads[s] === how);
  if (!spread) return no(`${where} is spread “${how}”; it is ${Object.values(spreads).join(', ')} or person.`);
  const id = find('team');
  return id.ok ? { ok: true, value: { team: id.value, how: spread } } : id;
}
