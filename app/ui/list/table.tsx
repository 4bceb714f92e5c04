import {
  columnResizingFeature,
  columnSizingFeature,
  columnVisibilityFeature,
  rowSelectionFeature,
  tableFeatures,
  useTable,
  type ColumnDef,
} from '@tanstack/react-table';
import { defaultRangeExtractor, useVirtualizer } from '@tanstack/react-virtual';
import { clsx } from 'clsx';
import { Fragment, useEffect, useInsertionEffect, useLayoutEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import { Link, useNavigate } from 'react-router';
import { columnsOf, type ListAsked, type ListShape } from '../../../core/lists/index.ts';
import { Checkbox } from '../checkbox';
import { useHydrated } from '../choices';
import { Head } from './head';
import { useGridKeys } from './use-grid-keys';
import { keptWidths, keepWidths, leastWide, mostWide } from './widths';

export const features = tableFeatures({ columnVisibilityFeature, columnSizingFeature, columnResizingFeature, rowSelectionFeature });

/** How a column shows a row. */
export interface Cell<Row> {
  of: (row: Row) => ReactNode;
  /** A second, faint line. */
  under?: (row: Row) => string | null | undefined;
  /** In pixels, where nobody has made it wider or narrower. */
  width: number;
  /** Takes its share of the room that is left, and at least its width. */
  grows?: true;
  /** Left out where the window is narrow; what it says then stands in another. */
  wide?: true;
}

interface Props<Row> {
  shape: ListShape;
  asked: ListAsked;
  /** What names the list, for its widths. */
  name: string;
  /** What else stands in the address and says which list this is. */
  beside?: string;
  label: string;
  rows: Row[];
  cells: Record<string, Cell<Row>>;
  keyOf: (row: Row) => string;
  hrefOf: (row: Row) => string;
  /** What a line is called, for those who do not see its columns. */
  wordsOf: (row: Row) => string;
  /** The row whose details are open; beside them only the columns that are not wide are shown. */
  open?: string | undefined;
  /** Headings between the rows; those with the same words stand together. */
  groupOf?: (row: Row) => { words: string; late?: boolean };
  /** Rows can be chosen together. */
  chosen?: { keys: ReadonlySet<string>; onChange: (keys: ReadonlySet<string>) => void };
  /** What can be done with a row besides opening it, at its end. */
  acts?: (row: Row) => ReactNode;
  /** There is more: it is read when the end comes into sight, and stands at `to` before scripts load. */
  more?: { read: () => void; loading: boolean; to: string };
}

/** How high a row is before it is measured, in pixels. */
const rowHeight = 47;
/** Beyond so many only the rows in sight are drawn. */
const manyRows = 150;

/**
 * Rows for people who read all day (WAI-ARIA grid): one tab stop, arrows from row to row, Enter opens, Space chooses, Down
 * from anywhere goes to the first. Columns are widened by their edge and ordered by their head.
 */
export function ListTable<Row extends object>(p: Props<Row>) {
  const { shape, asked, rows, cells, keyOf, hrefOf } = p;
  const navigate = useNavigate();
  const hydrated = useHydrated();
  const shown = useMemo(() => asked.columns ?? columnsOf(shape), [asked.columns, shape]);
  const columns = useMemo<ColumnDef<typeof features, Row>[]>(
    () => Object.keys(shape.columns).map((id) => ({ id, size: cells[id]!.width, minSize: leastWide, maxSize: mostWide })),
    [shape, cells],
  );
  const [sizes, setSizes] = useState<Record<string, number>>({});
  useEffect(() => setSizes(keptWidths(p.name)), [p.name]);
  const table = useTable({
    features,
    columns,
    data: rows,
    getRowId: keyOf,
    columnResizeMode: 'onChange',
    state: {
      columnSizing: sizes,
      columnVisibility: Object.fromEntries(
        Object.keys(shape.columns).map((id) => [id, shown.includes(id) && !(p.open !== undefined && cells[id]!.wide)]),
      ),
      rowSelection: Object.fromEntries([...(p.chosen?.keys ?? [])].map((key) => [key, true])),
    },
    onColumnSizingChange: (next) =>
      setSizes((was) => {
        const now = typeof next === 'function' ? next(was) : next;
        keepWidths(p.name, now);
        return now;
      }),
  });

  const scroller = useRef<HTMLDivElement>(null);
  const keys = useMemo(() => rows.map(keyOf), [rows, keyOf]);
  const toIndex = useRef<(index: number) => void>(() => undefined);
  const grid = useGridKeys({
    keys,
    open: p.open,
    scroller,
    draw: (index) => toIndex.current(index),
    onOpen: (index) => void navigate(hrefOf(rows[index]!)),
    chosen: p.chosen,
  });
  const { at } = grid;
  const all = rows.length > manyRows && hydrated;
  // What it gives is read while drawing and in events only; nothing that is remembered depends on it.
  // eslint-disable-next-line react-hooks/incompatible-library
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    // It may have been scrolled before scripts took over.
    initialOffset: () => scroller.current?.scrollTop ?? 0,
    estimateSize: () => rowHeight,
    overscan: 15,
    getItemKey: (i) => keys[i]!,
    // It follows the scrolling before it is needed: a list that grows past `manyRows` stays where it was scrolled to.
    enabled: hydrated,
    // The row that the keyboard is on stays drawn, wherever the list is scrolled to.
    rangeExtractor: (range) => {
      const on = at === undefined ? -1 : keys.indexOf(at);
      return [...new Set([...defaultRangeExtractor(range), ...(on >= 0 ? [on] : [])])].sort((a, b) => a - b);
    },
  });
  // Where every row is drawn, how high one turns out to be moves nothing; before its height is taken, which is when it is put in place.
  useInsertionEffect(() => {
    virtual.shouldAdjustScrollPositionOnItemSizeChange = all ? undefined : () => false;
  });
  useLayoutEffect(() => {
    toIndex.current = (index) => virtual.scrollToIndex(index);
  });
  const end = useRef<HTMLTableRowElement>(null);
  const onEnd = p.more?.read;
  useEffect(() => {
    if (!onEnd || !end.current) return;
    const box = scroller.current;
    // Where the window is narrow the page scrolls, and not the list within it.
    const root = box && box.scrollHeight > box.clientHeight + 1 ? box : null;
    const seen = new IntersectionObserver((entries) => entries.some((e) => e.isIntersecting) && onEnd(), { root, rootMargin: '400px' });
    seen.observe(end.current);
    return () => seen.disconnect();
  }, [onEnd]);

  const heads = table.getHeaderGroups()[0]?.headers ?? [];
  const span = heads.length + (p.chosen ? 1 : 0) + (p.acts ? 1 : 0);
  const items = all ? virtual.getVirtualItems() : rows.map((_, index) => ({ index, start: 0, end: 0 }));
  const before = all ? (items[0]?.start ?? 0) : 0;
  const after = all ? virtual.getTotalSize() - (items.at(-1)?.end ?? 0) : 0;
  const groups = p.groupOf && counts(rows.map((r) => p.groupOf!(r).words));
  return (
    <div ref={scroller} className="min-h-0 min-w-0 grow overflow-auto" data-list-scroller>
      <table
        role="grid"
        aria-label={p.label}
        aria-rowcount={p.more ? -1 : rows.length + 1}
        aria-multiselectable={p.chosen ? true : undefined}
        style={{ minWidth: hydrated ? table.getTotalSize() + (p.chosen ? 34 : 0) + (p.acts ? 120 : 0) : undefined }}
        className="w-full table-fixed max-sm:min-w-0! border-separate border-spacing-0 text-sm max-sm:table-auto"
        {...grid.heard}
      >
        <colgroup className="max-sm:hidden">
          {p.chosen && <col style={{ width: 34 }} />}
          {heads.map((h) => (
            <col key={h.id} style={cells[h.id]!.grows && sizes[h.id] === undefined ? undefined : { width: h.getSize() }} />
          ))}
          {p.acts && <col style={{ width: 120 }} />}
        </colgroup>
        <Head
          heads={heads}
          shape={shape}
          asked={asked}
          beside={p.beside ?? ''}
          chosen={p.chosen !== undefined}
          acts={p.acts !== undefined}
          resizes={hydrated}
        />
        <tbody>
          {before > 0 && <Space height={before} span={span} />}
          {items.map(({ index, start }, nth) => {
            const gap = all && nth > 0 ? start - items[nth - 1]!.end : 0;
            const row = rows[index]!;
            const key = keys[index]!;
            const group = p.groupOf?.(row);
            const first = group && (index === 0 || p.groupOf!(rows[index - 1]!).words !== group.words);
            const chosen = p.chosen?.keys.has(key) === true;
            const href = hrefOf(row);
            return (
              <Fragment key={key}>
                {gap > 1 && <Space height={gap} span={span} />}
                {first && (
                  <tr>
                    <th
                      colSpan={span}
                      scope="rowgroup"
                      className={clsx('border-b px-2 pt-4 pb-1.5 text-left font-semibold max-sm:block', group.late && 'text-coral')}
                    >
                      {group.words} {!p.more && <span className="numbers font-normal text-faint">{groups!.get(group.words)}</span>}
                    </th>
                  </tr>
                )}
                <tr
                  data-row={key}
                  data-index={index}
                  ref={hydrated ? virtual.measureElement : undefined}
                  aria-rowindex={index + 2}
                  aria-label={p.wordsOf(row)}
                  aria-selected={p.chosen ? chosen : key === p.open}
                  tabIndex={key === grid.tabStop ? 0 : -1}
                  onFocus={(e) => e.target === e.currentTarget && grid.setAt(key)}
                  onClick={(e) => {
                    const on = e.target as HTMLElement;
                    // What opens out of the row stands elsewhere on the page, and its clicks are its own.
                    if (!e.currentTarget.contains(on) || on.closest('a, button, input, label') || window.getSelection()?.toString()) return;
                    void navigate(href);
                  }}
                  className={clsx(
                    'cursor-pointer align-top outline-none focus-visible:outline-2 focus-visible:-outline-offset-2 focus-visible:outline-sea max-sm:block max-sm:border-b max-sm:py-1',
                    chosen || key === p.open ? 'bg-sea-wash' : 'hover:bg-paper',
                  )}
                >
                  {p.chosen && (
                    <td className={clsx('border-b py-1.5 pl-2 max-sm:hidden', key === p.open && 'border-l-3 border-l-sea')}>
                      <Checkbox
                        tabIndex={-1}
                        className="mt-0.5"
                        aria-label={`Choose ${p.wordsOf(row)}`}
                        checked={chosen}
                        onChecked={() => grid.choose(key)}
                      />
                    </td>
                  )}
                  {heads.map((h, i) => {
                    const said = cells[h.id]!.of(row);
                    return (
                      <td
                        key={h.id}
                        className={clsx(
                          'overflow-hidden border-b px-2 py-1.5 max-sm:border-b-0 max-sm:py-0',
                          cells[h.id]!.grows || i === 0 ? 'max-sm:block' : 'max-sm:inline-block',
                          shape.columns[h.id]!.right && 'text-right',
                          cells[h.id]!.wide && 'max-sm:hidden',
                          i === 0 && !p.chosen && 'border-l-3',
                          i === 0 && !p.chosen && (key === p.open ? 'border-l-sea' : 'border-l-transparent'),
                        )}
                      >
                        {i > 0 && !cells[h.id]!.grows && said !== null && said !== undefined && said !== false && (
                          <span className="text-faint sm:hidden">{shape.columns[h.id]!.label.toLowerCase()} </span>
                        )}
                        {i === 0 ? (
                          <Link to={href} tabIndex={-1} className="hover:text-sea">
                            {said}
                          </Link>
                        ) : (
                          said
                        )}
                        {cells[h.id]!.under && (
                          <span className="block truncate text-faint" data-tip={cells[h.id]!.under!(row) ?? undefined}>
                            {cells[h.id]!.under!(row)}
                          </span>
                        )}
                      </td>
                    );
                  })}
                  {p.acts && (
                    <td className="border-b px-2 py-1.5 text-right whitespace-nowrap max-sm:block max-sm:border-b-0 max-sm:text-left">
                      {p.acts(row)}
                    </td>
                  )}
                </tr>
              </Fragment>
            );
          })}
          {after > 0 && <Space height={after} span={span} />}
          {p.more && (
            <tr ref={end}>
              <td colSpan={span} className="px-2 py-2 text-faint">
                {hydrated ? p.more.loading && 'Reading more …' : <Link to={p.more.to}>The next of them</Link>}
              </td>
            </tr>
          )}
        </tbody>
      </table>
    </div>
  );
}

function Space({ height, span }: { height: number; span: number }) {
  return (
    <tr aria-hidden>
      <td colSpan={span} style={{ height }} />
    </tr>
  );
}

function counts(words: string[]): Map<string, number> {
  const map = new Map<string, number>();
  for (const w of words) map.set(w, (map.get(w) ?? 0) + 1);
  return map;
}
