import type { ReactNode } from 'react';
import { lists, writeAsked, type ListAsked, type ListName } from '../../../core/lists/index.ts';
import { ButtonLink } from '../button';
import { Empty } from '../frame';
import { addressOf } from './address';
import { ListBar } from './bar';
import type { Named } from './filter';
import { ListTable, type Cell } from './table';
import { usePages, type Page } from './use-pages';

/** What the page of a list is given of it. */
export interface Listed<Row> {
  asked: ListAsked;
  list: Page<Row>;
  named: Named;
  count: string | undefined;
}

export interface ListOf<Row> {
  name: ListName;
  /** Where the list stands, and what else its address says. */
  path: string;
  beside?: string;
  title: string;
  of: Listed<Row>;
  cells: Record<string, Cell<Row>>;
  keyOf: (row: Row) => string;
  /** Where a row leads, and what the list is asked while it is open. */
  hrefOf: (row: Row, said: string) => string;
  wordsOf: (row: Row) => string;
  /** What belongs there where there is nothing, and the first act; what is said where nothing is as it is asked. */
  empty: string;
  first?: ReactNode;
  nothing: string;
  /** Said below its head. */
  lead?: string;
  /** It changes by itself. */
  live?: boolean;
  /** Every one of its rows is read at once, and so counted. */
  short?: boolean;
  open?: string | undefined;
  groupOf?: ((row: Row) => { words: string; late?: boolean }) | undefined;
  chosen?: { keys: ReadonlySet<string>; onChange: (keys: ReadonlySet<string>) => void };
  acts?: (row: Row) => ReactNode;
  /** Acts of the whole list. */
  children?: ReactNode;
  /** Between its head and its rows. */
  notice?: ReactNode;
}

/** A list for people who work all day: its head with filters and words, its rows, and what is said where there are none. */
export function List<Row extends object>(p: ListOf<Row>) {
  const shape = lists[p.name];
  const { asked, named, count } = p.of;
  const said = writeAsked(shape, asked);
  const at = (...more: string[]) => addressOf(p.path, p.beside ?? '', ...more);
  const pages = usePages<Row>(p.of.list, p.path, p.beside ?? '', said);
  const { rows } = pages;
  return (
    <>
      <ListBar
        title={p.title}
        name={p.name}
        shape={shape}
        asked={asked}
        named={named}
        count={count ?? (p.short && pages.next === undefined ? String(rows.length) : undefined)}
        exportTo={`/export/${p.name}`}
        beside={p.beside ?? ''}
        {...(p.live && { live: { hold: pages.further } })}
      >
        {p.children}
      </ListBar>
      {p.lead && <p className="pb-2 text-faint">{p.lead}</p>}
      {p.notice}
      {rows.length === 0 ? (
        <Empty act={said ? <ButtonLink to={at()}>Show all</ButtonLink> : p.first}>{said ? p.nothing : p.empty}</Empty>
      ) : (
        <ListTable
          shape={shape}
          asked={asked}
          name={p.name}
          beside={p.beside ?? ''}
          label={p.title}
          rows={rows}
          cells={p.cells}
          keyOf={p.keyOf}
          hrefOf={(row) => p.hrefOf(row, said)}
          wordsOf={p.wordsOf}
          open={p.open}
          {...(p.groupOf && { groupOf: p.groupOf })}
          {...(p.chosen && { chosen: p.chosen })}
          {...(p.acts && { acts: p.acts })}
          {...(pages.next !== undefined && { more: { read: pages.read, loading: pages.loading, to: at(said, `after=${pages.next}`) } })}
        />
      )}
    </>
  );
}
