import { DndContext, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import { useVirtualizer, defaultRangeExtractor } from '@tanstack/react-virtual';
import { Plus } from 'lucide-react';
import { memo, useEffect, useMemo, useRef, useState, type RefObject } from 'react';
import { useHeld } from '~/ui/keyboard';
import { useLatest } from '~/ui/latest';
import {
  gapsFor,
  nearestGap,
  roomOf,
  unfolded,
  type Finding,
  type Gap,
  type Line,
  type Plan,
  type Run,
  type SheetFacts,
} from '../../core/plans/index.ts';
import type { Difference } from '../../core/items/index.ts';
import type { SheetActs } from './sheet-acts';
import { branchBeside, columnsFor, onLongestWay, sizes, type Columns } from './sheet-geometry';
import { onKeyDown } from './sheet-keys';
import { SheetLine } from './sheet-line';

interface Props {
  plan: Plan;
  lines: Line[];
  facts: SheetFacts;
  findings: Map<string, Finding[]>;
  /** What each step says otherwise than the revision it is compared with. */
  differences: ReadonlyMap<string, Difference[]>;
  folded: ReadonlySet<string>;
  /** The line the keyboard is on, and the steps that are chosen. */
  cursor: string | undefined;
  run: Run;
  matched: ReadonlySet<string>;
  acts: SheetActs;
  onFind: () => void;
  onHelp: () => void;
}

const none: Finding[] = [];
const same: Difference[] = [];

/** The plan read downwards: a line a step, a column a party, expected working time down the edge; a gate is a lock across. */
export const PlanSheet = memo(function PlanSheet(p: Props) {
  const { plan, facts, folded, cursor, run, acts } = p;
  const lines = useMemo(() => unfolded(p.lines, folded), [p.lines, folded]);
  const scroller = useRef<HTMLDivElement>(null);
  const body = useRef<HTMLDivElement>(null);
  const width = useWidth(scroller);
  const columns = useMemo(() => columnsFor(width - 16, facts.parties.length), [width, facts.parties.length]);
  const [renaming, setRenaming] = useState<string>();
  const isLock = (l: Line) => l.is === 'step' && roomOf(l.step).isLock === true;
  const at = lines.findIndex((l) => l.id === cursor);

  // What it gives is read while drawing and in events only; nothing that is remembered depends on it.
  // eslint-disable-next-line react-hooks/incompatible-library
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    // It may have been scrolled before scripts took over.
    initialOffset: () => scroller.current?.scrollTop ?? 0,
    estimateSize: (i) => sizes.row + (isLock(lines[i]!) ? sizes.lock : 0),
    getItemKey: (i) => lines[i]!.id,
    overscan: 12,
    // The heads stand above the lines within what is scrolled.
    scrollPaddingEnd: 40,
    initialRect: { width: 1240, height: 900 },
    // The line the keyboard is on stays drawn, wherever the sheet is scrolled to.
    rangeExtractor: (range) => [...new Set([...defaultRangeExtractor(range), ...(at >= 0 ? [at] : [])])].sort((a, b) => a - b),
  });
  // Locks come and go, and lines change places: what was measured is measured anew.
  const heights = lines.map((l) => (isLock(l) ? 'x' : '.')).join('');
  useEffect(() => virtual.measure(), [heights, virtual]);
  useEffect(() => {
    if (at >= 0) virtual.scrollToIndex(at, { align: 'auto' });
  }, [at, virtual]);

  const longest = useMemo(() => onLongestWay(lines, (step) => facts.steps.get(step)?.critical === true), [lines, facts]);
  const begins = useMemo(() => changes(lines, facts), [lines, facts]);
  const relations = useMemo(() => relationsOf(cursor, facts), [cursor, facts]);
  // Of several that are chosen together, what they hold is chosen with them.
  const chosen = new Set(run.length > 0 ? run : [cursor]);
  if (run.length > 1) for (const l of lines) if (l.parent !== undefined && chosen.has(l.parent)) chosen.add(l.id);
  const tabStop = at >= 0 ? cursor : lines[0]?.id;

  const goTo = (line: string) => {
    const row = body.current?.querySelector<HTMLElement>(`[data-line="${line}"]`);
    // A line that is not drawn is scrolled to first; it takes the focus once it is there.
    if (row) row.focus({ preventScroll: true });
    else acts.go(line);
  };

  useHeld(body, 'line', (line) => acts.go(line));

  // Down from anywhere goes to the line that the sheet is on.
  const enter = useLatest(() => goTo(tabStop ?? ''));
  useEffect(() => {
    const hear = (e: KeyboardEvent) => {
      if (e.key !== 'ArrowDown' || e.defaultPrevented || e.altKey || e.ctrlKey || e.metaKey || document.activeElement !== document.body) return;
      e.preventDefault();
      enter.current();
    };
    window.addEventListener('keydown', hear);
    return () => window.removeEventListener('keydown', hear);
  }, [enter]);

  // A press becomes a drag only once it has moved: a click stays a click.
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const [drag, setDrag] = useState<{ run: Run; gaps: Gap[]; over: Gap | undefined }>();
  /** Where the pointer is in the window; where the lines are there is asked when it matters, since the sheet scrolls under it. */
  const pointer = useRef({ x: 0, y: 0 });
  useEffect(() => {
    const follow = (e: PointerEvent) => {
      pointer.current = { x: e.clientX, y: e.clientY };
    };
    window.addEventListener('pointermove', follow, true);
    return () => window.removeEventListener('pointermove', follow, true);
  }, []);
  const topOf = (above: number) => {
    const item = virtual.measurementsCache[above];
    return item ? item.start : virtual.getTotalSize();
  };
  const gapUnder = (gaps: Gap[]): Gap | undefined => {
    const y = pointer.current.y - (body.current?.getBoundingClientRect().top ?? 0);
    // The outline stays in sight when the sheet is scrolled sideways.
    const x = pointer.current.x - (scroller.current?.getBoundingClientRect().left ?? 0);
    const above = lines.findIndex((_, i) => topOf(i) + sizes.row / 2 > y);
    return nearestGap(gaps, above < 0 ? lines.length : above, Math.round((x - sizes.ruler - 17) / sizes.indent));
  };

  return (
    <DndContext
      id="plan-sheet"
      sensors={sensors}
      onDragStart={(e) => {
        const step = String(e.active.id);
        const moved = run.includes(step) ? run : [step];
        setDrag({ run: moved, gaps: gapsFor(plan, moved, lines), over: undefined });
      }}
      onDragMove={() => setDrag((d) => d && { ...d, over: gapUnder(d.gaps) })}
      onDragCancel={() => setDrag(undefined)}
      onDragEnd={() => {
        if (drag?.over) acts.drop(drag.run, drag.over.at);
        setDrag(undefined);
      }}
    >
      <div ref={scroller} className="min-h-0 grow overflow-auto" data-sheet-scroller>
        <div
          role="treegrid"
          aria-label="Plan sheet"
          aria-multiselectable
          aria-rowcount={lines.length + 1}
          aria-colcount={2 + facts.parties.length}
          style={{ width: Math.max(columns.width, width) }}
          onKeyDown={(e) => {
            const on = e.target as HTMLElement;
            if (on.closest('input, button')) return;
            // The line that has the focus is the one that is meant, also before the choice has followed it.
            const here = on.closest<HTMLElement>('[data-line]')?.dataset['line'] ?? tabStop;
            const meant = here === cursor ? run : lines.some((l) => l.is === 'step' && l.id === here) ? [here!] : [];
            onKeyDown(e, { plan, lines, cursor: here, run: meant, folded, acts, goTo, rename: setRenaming, find: p.onFind, help: p.onHelp });
          }}
        >
          <Heads columns={columns} parties={facts.parties} />
          <div role="rowgroup" ref={body} className="relative" style={{ height: virtual.getTotalSize() + 8 }}>
            <ColumnLines columns={columns} parties={facts.parties.length} />
            {virtual.getVirtualItems().map(({ index, start, size }) => {
              const line = lines[index]!;
              const of = line.is === 'step' ? facts.steps.get(line.id) : undefined;
              const beside = isLock(line) ? branchBeside(p.lines, line) : undefined;
              return (
                <SheetLine
                  key={line.id}
                  line={line}
                  index={index}
                  facts={of}
                  head={line.is === 'branch' ? facts.heads.get(line.id) : undefined}
                  findings={p.findings.get(line.id) ?? none}
                  differences={p.differences.get(line.id) ?? same}
                  begins={begins.get(line.id)}
                  longest={longest.has(line.id)}
                  columns={columns}
                  party={of ? facts.parties.indexOf(of.party) : -1}
                  inside={folded.has(line.id) && line.holds > 0 ? insideWords(p.lines, line, facts) : undefined}
                  lock={isLock(line) ? lockOf(p.lines, beside, facts) : undefined}
                  top={start}
                  height={size}
                  cursor={line.id === cursor}
                  chosen={chosen.has(line.id)}
                  tabStop={line.id === tabStop}
                  relation={relations.get(line.id)}
                  renaming={renaming === line.id}
                  matched={p.matched.has(line.id)}
                  acts={acts}
                  onRename={setRenaming}
                />
              );
            })}
            {lines.length === 0 && <FirstStep acts={acts} />}
            {drag?.over && (
              <span
                aria-hidden
                data-over
                className="pointer-events-none absolute z-30 h-1.5 rounded bg-sea"
                style={{ top: topOf(drag.over.above) - 4, left: sizes.ruler + 14 + drag.over.depth * sizes.indent, width: 240 }}
              />
            )}
          </div>
        </div>
      </div>
    </DndContext>
  );
});

function Heads({ columns, parties }: { columns: Columns; parties: string[] }) {
  return (
    <div
      role="row"
      aria-rowindex={1}
      className="sticky top-0 z-20 grid h-8 items-center border-b border-ink bg-sheet text-sm text-faint"
      style={{ gridTemplateColumns: columns.template, width: columns.width }}
    >
      <span role="columnheader" className="sticky left-0 z-10 flex h-full items-center justify-end bg-sheet pr-2.5">
        begins
      </span>
      <span role="columnheader" className="sticky z-10 flex h-full items-center bg-sheet pl-3.5" style={{ left: sizes.ruler }}>
        Step
      </span>
      {parties.map((party) => (
        <span key={party} role="columnheader" className="truncate pl-2" data-tip={party}>
          {party}
        </span>
      ))}
    </div>
  );
}

function ColumnLines({ columns, parties }: { columns: Columns; parties: number }) {
  return Array.from({ length: parties }, (_, i) => (
    <span
      key={i}
      aria-hidden
      className="pointer-events-none absolute top-0 bottom-0 border-l border-dotted border-rule"
      style={{ left: sizes.ruler + columns.outline + i * columns.party }}
    />
  ));
}

/** What a plan without steps offers; the keyboard can paste here too. */
function FirstStep({ acts }: { acts: SheetActs }) {
  return (
    <div
      role="row"
      data-line=""
      aria-label="The plan has no step yet"
      tabIndex={0}
      className="absolute inset-x-0 top-2 outline-none focus-visible:outline-2 focus-visible:outline-sea"
    >
      <span role="gridcell" className="block" style={{ paddingLeft: sizes.ruler + 14 }}>
        <button
          type="button"
          className="inline-flex h-7 items-center gap-1 rounded border border-dashed border-faint px-2 text-sea hover:bg-sea-wash"
          onClick={() => acts.insert('start')}
        >
          <Plus size={13} aria-hidden /> First step of the plan
        </button>
      </span>
    </div>
  );
}

/** The width there is for the sheet, followed as it changes. */
function useWidth(box: RefObject<HTMLDivElement | null>): number {
  const [width, setWidth] = useState(1240);
  useEffect(() => {
    const watched = box.current;
    if (!watched) return;
    const watcher = new ResizeObserver(() => setWidth(watched.clientWidth));
    watcher.observe(watched);
    return () => watcher.disconnect();
  }, [box]);
  return width;
}

/** When lines begin, where that is not when the one above does. */
function changes(lines: Line[], facts: SheetFacts): Map<string, number> {
  const found = new Map<string, number>();
  let before: number | undefined;
  for (const l of lines) {
    const now = l.is === 'step' ? facts.steps.get(l.id)?.begins : undefined;
    if (now === undefined || now === before) continue;
    found.set(l.id, now);
    before = now;
  }
  return found;
}

/** What the chosen step takes from which lines, and which take something from it. */
function relationsOf(chosen: string | undefined, facts: SheetFacts): Map<string, string> {
  const words = new Map<string, string[]>();
  const say = (line: string, what: string) => words.set(line, [...(words.get(line) ?? []), what]);
  if (chosen !== undefined) {
    for (const t of facts.steps.get(chosen)?.takes ?? []) say(t.from, `gives ${t.label}`);
    for (const [id, f] of facts.steps) for (const t of f.takes) if (t.from === chosen && id !== chosen) say(id, `takes ${t.label}`);
  }
  return new Map([...words].map(([line, all]) => [line, [...new Set(all)].join(', ')]));
}

const within = (lines: Line[], line: Line): Line[] => {
  const from = lines.indexOf(line) + 1;
  const end = lines.findIndex((l, i) => i >= from && l.level <= line.level);
  return lines.slice(from, end < 0 ? undefined : end);
};
const partiesIn = (lines: Line[], facts: SheetFacts): string[] => [...new Set(lines.map((l) => facts.steps.get(l.id)?.party ?? ''))].filter(Boolean);

/** How many steps a folded line holds, and who acts in them. */
function insideWords(lines: Line[], line: Line, facts: SheetFacts): string {
  const who = partiesIn(within(lines, line), facts);
  return `${line.holds} ${line.holds === 1 ? 'step' : 'steps'}${who.length ? `: ${who.join(', ')}` : ''}`;
}

/** How far a lock reaches: across all columns, or across those of the branch it holds up. */
function lockOf(lines: Line[], branch: Line | undefined, facts: SheetFacts): { columns: number; branch?: string } {
  if (!branch) return { columns: facts.parties.length };
  const last = Math.max(-1, ...partiesIn(within(lines, branch), facts).map((who) => facts.parties.indexOf(who)));
  return { columns: last + 1, branch: facts.heads.get(branch.id) ?? '' };
}
