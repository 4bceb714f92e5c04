import { defaultRangeExtractor, useVirtualizer } from '@tanstack/react-virtual';
import { clsx } from 'clsx';
import { ArrowDown, ArrowUp, X } from 'lucide-react';
import { Fragment, useEffect, useRef, useState, type ClipboardEvent, type KeyboardEvent } from 'react';
import { flushSync } from 'react-dom';
import {
  answerWords,
  cellOf,
  cellWords,
  readAnswer,
  readCell,
  type RoutingAnswer,
  type RoutingCell,
  type RoutingNames,
  type RoutingRow,
  type RoutingTable,
} from '../../core/routing/index.ts';
import { useHydrated } from '~/ui/choices';

/** What was typed in a cell and is none, by row and column. */
export type Wrong = ReadonlyMap<string, { typed: string; wrong: string }>;
export const wrongKey = (row: string, column: string): string => `${row} ${column}`;
/** The column of who gets it. */
export const answerColumn = 'answer';

interface Props {
  table: RoutingTable;
  names: RoutingNames;
  wrong: Wrong;
  /** How many tickets each row took, and what no row did. */
  taken: number[] | undefined;
  /** The rows that something was said of; the first of them has the keyboard as soon as they are given. */
  shown: { rows: readonly number[] } | undefined;
  onChange: (table: RoutingTable, wrong: Wrong) => void;
  onUndo: (back: boolean) => void;
}

/** Of more rows than these only those in sight are drawn, in a box of their own. */
const manyRows = 100;
/** How high a row is before it is measured. */
const rowHigh = 31;

const freshRow = (table: RoutingTable): string => {
  const used = new Set(table.rows.map((r) => r.id));
  for (let n = table.rows.length + 1; ; n++) if (!used.has(`row${n}`)) return `row${n}`;
};

/** A row with a cell set; one that is any is not kept. */
function withCell(row: RoutingRow, column: string, cell: RoutingCell): RoutingRow {
  const { [column]: _, ...cells } = row.cells;
  return { ...row, cells: cell.is === 'any' ? cells : { ...cells, [column]: cell } };
}

/**
 * The rows of a routing table, typed in their own words: Enter and arrows go from row to row, a block is pasted from a spreadsheet, Ctrl D
 * fills from above, Ctrl Z takes back. What cannot be read stays as it was typed, with what is wrong.
 */
export function RoutingGrid({ table, names, wrong, taken, shown, onChange, onUndo }: Props) {
  const { columns, rows } = table;
  const all = [...columns.map((c) => c.id), answerColumn];
  const hydrated = useHydrated();
  const many = hydrated && rows.length > manyRows;
  const scroller = useRef<HTMLDivElement>(null);
  // The row that the keyboard is in stays drawn, wherever the box is scrolled to: what is typed in it is not lost.
  const [at, setAt] = useState<number>();
  // eslint-disable-next-line react-hooks/incompatible-library -- what it gives is read while drawing and in events only
  const virtual = useVirtualizer({
    count: rows.length,
    // It follows before it is needed: a table that grows past `manyRows` keeps the keyboard where it is.
    enabled: hydrated,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHigh,
    overscan: 20,
    getItemKey: (i) => rows[i]!.id,
    rangeExtractor: (range) =>
      [...new Set([...defaultRangeExtractor(range), ...(at !== undefined && at < rows.length ? [at] : [])])].sort((a, b) => a - b),
  });
  const drawn = many ? virtual.getVirtualItems() : rows.map((_, index) => ({ index, start: 0, end: 0 }));

  /** The table with texts put into cells from a row and column on; rows that lack are added. */
  const put = (at: number, from: number, block: string[][]) => {
    let next: RoutingRow[] = [...rows];
    const left = new Map(wrong);
    block.forEach((line, r) => {
      if (!next[at + r]) next = [...next, { id: freshRow({ ...table, rows: next }), cells: {}, answer: table.fallback }];
      line.forEach((typed, c) => {
        const column = all[from + c];
        if (column === undefined) return;
        const row = next[at + r]!;
        const its = columns.find((x) => x.id === column);
        const read = its ? readCell(typed, its, names) : readAnswer(typed, names);
        const key = wrongKey(row.id, column);
        if ('wrong' in read) return void left.set(key, { typed, wrong: read.wrong });
        left.delete(key);
        next[at + r] = its ? withCell(row, column, read as RoutingCell) : { ...row, answer: read as RoutingAnswer };
      });
    });
    onChange({ ...table, rows: next }, left);
  };
  const cellAt = (row: number, column: string) => document.querySelector<HTMLInputElement>(`[data-cell="${row} ${column}"]`);
  const focus = (row: number, column: string) => {
    // At once, so that the next key finds the keyboard there.
    if (many && !cellAt(row, column)) flushSync(() => setAt(row));
    const box = cellAt(row, column);
    box?.focus();
    box?.select();
  };
  useEffect(() => {
    const [first] = shown?.rows ?? [];
    if (first === undefined) return;
    const soon = setTimeout(() => focus(first, all[0]!));
    return () => clearTimeout(soon);
  }, [shown]); // eslint-disable-line react-hooks/exhaustive-deps -- once for what is shown, however the table changes then
  const move = (at: number, by: 1 | -1) => {
    const to = at + by;
    if (to < 0 || to >= rows.length) return;
    const next = [...rows];
    [next[at], next[to]] = [next[to]!, next[at]!];
    onChange({ ...table, rows: next }, wrong);
  };
  const wordsAt = (row: number, column: string): string => {
    const its = columns.find((c) => c.id === column);
    const r = rows[row];
    return !r ? '' : its ? cellWords(cellOf(r, its.id), its, names) : answerWords(r.answer, names);
  };
  const keys = (e: KeyboardEvent<HTMLInputElement>, row: number, column: string, dirty: boolean) => {
    const ctrl = e.ctrlKey || e.metaKey;
    const to = e.key === 'Enter' ? (e.shiftKey ? -1 : 1) : e.key === 'ArrowDown' ? 1 : e.key === 'ArrowUp' ? -1 : 0;
    if (to !== 0 && e.altKey && e.key !== 'Enter') {
      e.preventDefault();
      move(row, to as 1 | -1);
      setTimeout(() => focus(row + to, column));
    } else if (to !== 0) {
      e.preventDefault();
      focus(row + to, column);
    } else if (ctrl && e.key.toLowerCase() === 'd' && row > 0) {
      e.preventDefault();
      put(row, all.indexOf(column), [[wordsAt(row - 1, column)]]);
    } else if (ctrl && !dirty && ['z', 'y'].includes(e.key.toLowerCase())) {
      e.preventDefault();
      onUndo(e.key.toLowerCase() === 'z' && !e.shiftKey);
    }
  };
  const paste = (e: ClipboardEvent<HTMLInputElement>, row: number, column: string) => {
    const text = e.clipboardData.getData('text/plain').replace(/\r\n?/g, '\n').replace(/\n$/, '');
    if (!/[\t\n]/.test(text)) return;
    e.preventDefault();
    put(
      row,
      all.indexOf(column),
      text.split('\n').map((line) => line.split('\t')),
    );
  };

  return (
    <div ref={scroller} className={many ? 'max-h-[65vh] overflow-auto border-b' : 'overflow-x-auto'}>
      <table
        aria-label={table.name}
        aria-rowcount={many ? rows.length + 2 : undefined}
        className="w-full min-w-[640px] border-collapse text-sm"
        onFocus={(e) => {
          const on = e.target.closest<HTMLElement>('[data-row]')?.dataset['row'];
          if (on !== undefined) setAt(Number(on));
        }}
      >
        <thead className={many ? 'sticky top-0 z-10 bg-sheet' : undefined}>
          <tr className="border-b border-ink text-left text-faint">
            <th scope="col" className="w-9 px-2 py-1.5 text-right font-normal">
              <span className="sr-only">Row</span>
            </th>
            {columns.map((c) => (
              <th key={c.id} scope="col" className="px-2 py-1.5 font-normal">
                {names.column(c)}
              </th>
            ))}
            <th scope="col" className="w-[23%] border-l border-ink px-2 py-1.5 font-normal">
              goes to
            </th>
            {taken && (
              <th scope="col" className="w-16 px-2 py-1.5 text-right font-normal whitespace-nowrap">
                in 90 d
              </th>
            )}
            <th scope="col" className="w-20 py-1.5">
              <span className="sr-only">Acts</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {drawn.map(({ index: i, start }, nth) => {
            const row = rows[i]!;
            const gap = start - (drawn[nth - 1]?.end ?? 0);
            return (
              <Fragment key={row.id}>
                {gap > 0 && <Gap high={gap} />}
                <tr
                  ref={many ? virtual.measureElement : undefined}
                  data-index={i}
                  data-row={i}
                  aria-rowindex={many ? i + 2 : undefined}
                  className={clsx('border-b', shown?.rows.includes(i) && 'bg-sea-wash')}
                >
                  <th scope="row" className="numbers px-2 text-right font-normal text-faint">
                    {i + 1}
                  </th>
                  {all.map((column) => {
                    const its = columns.find((c) => c.id === column);
                    const bad = wrong.get(wrongKey(row.id, column));
                    return (
                      <td key={column} className={clsx('border-r p-0', column === answerColumn && 'border-l border-l-ink font-medium')}>
                        <Cell
                          at={`${i} ${column}`}
                          label={`Row ${i + 1}, ${its ? names.column(its) : 'goes to'}`}
                          words={wordsAt(i, column)}
                          bad={bad}
                          onTyped={(typed) => put(i, all.indexOf(column), [[typed]])}
                          onKey={(e, dirty) => keys(e, i, column, dirty)}
                          onPaste={(e) => paste(e, i, column)}
                        />
                      </td>
                    );
                  })}
                  {taken && <td className="numbers px-2 text-right">{taken[i] ?? 0}</td>}
                  <td className="px-1 whitespace-nowrap">
                    <Act label={`Move row ${i + 1} up`} disabled={i === 0} onClick={() => move(i, -1)}>
                      <ArrowUp size={13} aria-hidden />
                    </Act>
                    <Act label={`Move row ${i + 1} down`} disabled={i === rows.length - 1} onClick={() => move(i, 1)}>
                      <ArrowDown size={13} aria-hidden />
                    </Act>
                    <Act
                      label={`Take row ${i + 1} off`}
                      onClick={() =>
                        onChange({ ...table, rows: rows.filter((r) => r !== row) }, new Map([...wrong].filter(([k]) => !k.startsWith(`${row.id} `))))
                      }
                    >
                      <X size={13} aria-hidden />
                    </Act>
                  </td>
                </tr>
              </Fragment>
            );
          })}
          {many && <Gap high={virtual.getTotalSize() - (drawn.at(-1)?.end ?? 0)} />}
          <tr className="border-b">
            <td />
            <td colSpan={columns.length} className="px-2 py-1.5 text-faint">
              whatever no row takes
            </td>
            <td className="border-r border-l border-l-ink p-0 font-medium">
              <Cell
                at={`${rows.length} ${answerColumn}`}
                label="What no row takes, goes to"
                words={answerWords(table.fallback, names)}
                bad={wrong.get(wrongKey('', answerColumn))}
                onTyped={(typed) => {
                  const read = readAnswer(typed, names);
                  const left = new Map(wrong);
                  if ('wrong' in read) left.set(wrongKey('', answerColumn), { typed, wrong: read.wrong });
                  else left.delete(wrongKey('', answerColumn));
                  onChange('wrong' in read ? table : { ...table, fallback: read }, left);
                }}
                onKey={(e, dirty) => keys(e, rows.length, answerColumn, dirty)}
                onPaste={() => undefined}
              />
            </td>
            {taken && <td className="numbers px-2 text-right">{taken[rows.length] ?? 0}</td>}
            <td />
          </tr>
        </tbody>
      </table>
    </div>
  );
}

/** Rows that are not drawn. */
const Gap = ({ high }: { high: number }) => (
  <tr aria-hidden style={{ height: high }}>
    <td />
  </tr>
);

const Act = ({ label, disabled, onClick, children }: { label: string; disabled?: boolean; onClick: () => void; children: React.ReactNode }) => (
  <button
    type="button"
    aria-label={label}
    data-tip={label}
    disabled={disabled}
    onClick={onClick}
    className="inline-flex size-6 items-center justify-center rounded text-faint hover:bg-sea-wash hover:text-sea disabled:opacity-30"
  >
    {children}
  </button>
);

/** A cell: what is typed is read when the keyboard leaves it. */
function Cell({
  at,
  label,
  words,
  bad,
  onTyped,
  onKey,
  onPaste,
}: {
  at: string;
  label: string;
  words: string;
  bad: { typed: string; wrong: string } | undefined;
  onTyped: (typed: string) => void;
  onKey: (e: KeyboardEvent<HTMLInputElement>, dirty: boolean) => void;
  onPaste: (e: ClipboardEvent<HTMLInputElement>) => void;
}) {
  const shown = bad?.typed ?? words;
  const [typed, setTyped] = useState<string>();
  // What was read once is not read again as the keyboard leaves.
  const waiting = useRef<string>(undefined);
  const type = (text: string | undefined) => {
    waiting.current = text;
    setTyped(text);
  };
  const read = () => {
    const text = waiting.current;
    type(undefined);
    if (text !== undefined && text !== shown) onTyped(text);
  };
  return (
    <>
      <input
        data-cell={at}
        aria-label={label}
        aria-invalid={bad ? true : undefined}
        aria-describedby={bad ? `wrong-${at.replace(' ', '-')}` : undefined}
        autoComplete="off"
        className={clsx(
          'w-full bg-transparent px-2 py-1.5 outline-none focus:bg-sea-wash focus:ring-2 focus:ring-sea focus:ring-inset',
          bad && 'text-coral',
          shown === 'any' && typed === undefined && 'text-faint',
        )}
        value={typed ?? shown}
        onChange={(e) => type(e.target.value)}
        onFocus={(e) => e.target.select()}
        onBlur={read}
        onKeyDown={(e) => {
          if (e.key === 'Escape' && typed !== undefined) {
            e.stopPropagation();
            type(undefined);
          } else {
            if (e.key === 'Enter') read();
            onKey(e, waiting.current !== undefined);
          }
        }}
        onPaste={onPaste}
      />
      {bad && (
        <p id={`wrong-${at.replace(' ', '-')}`} className="px-2 pb-1 text-xs text-coral">
          {bad.wrong}
        </p>
      )}
    </>
  );
}
