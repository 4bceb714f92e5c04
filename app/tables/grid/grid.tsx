import { useVirtualizer } from '@tanstack/react-virtual';
import { Redo2, Undo2 } from 'lucide-react';
import { useCallback, useEffect, useMemo, useRef, useState, type ClipboardEvent, type KeyboardEvent, type ReactNode } from 'react';
import { useSearchParams } from 'react-router';
import type { TableDefinition } from '../../../core/tables/index.ts';
import { Button } from '~/ui/button';
import { keepInSight, keepWidths, keptInSight, keptWidths, leastWide, mostWide } from '~/ui/list/widths';
import { Select } from '~/ui/select';
import { CellEditor } from './cell-editor';
import { GridFoot } from './grid-foot';
import { GridHead } from './grid-head';
import { GridLine, spotOf } from './grid-line';
import { redo, removed, shown, typed, undo, unfinished } from './model';
import { useGrid } from './use-grid';
import { blockText, cellOrder, unmarked, usualWidth } from './words';

const lineHigh = 28;
const headWide = 52;

/** A place in the grid: a row of those that are shown, and a column. */
export interface Spot {
  row: number;
  col: number;
}

/**
 * The rows of a table as a spreadsheet has them (the grid pattern of WAI-ARIA, one tab stop): arrows go, Shift and arrows take a block,
 * typing replaces, F2 edits, blocks are copied and pasted, and everything is taken back by undo. The last line is one that is not there yet.
 */
export function Grid({
  table,
  base,
  rowHref,
  beside,
  empty,
}: {
  table: { id: string; definition: TableDefinition; stamp: string };
  /** Where the table stands: its rows are at `<base>/grid`. */
  base: string;
  /** Where a row is opened beside the grid, but for its key. */
  rowHref: string;
  /** What else stands at the foot. */
  beside?: ReactNode;
  /** What is offered beside the first line, while there is no row. */
  empty?: ReactNode;
}) {
  const { definition } = table;
  const { columns } = definition;
  const [take, setTake] = useState<'rest' | 'all'>('rest');
  const { state, standing, change, readings } = useGrid(`${base}/grid`, definition, table.stamp, take);
  const [search, setSearch] = useSearchParams();
  const [at, setAt] = useState<Spot>({ row: 0, col: 0 });
  const [to, setTo] = useState<Spot>({ row: 0, col: 0 });
  const [editing, setEditing] = useState<{ text: string; whole: boolean }>();
  const [widths, setWidths] = useState<Record<string, number>>(() => keptWidths(`table ${table.id}`));
  const [frozen, setFrozen] = useState(() =>
    Math.min(keptInSight(`table ${table.id}`) ?? (definition.key.length > 0 && columns[0]?.id === definition.key[0] ? 1 : 0), columns.length),
  );
  const grid = useRef<HTMLDivElement>(null);
  const scroller = useRef<HTMLDivElement>(null);

  // What is shown and in which order belongs to the address.
  const words = search.get('find') ?? '';
  const inColumn = columns.findIndex((c) => c.id === search.get('in'));
  const sort = search.get('sort') ?? '';
  const down = sort.startsWith('-');
  const byCol = columns.findIndex((c) => c.id === sort.replace(/^-/, ''));
  const ready = state !== undefined;
  useEffect(() => {
    if (!ready) return;
    const all = words.trim().toLowerCase().split(/\s+/).filter(Boolean);
    const by = byCol >= 0 ? { col: byCol, down, compare: cellOrder(columns[byCol]!) } : undefined;
    change((s) =>
      shown(
        s,
        (l) => {
          const text = (inColumn >= 0 ? (l.texts[inColumn] ?? '') : l.texts.join(' ')).toLowerCase();
          return all.every((w) => text.includes(w));
        },
        by,
      ),
    );
  }, [ready, readings, words, inColumn, byCol, down, columns, change]);
  const say = (next: Record<string, string>) =>
    setSearch(
      (now) => {
        for (const [name, value] of Object.entries(next))
          if (value) now.set(name, value);
          else now.delete(name);
        return now;
      },
      { replace: true, preventScrollReset: true },
    );
  const sortBy = (col: number, how?: boolean) => {
    const id = columns[col]!.id;
    say({ sort: how === undefined ? (sort === id ? `-${id}` : sort === `-${id}` ? '' : id) : how ? `-${id}` : id });
  };

  const count = (state?.order.length ?? 0) + 1;
  // eslint-disable-next-line react-hooks/incompatible-library -- what it gives is used here and nowhere else
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => scroller.current,
    estimateSize: () => lineHigh,
    overscan: 12,
    useFlushSync: false,
  });
  const wide = useMemo(() => columns.map((c) => widths[c.id] ?? usualWidth(c)), [columns, widths]);
  const keyCols = useMemo(() => definition.key.map((id) => columns.findIndex((c) => c.id === id)), [definition.key, columns]);
  const total = headWide + wide.reduce((a, b) => a + b, 0);
  const lefts = useMemo(() => wide.map((_, i) => headWide + wide.slice(0, i).reduce((a, b) => a + b, 0)), [wide]);
  const block = { top: Math.min(at.row, to.row), bottom: Math.max(at.row, to.row), left: Math.min(at.col, to.col), right: Math.max(at.col, to.col) };

  const go = useCallback(
    (next: Spot, extend = false) => {
      const spot = { row: Math.max(0, Math.min(count - 1, next.row)), col: Math.max(0, Math.min(columns.length - 1, next.col)) };
      if (extend) setTo(spot);
      else {
        setAt(spot);
        setTo(spot);
      }
      virtual.scrollToIndex(spot.row, { align: 'auto' });
      const box = scroller.current;
      const [left, right] = [lefts[spot.col]!, lefts[spot.col]! + wide[spot.col]!];
      const pinned = frozen > 0 ? (lefts[frozen] ?? total) : headWide;
      if (!box || spot.col < frozen) return;
      if (left < box.scrollLeft + pinned) box.scrollLeft = left - pinned;
      else if (right > box.scrollLeft + box.clientWidth) box.scrollLeft = right - box.clientWidth;
    },
    [count, columns.length, virtual, lefts, wide, frozen, total],
  );
  const textAt = (spot: Spot): string => state?.lines.get(state.order[spot.row] ?? '')?.texts[spot.col] ?? '';
  const type = (given: { row: number; col: number; text: string }[], did: string) => change((s) => typed(s, given, did));
  const inBlock = (textOf: (spot: Spot) => string) => {
    const given: { row: number; col: number; text: string }[] = [];
    for (let row = block.top; row <= block.bottom; row++)
      for (let col = block.left; col <= block.right; col++) given.push({ row, col, text: textOf({ row, col }) });
    return given;
  };
  /** Typing is over: the cell says it, and the keyboard goes on. */
  const finish = (text: string | undefined, by: { row: number; col: number } | undefined) => {
    if (text !== undefined) type([{ ...at, text }], `Type into ${columns[at.col]!.label}`);
    setEditing(undefined);
    grid.current?.focus({ preventScroll: true });
    if (by) go({ row: at.row + by.row, col: at.col + by.col });
  };
  const takeOff = () => {
    change((s) => removed(s, block.top, block.bottom));
    go({ row: block.top, col: at.col });
  };

  const onKeyDown = (e: KeyboardEvent) => {
    if (editing) return;
    const ctrl = e.ctrlKey || e.metaKey;
    const page = Math.max(1, Math.floor((scroller.current?.clientHeight ?? 400) / lineHigh) - 2);
    const from = e.shiftKey ? to : at;
    const arrows: Record<string, Spot> = {
      ArrowUp: { row: ctrl ? 0 : from.row - 1, col: from.col },
      ArrowDown: { row: ctrl ? count - 1 : from.row + 1, col: from.col },
      ArrowLeft: { row: from.row, col: ctrl ? 0 : from.col - 1 },
      ArrowRight: { row: from.row, col: ctrl ? columns.length - 1 : from.col + 1 },
      PageUp: { row: from.row - page, col: from.col },
      PageDown: { row: from.row + page, col: from.col },
      Home: { row: ctrl ? 0 : from.row, col: 0 },
      End: { row: ctrl ? count - 1 : from.row, col: columns.length - 1 },
    };
    const arrow = arrows[e.key];
    if (e.altKey && (e.key === 'ArrowUp' || e.key === 'ArrowDown')) sortBy(at.col, e.key === 'ArrowDown');
    else if (e.altKey && (e.key === 'ArrowLeft' || e.key === 'ArrowRight')) widen(at.col, wide[at.col]! + (e.key === 'ArrowLeft' ? -16 : 16));
    else if (arrow) go(arrow, e.shiftKey);
    else if (e.key === 'Enter' && ctrl) {
      const key = state?.lines.get(state.order[at.row] ?? '')?.kept?.key;
      if (key !== undefined) document.getElementById(`open-${at.row}`)?.click();
    } else if (e.key === 'Enter') go({ row: at.row + (e.shiftKey ? -1 : 1), col: at.col });
    else if (e.key === 'Tab' && !e.shiftKey && at.col < columns.length - 1) go({ row: at.row, col: at.col + 1 });
    else if (e.key === 'Tab' && e.shiftKey && at.col > 0) go({ row: at.row, col: at.col - 1 });
    else if (e.key === 'F2') setEditing({ text: textAt(at), whole: true });
    else if (e.key === 'Delete' && e.shiftKey) takeOff();
    else if (e.key === 'Delete' || e.key === 'Backspace')
      type(
        inBlock(() => ''),
        'Empty the cells',
      );
    else if (ctrl && e.key === 'a') {
      setAt({ row: 0, col: 0 });
      setTo({ row: Math.max(0, count - 2), col: columns.length - 1 });
    } else if (ctrl && e.key === 'd')
      type(
        inBlock((s) => textAt({ row: block.top, col: s.col })),
        'Fill down',
      );
    else if (ctrl && (e.key === 'y' || (e.key.toLowerCase() === 'z' && e.shiftKey))) change(redo);
    else if (ctrl && e.key === 'z') change(undo);
    else if (e.key === 'Escape' && (at.row !== to.row || at.col !== to.col)) setTo(at);
    else if (e.key.length === 1 && !ctrl && !e.altKey) setEditing({ text: e.key, whole: false });
    else return;
    e.preventDefault();
    e.stopPropagation();
  };

  const onCopy = (e: ClipboardEvent, cut = false) => {
    if (editing) return;
    const rows: string[][] = [];
    for (let row = block.top; row <= Math.min(block.bottom, count - 2); row++)
      rows.push(columns.slice(block.left, block.right + 1).map((_, i) => textAt({ row, col: block.left + i })));
    e.clipboardData.setData('text/plain', blockText(rows));
    e.preventDefault();
    if (cut)
      type(
        inBlock(() => ''),
        'Cut the cells',
      );
  };
  const onPaste = (e: ClipboardEvent) => {
    if (editing) return;
    e.preventDefault();
    const text = e.clipboardData.getData('text/plain').replace(/\r?\n$/, '');
    if (text === '') return;
    void import('papaparse').then(({ default: Papa }) => {
      const rows = Papa.parse<string[]>(text, { delimiter: '\t' }).data.map((r) => r.map(unmarked));
      const one = rows.length === 1 && rows[0]!.length === 1 ? rows[0]![0]! : undefined;
      if (one !== undefined)
        return type(
          inBlock(() => one),
          'Paste',
        );
      type(
        rows.flatMap((r, i) => r.map((cell, n) => ({ row: block.top + i, col: block.left + n, text: cell }))),
        `Paste ${rows.length} rows`,
      );
      setAt({ row: block.top, col: block.left });
      setTo({ row: block.top + rows.length - 1, col: Math.min(columns.length - 1, block.left + Math.max(...rows.map((r) => r.length)) - 1) });
    });
  };
  const widen = (col: number, to: number) => {
    const next = { ...widths, [columns[col]!.id]: Math.max(leastWide, Math.min(mostWide, to)) };
    setWidths(next);
    keepWidths(`table ${table.id}`, next);
  };

  const { wrong, left } = useMemo(
    () => ({
      wrong: [...(state?.lines.values() ?? [])].reduce((n, l) => n + Object.keys(l.wrong).length, 0),
      left: state ? unfinished(state).filter((l) => Object.keys(l.wrong).length === 0).length : 0,
    }),
    [state],
  );
  const unsafe = wrong + left > 0 || standing.is === 'keeping' || standing.is === 'unreachable';
  useEffect(() => {
    if (!unsafe) return;
    const warn = (e: BeforeUnloadEvent) => e.preventDefault();
    window.addEventListener('beforeunload', warn);
    return () => window.removeEventListener('beforeunload', warn);
  }, [unsafe]);
  const here = state?.lines.get(state.order[at.row] ?? '');
  const told = here?.wrong[at.col];
  const id = (row: number, col: number) => `cell-${row}-${col}`;

  return (
    <div className="flex min-h-0 grow flex-col">
      <div className="flex flex-wrap items-center gap-2 py-2">
        <input
          aria-label="Find in the rows"
          placeholder="Find in the rows"
          className="input w-56"
          maxLength={100}
          value={words}
          onChange={(e) => say({ find: e.target.value })}
        />
        <div className="w-44">
          <Select aria-label="In which column" value={columns[inColumn]?.id ?? ''} onValue={(v) => say({ in: v })}>
            <option value="">In any column</option>
            {columns.map((c) => (
              <option key={c.id} value={c.id}>
                In {c.label}
              </option>
            ))}
          </Select>
        </div>
        <span className="numbers text-sm text-faint" role="status">
          {state ? `${(count - 1).toLocaleString('en')} of ${state.lines.size.toLocaleString('en')}` : 'Reading …'}
        </span>
        <span className="ml-auto flex items-center gap-1">
          <Button weight="quiet" disabled={!state?.done.length} data-tip={`Undo: ${state?.done.at(-1)?.did ?? ''}`} onClick={() => change(undo)}>
            <Undo2 size={15} aria-hidden />
            <span className="sr-only">Undo: {state?.done.at(-1)?.did ?? 'nothing'}</span>
          </Button>
          <Button weight="quiet" disabled={!state?.undone.length} data-tip={`Redo: ${state?.undone.at(-1)?.did ?? ''}`} onClick={() => change(redo)}>
            <Redo2 size={15} aria-hidden />
            <span className="sr-only">Redo: {state?.undone.at(-1)?.did ?? 'nothing'}</span>
          </Button>
          <Button weight="quiet" disabled={block.top >= count - 1} onClick={takeOff}>
            {block.top === block.bottom ? 'Take the row off' : `Take ${Math.min(block.bottom, count - 2) - block.top + 1} rows off`}
          </Button>
          <Button
            onClick={() => {
              go({ row: count - 1, col: 0 });
              grid.current?.focus();
            }}
          >
            Add a row
          </Button>
        </span>
      </div>
      <div ref={scroller} className="relative min-h-0 grow overflow-auto border">
        <div
          ref={grid}
          role="grid"
          aria-label={`Rows of ${definition.name}`}
          aria-rowcount={count + 1}
          aria-colcount={columns.length + 1}
          aria-multiselectable
          aria-activedescendant={id(at.row, at.col)}
          tabIndex={0}
          className="grid-of-rows relative text-[13px]/[18px] outline-none"
          style={{ width: total, height: virtual.getTotalSize() + lineHigh }}
          onKeyDown={onKeyDown}
          onPointerDown={(e) => {
            const spot = e.button === 0 && !editing ? spotOf(e.target) : undefined;
            if (!spot) return;
            go(spot, e.shiftKey);
            grid.current?.focus({ preventScroll: true });
          }}
          onPointerOver={(e) => {
            const spot = e.buttons === 1 && !editing ? spotOf(e.target) : undefined;
            if (spot) setTo(spot);
          }}
          onDoubleClick={(e) => {
            const spot = spotOf(e.target);
            if (spot) setEditing({ text: textAt(spot), whole: true });
          }}
          onCopy={(e) => onCopy(e)}
          onCut={(e) => onCopy(e, true)}
          onPaste={onPaste}
        >
          <GridHead
            definition={definition}
            width={total}
            height={lineHigh}
            headWide={headWide}
            wide={wide}
            lefts={lefts}
            frozen={frozen}
            sort={byCol >= 0 ? { col: byCol, down } : undefined}
            onSort={sortBy}
            onWiden={widen}
          />
          {virtual.getVirtualItems().map((v) => (
            <GridLine
              key={v.key}
              row={v.index}
              top={v.start + lineHigh}
              line={state?.lines.get(state.order[v.index] ?? '')}
              columns={columns}
              wide={wide}
              lefts={lefts}
              frozen={frozen}
              keyCols={keyCols}
              at={at.row === v.index ? at.col : undefined}
              from={v.index >= block.top && v.index <= block.bottom ? block.left : undefined}
              to={v.index >= block.top && v.index <= block.bottom ? block.right : undefined}
              open={rowHref}
            />
          ))}
          {empty && state?.lines.size === 0 && (
            <div className="absolute flex items-center gap-4 pl-4 text-faint" style={{ top: lineHigh * 3 }}>
              No row yet. Type into the first line, paste a block into it, or put in many at once. {empty}
            </div>
          )}
          {editing && (
            <div className="absolute z-30" style={{ top: (at.row + 1) * lineHigh, left: lefts[at.col], width: Math.max(wide[at.col]!, 120) }}>
              <CellEditor key={`${at.row} ${at.col}`} column={columns[at.col]!} text={editing.text} whole={editing.whole} onDone={finish} />
            </div>
          )}
          {told && !editing && (
            <p
              className="pointer-events-none absolute z-30 max-w-80 border border-coral bg-sheet px-2 py-0.5 text-coral shadow-float"
              style={{ top: (at.row + 2) * lineHigh, left: lefts[at.col] }}
            >
              {told}
            </p>
          )}
        </div>
      </div>
      <GridFoot
        standing={standing}
        ready={ready}
        wrong={wrong}
        left={left}
        take={take}
        onTake={setTake}
        frozen={frozen}
        mostFrozen={Math.min(4, columns.length)}
        onFrozen={(to) => {
          setFrozen(to);
          keepInSight(`table ${table.id}`, to);
        }}
        beside={beside}
      />
    </div>
  );
}
