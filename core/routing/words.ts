import { listWords } from '../values/index.ts';
import type { FactClass, RoutingDomain } from './domain.ts';
import type { Region, RoutingAnalysis } from './analyse.ts';
import { cellOf, factKey, spreads, type RoutingAnswer, type RoutingCell, type RoutingColumn, type RoutingTable } from './table.ts';

/** What ids are called, by what a column looks at; teams and people by theirs. */
export interface RoutingNames {
  of: (key: string, id: string) => string | undefined;
  /** The ids of what is called so; several where names are not told apart. */
  called: (key: string, name: string) => string[];
  /** What a column is called: “Category”. */
  column: (column: Pick<RoutingColumn, 'fact' | 'field'>) => string;
}

const spreadWords: Record<(typeof spreads)[number], string> = { pickUp: '', inTurn: 'in turn', leastLoaded: 'least loaded' };

/** A cell in the words in which it is typed: “any”, “Pay, Charts”, “in Lunnick”, “2 to 5”, “nothing”. */
export function cellWords(cell: RoutingCell, column: RoutingColumn, names: RoutingNames): string {
  const name = (id: string) => names.of(factKey(column), id) ?? id;
  switch (cell.is) {
    case 'any':
      return 'any';
    case 'empty':
      return 'nothing';
    case 'under':
      return cell.places.map(name).join(', ');
    case 'oneOf': {
      const all = cell.values.map(name).join(', ');
      return column.fact === 'place' ? `only ${all}` : all;
    }
    case 'between':
      return cell.from === undefined
        ? `up to ${cell.to}`
        : cell.to === undefined
          ? `from ${cell.from}`
          : cell.from === cell.to
            ? String(cell.from)
            : `${cell.from} to ${cell.to}`;
  }
}

/** What somebody typed in a cell; what is wrong with it where it is none. Nothing typed is any. */
export function readCell(typed: string, column: RoutingColumn, names: RoutingNames): RoutingCell | { wrong: string } {
  const text = typed.trim();
  if (text === '' || /^any$/i.test(text)) return { is: 'any' };
  if (/^nothing$/i.test(text)) return { is: 'empty' };
  const number = (s: string | undefined) => (s === undefined || s === '' ? undefined : Number(s));
  const span = /^(?:from\s+(-?[\d.]+)|up to\s+(-?[\d.]+)|(-?[\d.]+)\s+to\s+(-?[\d.]+))$/i.exec(text);
  if (span && column.fact === 'answer') {
    const [from, to] = [number(span[1] ?? span[3]), number(span[2] ?? span[4])];
    if (from !== undefined && to !== undefined && from > to) return { wrong: 'The first number is the smaller one.' };
    return { is: 'between', ...(from !== undefined && { from }), ...(to !== undefined && { to }) };
  }
  const only = column.fact === 'place' && /^only\s+/i.test(text);
  const found: string[] = [];
  for (const name of splitNames(only ? text.replace(/^only\s+/i, '') : text, (n) => names.called(factKey(column), n).length > 0)) {
    const [id, other] = names.called(factKey(column), name);
    if (id === undefined && column.fact !== 'answer') return { wrong: `No ${names.column(column).toLowerCase()} is called “${name}”.` };
    if (other !== undefined) return { wrong: `More than one ${names.column(column).toLowerCase()} is called “${name}”.` };
    if (!found.includes(id ?? name)) found.push(id ?? name);
  }
  return column.fact === 'place' && !only ? { is: 'under', places: found } : { is: 'oneOf', values: found };
}

/** Names with commas between them; a name that has a comma of its own is found whole. */
function splitNames(text: string, known: (name: string) => boolean): string[] {
  const parts = text.split(/[,;]/).map((p) => p.trim());
  const found: string[] = [];
  for (let i = 0; i < parts.length;) {
    let take = 1;
    for (let n = parts.length - i; n > 1; n--)
      if (known(parts.slice(i, i + n).join(', '))) {
        take = n;
        break;
      }
    const name = parts.slice(i, i + take).join(', ');
    if (name !== '') found.push(name);
    i += take;
  }
  return found;
}

/** Who gets it, in the words in which it is typed: “Workplace, in turn”, “Birk Saltvik”. */
export const answerWords = (answer: RoutingAnswer, names: RoutingNames): string =>
  'person' in answer
    ? (names.of('person', answer.person) ?? 'somebody who has left')
    : [names.of('team', answer.team) ?? 'a team that is gone', spreadWords[answer.how]].filter(Boolean).join(', ');

/** What somebody typed of who gets it; what is wrong with it where it is nobody. */
export function readAnswer(typed: string, names: RoutingNames): RoutingAnswer | { wrong: string } {
  const text = typed.trim();
  if (text === '') return { wrong: 'Say who gets it: a team or a person.' };
  const how = spreads.find((s) => spreadWords[s] !== '' && text.toLowerCase().endsWith(`, ${spreadWords[s]}`)) ?? 'pickUp';
  const name = how === 'pickUp' ? text : text.slice(0, -spreadWords[how].length - 2).trim();
  const [teams, people] = [names.called('team', name), how === 'pickUp' ? names.called('person', name) : []];
  if (teams.length + people.length > 1) return { wrong: `More than one is called “${name}”.` };
  if (teams[0] !== undefined) return { team: teams[0], how };
  return people[0] === undefined ? { wrong: `No team, and nobody in one, is called “${name}”.` } : { person: people[0] };
}

/** What is meant of a column, in a few words; undefined where it is whatever it is. */
function classesWords(classes: FactClass[], key: string, names: RoutingNames, domain: RoutingDomain): string {
  const values = classes.flatMap((c) => (c.is === 'values' ? c.values : [])).map((v) => names.of(key, v) ?? v);
  const parts: string[] = [];
  const all = domain.facts.get(key)?.values ?? [];
  const left = all.filter((v) => !classes.some((c) => c.values.includes(v))).map((v) => names.of(key, v) ?? v);
  if (values.length > 4 && left.length < values.length && left.length <= 3) parts.push(`any but ${listWords(left, 'and')}`);
  else if (values.length > 6) parts.push(...values.slice(0, 4), `${values.length - 4} others`);
  else parts.push(...values);
  for (const c of classes) {
    if (c.is === 'other') parts.push('something else');
    if (c.is === 'empty') parts.push('nothing');
    if (c.is === 'stretch')
      parts.push(
        c.from === undefined
          ? c.to === undefined
            ? 'a number'
            : `less than ${c.to}`
          : c.to === undefined
            ? `more than ${c.from}`
            : c.from === c.to
              ? String(c.from)
              : `between ${c.from} and ${c.to}`,
      );
  }
  return listWords(parts, 'or');
}

/** Combinations in words: “kind Incident, category Pay or Charts, place Torvay”. */
export function regionWords(table: RoutingTable, region: Region, names: RoutingNames, domain: RoutingDomain): string {
  const said = region.columns.flatMap((classes, i) => {
    const column = table.columns[i]!;
    return classes ? [`${names.column(column).toLowerCase()} ${classesWords(classes, factKey(column), names, domain)}`] : [];
  });
  return said.length === 0 ? 'whatever comes' : said.join('; ');
}

/** What a table says of itself: a sentence, the rows it is about, and how it is meant. */
export interface RoutingFinding {
  code: 'uncovered' | 'overlap' | 'impossible' | 'never' | 'idle' | 'not-looked-through';
  sentence: string;
  /** Places of rows in the table; a sentence leads to the first. */
  rows: number[];
  /** Wrong, to be weighed, or only said. */
  weight: 'wrong' | 'warns' | 'says';
}

const rowWords = (rows: number[]): string =>
  rows.length === 1
    ? `Row ${rows[0]! + 1}`
    : `Rows ${listWords(
        rows.map((r) => String(r + 1)),
        'and',
      )}`;
const many = (n: number): string => (n === 1 ? '1 combination' : `${n.toLocaleString('en')} combinations`);

/** What the analysis of a table found, in sentences; the worst first. */
export function routingFindings(table: RoutingTable, found: RoutingAnalysis, names: RoutingNames, domain: RoutingDomain): RoutingFinding[] {
  const said: RoutingFinding[] = [];
  if (found.unknownColumns.length > 0)
    said.push({
      code: 'not-looked-through',
      rows: [],
      weight: 'says',
      sentence: `What no row takes and which rows overlap cannot be looked through: ${listWords(
        found.unknownColumns.map((c) => names.column(table.columns[c]!)),
        'and',
      )} can be too many things.`,
    });
  for (const r of found.impossible)
    said.push({ code: 'impossible', rows: [r], weight: 'wrong', sentence: `Row ${r + 1} never holds: there is no case like that.` });
  for (const r of found.never)
    said.push({ code: 'never', rows: [r], weight: 'wrong', sentence: `Row ${r + 1} never takes anything: other rows always come before it.` });
  for (const o of found.overlaps)
    said.push({
      code: 'overlap',
      rows: o.rows,
      weight: table.chooses === 'unique' ? 'wrong' : 'warns',
      sentence:
        table.chooses === 'unique'
          ? `${rowWords(o.rows)} both take ${regionWords(table, o.where, names, domain)}; in this table no two may.`
          : `${rowWords(o.rows)} both take ${regionWords(table, o.where, names, domain)}, equally specific, and send it elsewhere; row ${o.rows[0] + 1} counts, as it stands first.`,
    });
  if (found.moreOverlaps) said.push({ code: 'overlap', rows: [], weight: 'warns', sentence: 'More rows overlap than are listed here.' });
  if (found.uncovered && found.uncovered.combinations > 0) {
    for (const region of found.uncovered.regions)
      said.push({
        code: 'uncovered',
        rows: [],
        weight: 'says',
        sentence: `No row takes ${regionWords(table, region, names, domain)}: ${many(region.combinations)} that ${answerWords(table.fallback, names)} gets.`,
      });
    if (found.uncovered.more)
      said.push({
        code: 'uncovered',
        rows: [],
        weight: 'says',
        sentence: `And more: ${many(found.uncovered.combinations)} in all are taken by no row.`,
      });
  } else if (!found.uncovered && found.unknownColumns.length === 0)
    said.push({ code: 'not-looked-through', rows: [], weight: 'says', sentence: 'What no row takes is more than can be looked through.' });
  for (const r of found.idle)
    said.push({ code: 'idle', rows: [r], weight: 'says', sentence: `Row ${r + 1} changes nothing: without it everything would go where it goes.` });
  if (found.notLookedThrough.length > 0)
    said.push({
      code: 'not-looked-through',
      rows: found.notLookedThrough,
      weight: 'says',
      sentence: `Whether ${found.notLookedThrough.length === 1 ? `row ${found.notLookedThrough[0]! + 1} ever counts` : `${found.notLookedThrough.length} of the rows ever count`} is more than can be looked through.`,
    });
  return said;
}

/** A row cell by cell, as a case is tried on it: held, not held, and not looked at any more once one does not hold. */
export const triedRow = (table: RoutingTable, row: number, holds: (cell: RoutingCell, column: RoutingColumn) => boolean): (boolean | undefined)[] => {
  let over = false;
  return table.columns.map((c) => {
    if (over) return undefined;
    const so = holds(cellOf(table.rows[row]!, c.id), c);
    over = !so;
    return so;
  });
};
