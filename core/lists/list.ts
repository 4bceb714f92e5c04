import { isDate } from '../calendar/index.ts';

/** What a list shows of each of its rows. */
export interface Column {
  label: string;
  /** The list can be ordered by it. */
  sorts?: true;
  /** Shown only when asked for. */
  aside?: true;
  /** Numbers and lengths, which stand at the right. */
  right?: true;
}

/** By what a list can be narrowed: a few stated choices, something that is looked up by its name, or days from and to. */
export type Filter = { label: string } & ({ is: 'choice'; options: Record<string, string> } | { is: 'record'; of: RecordKind } | { is: 'days' });
/** What a filter can look up. */
export const recordKinds = ['person', 'item', 'team', 'location', 'kind'] as const;
/** One of these kinds. */
export type RecordKind = (typeof recordKinds)[number];

/** By which column a list is ordered, and which way; down is the last first. */
export interface Sort {
  by: string;
  down: boolean;
}

/** A list that people work with: its columns in their order, its filters, and its order where nobody states one. */
export interface ListShape {
  /** What is found by typed words, for the box they are typed into; no box where it is left out. */
  words?: string;
  columns: Record<string, Column>;
  filters: Record<string, Filter>;
  sort: Sort;
}

/** Days of the calendar, both included, each `yyyy-mm-dd`; open where one is left out. */
export interface Days {
  from?: string;
  to?: string;
}

/** What is asked of a list; everything of it stands in the address. */
export interface ListAsked {
  words: string;
  sort: Sort;
  /** Per filter what is wanted, any of it; a filter that is not there narrows nothing. */
  wanted: Record<string, string[]>;
  /** Per filter of days. */
  days: Record<string, Days>;
  /** The columns to show, in the order of the list; undefined: as the list has it. */
  columns: string[] | undefined;
  /** Where the page begins, as the page before named it. */
  after: string | undefined;
}

const most = { words: 100, wanted: 20, cursor: 400 };
const anId = /^[A-Za-z0-9-]{1,60}$/;

/** Reads an address. What the list does not know of is left out, as if it had not been said. */
export function readAsked(shape: ListShape, params: URLSearchParams): ListAsked {
  const [, sign, by = ''] = /^(-?)([a-zA-Z]{1,30})$/.exec(params.get('sort') ?? '') ?? [];
  const sort = Object.hasOwn(shape.columns, by) && shape.columns[by]?.sorts ? { by, down: sign === '-' } : shape.sort;
  const wanted: Record<string, string[]> = {};
  const days: Record<string, Days> = {};
  for (const [key, filter] of Object.entries(shape.filters)) {
    const text = params.get(key);
    if (text === null) continue;
    if (filter.is === 'days') {
      const range = readDays(text);
      if (range) days[key] = range;
      continue;
    }
    const ids = [...new Set(text.split(','))].filter((id) => anId.test(id) && (filter.is === 'record' || Object.hasOwn(filter.options, id)));
    if (ids.length > 0) wanted[key] = ids.slice(0, most.wanted);
  }
  const columns = params.get('columns')?.split(',');
  const shown = columns && Object.keys(shape.columns).filter((c) => columns.includes(c));
  return {
    words: (params.get('q') ?? '').trim().slice(0, most.words),
    sort,
    wanted,
    days,
    columns: shown && shown.length > 0 ? shown : undefined,
    after: params.get('after')?.slice(0, most.cursor) || undefined,
  };
}

/** The address that asks for this, in one fixed order, so that two that ask the same are the same; without the page it begins at. */
export function writeAsked(shape: ListShape, asked: ListAsked): string {
  const params: [string, string][] = [];
  if (asked.words) params.push(['q', asked.words]);
  for (const [key, filter] of Object.entries(shape.filters)) {
    const range = asked.days[key];
    if (filter.is === 'days' && range) params.push([key, `${range.from ?? ''}..${range.to ?? ''}`]);
    else if (asked.wanted[key]?.length) params.push([key, asked.wanted[key].toSorted().join(',')]);
  }
  const { sort } = asked;
  if (sort.by !== shape.sort.by || sort.down !== shape.sort.down) params.push(['sort', `${sort.down ? '-' : ''}${sort.by}`]);
  if (asked.columns && asked.columns.join() !== columnsOf(shape).join()) params.push(['columns', asked.columns.join(',')]);
  return params.map(([k, v]) => `${k}=${encodeURIComponent(v).replaceAll('%2C', ',')}`).join('&');
}

/** The columns that are shown where nobody states them. */
export const columnsOf = (shape: ListShape): string[] => Object.keys(shape.columns).filter((c) => !shape.columns[c]!.aside);

/** Whether anything narrows the list. */
export const isNarrowed = (asked: ListAsked): boolean =>
  asked.words !== '' || Object.keys(asked.wanted).length > 0 || Object.keys(asked.days).length > 0;

function readDays(text: string): Days | undefined {
  const [from = '', to = '', ...rest] = text.split('..');
  if (rest.length > 0) return undefined;
  const range = { ...(isDate(from) && { from }), ...(isDate(to) && { to }) };
  return range.from !== undefined || range.to !== undefined ? range : undefined;
}
