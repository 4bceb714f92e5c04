import { useDraggable } from '@dnd-kit/core';
import { clsx } from 'clsx';
import { ChevronDown, ChevronRight, GripVertical, Plus } from 'lucide-react';
import { memo, useEffect, useLayoutEffect, useRef, useState } from 'react';
import { minutesShort } from '../../core/calendar/index.ts';
import { kindWords, type Finding, type Guide, type Line, type StepFacts } from '../../core/plans/index.ts';
import { lookOf } from '~/steps';
import { StateMark } from '~/ui/state-mark';
import type { Difference } from '../../core/items/index.ts';
import type { SheetActs } from './sheet-acts';
import { sizes, type Columns } from './sheet-geometry';
import { SheetMark } from './sheet-mark';

export interface LineProps {
  line: Line;
  /** Its place among the lines seen, from 0. */
  index: number;
  facts: StepFacts | undefined;
  /** Of a branch. */
  head: string | undefined;
  findings: Finding[];
  /** What it says otherwise than the revision it is compared with. */
  differences: Difference[];
  /** When it begins, where that differs from the line above. */
  begins: number | undefined;
  longest: boolean;
  columns: Columns;
  /** The column of who acts, from 0; -1 where nobody does. */
  party: number;
  /** Who acts inside, where it is folded. */
  inside: string | undefined;
  /** A gate's lock: how many columns it spans, and the branch it holds up where that is not the whole plan. */
  lock: { columns: number; branch?: string } | undefined;
  top: number;
  height: number;
  cursor: boolean;
  chosen: boolean;
  tabStop: boolean;
  relation: string | undefined;
  renaming: boolean;
  matched: boolean;
  acts: SheetActs;
  onRename: (step: string | undefined) => void;
}

/** One line of the sheet; drawn anew only when something of its own has changed. */
export const SheetLine = memo(function SheetLine(p: LineProps) {
  const { line, facts, columns, cursor, acts } = p;
  const row = useRef<HTMLDivElement>(null);
  useLayoutEffect(() => {
    if (!cursor) return;
    // The keyboard follows the line that is chosen, unless somebody types in its slip.
    const inSheet = document.activeElement === document.body || Boolean(document.activeElement?.closest('[role="treegrid"]'));
    if (inSheet && !p.renaming) row.current?.focus({ preventScroll: true });
  }, [cursor, p.renaming]);
  const foldable = line.holds > 0;
  return (
    <div
      ref={row}
      role="row"
      data-line={line.id}
      {...(line.is === 'step' && { 'data-step': line.id })}
      aria-level={line.level}
      aria-rowindex={p.index + 2}
      aria-selected={p.chosen}
      {...(foldable && { 'aria-expanded': p.inside === undefined })}
      aria-label={labelOf(p)}
      tabIndex={p.tabStop ? 0 : -1}
      className={clsx(
        'group absolute left-0 grid border-b border-rule/60 outline-none',
        p.chosen ? 'bg-sea-wash' : 'bg-transparent',
        cursor && 'focus-visible:outline-2 focus-visible:-outline-offset-2 focus-visible:outline-sea',
      )}
      style={{ top: p.top, height: p.height, width: columns.width, gridTemplateColumns: columns.template }}
      onFocus={(e) => e.target === e.currentTarget && !cursor && acts.go(line.id)}
      // With Shift the choice grows from where it began; the focus does not begin another.
      onMouseDown={(e) => e.shiftKey && e.preventDefault()}
      onClick={(e) => {
        if ((e.target as HTMLElement).closest('button, input')) return;
        if (line.is === 'branch') acts.go(line.id);
        else if (e.shiftKey) acts.extend(line.id);
        else acts.open(line.id);
      }}
    >
      <div
        role="gridcell"
        className={clsx('sticky left-0 z-10 flex h-6 items-center justify-end pr-2.5', p.chosen ? 'bg-sea-wash' : 'bg-sheet')}
        style={{ height: p.height - 1 }}
      >
        {p.begins !== undefined && <span className="numbers text-sm text-faint">{p.begins === 0 ? 'asked' : minutesShort(p.begins)}</span>}
        <span aria-hidden className={clsx('absolute -top-px right-0 bottom-0', p.longest ? 'w-[3px] bg-ink' : 'w-px bg-rule')} />
      </div>
      <div
        role="gridcell"
        className={clsx('sticky z-10 flex h-6 min-w-0 items-center gap-1.5 pr-2', p.chosen ? 'bg-sea-wash' : 'bg-sheet')}
        style={{ left: sizes.ruler, paddingLeft: 14 + line.guides.length * sizes.indent }}
      >
        <Guides guides={line.guides} height={p.height} />
        {cursor && <span aria-hidden className="absolute top-0 bottom-0 left-0 w-[3px] bg-sea" />}
        {line.is === 'step' && <Grip step={line.id} />}
        {foldable ? (
          <button
            type="button"
            tabIndex={-1}
            aria-hidden
            className="absolute -ml-4 flex size-4 items-center justify-center text-faint hover:text-sea"
            onClick={() => acts.fold([line.id], p.inside === undefined)}
          >
            {p.inside === undefined ? <ChevronDown size={13} /> : <ChevronRight size={13} />}
          </button>
        ) : null}
        <span className="numbers min-w-8 shrink-0 text-sm text-faint">{line.number}</span>
        {line.is === 'branch' ? (
          <Branch {...p} head={p.head ?? line.branch} />
        ) : p.renaming ? (
          <Rename step={line.id} name={line.step.name} acts={acts} onDone={() => p.onRename(undefined)} />
        ) : (
          <>
            {lookOf(line.step).shape === 'holds' && <span className="shrink-0 text-sm text-faint">{kindWords[line.step.kind].verb}</span>}
            <span
              className={clsx('min-w-0 truncate', p.matched && 'bg-ochre-wash')}
              data-tip={line.step.name}
              onDoubleClick={() => p.onRename(line.id)}
            >
              {line.step.name}
            </span>
            {lookOf(line.step).shape === 'holds' && facts?.brief && (
              <span className="min-w-0 shrink-[99] truncate text-sm text-faint">{facts.brief}</span>
            )}
          </>
        )}
        {p.inside !== undefined && <span className="min-w-0 shrink-[99] truncate text-sm text-faint">{p.inside}</span>}
        <span className="ml-auto flex shrink-0 items-center gap-2">
          {p.lock?.branch && <span className="max-w-48 truncate text-xs text-ochre">holds up “{p.lock.branch}” only</span>}
          {p.relation !== undefined && <span className="max-w-40 truncate text-xs text-sea">{p.relation}</span>}
          {p.differences.length > 0 && (
            <span data-tip={p.differences.map((d) => d.sentence).join('\n')} className="rounded bg-sea-wash px-1.5 text-xs text-sea">
              {differentWords(p.differences)}
            </span>
          )}
          {p.findings.length > 0 && (
            <span data-tip={p.findings.map((f) => f.sentence).join('\n')}>
              <StateMark kind={p.findings.some((f) => f.severity === 'stops') ? 'failed' : 'lapsed'} size={13} />
            </span>
          )}
        </span>
        {line.is === 'step' && (
          <button
            type="button"
            tabIndex={-1}
            data-tip={`Insert a step after “${line.step.name}” (A)`}
            className="absolute -bottom-2.5 left-1 z-20 hidden size-5 items-center justify-center rounded-full border border-sea bg-sheet text-sea group-hover:flex hover:bg-sea hover:text-on-sea"
            onClick={() => acts.insert({ after: line.id })}
          >
            <Plus size={12} aria-hidden />
            <span className="sr-only">Insert a step after “{line.step.name}”</span>
          </button>
        )}
      </div>
      {line.is === 'step' && facts && p.party >= 0 && (
        <div
          role="gridcell"
          className={clsx('flex h-6 min-w-0 items-center', columns.party < 90 ? 'pl-0.5' : 'pl-2')}
          style={{ gridColumn: 3 + p.party }}
        >
          <SheetMark shape={lookOf(line.step).shape} facts={facts} narrow={columns.party < 90} />
        </div>
      )}
      {p.lock && (
        <span
          aria-hidden
          className="pointer-events-none absolute z-[11] flex items-center gap-2"
          style={{ left: sizes.ruler + 10 + line.guides.length * sizes.indent, right: 0, bottom: 2, height: 6 }}
        >
          <span
            className="h-full rounded-[2px] bg-ochre"
            style={{ width: columns.outline - 10 - line.guides.length * sizes.indent + p.lock.columns * columns.party }}
          />
        </span>
      )}
    </div>
  );
}, same);

/** Findings and facts are worked out anew with every change; what counts is whether they say the same. */
function same(a: LineProps, b: LineProps): boolean {
  for (const key of Object.keys(a) as (keyof LineProps)[]) {
    if (a[key] === b[key]) continue;
    if (key === 'line' && sameLine(a.line, b.line)) continue;
    const plain = key === 'facts' || key === 'findings' || key === 'differences' || key === 'lock';
    if (!plain || JSON.stringify(a[key]) !== JSON.stringify(b[key])) return false;
  }
  return true;
}

/** Lines are written anew with every change; a step that was not touched is the same object. */
function sameLine(a: Line, b: Line): boolean {
  const sameHead = a.is === 'step' ? b.is === 'step' && a.step === b.step : b.is === 'branch' && a.aside === b.aside;
  return sameHead && a.id === b.id && a.number === b.number && a.level === b.level && a.holds === b.holds && a.guides.join() === b.guides.join();
}

/** How it differs, in a word or two. */
const differentWords = (all: Difference[]): string => [...new Set(all.map((d) => d.is))].join(', ');

/** The line as it is read out. */
function labelOf({ line, facts, head, findings, differences, lock, relation }: LineProps): string {
  if (line.is === 'branch') return `${line.number} ${head ?? line.branch}${line.holds === 0 ? '. No step yet' : ''}`;
  const said = [
    `${line.number} ${kindWords[line.step.kind].verb}: ${line.step.name}.`,
    facts?.sentence,
    lock?.branch && `Holds up the branch “${lock.branch}” only.`,
    relation && `${relation}.`,
    ...differences.map((d) => `Against the revision: ${d.sentence}`),
    ...findings.map((f) => `${f.severity === 'stops' ? 'Stops publishing' : 'Warning'}: ${f.sentence}`),
  ];
  return said.filter(Boolean).join(' ');
}

function Branch({ line, head, acts }: LineProps & { head: string }) {
  if (line.is !== 'branch') return null;
  return (
    <>
      <span className={clsx('truncate text-sm italic', line.aside ? 'text-coral' : 'text-faint')} data-tip={head}>
        {head}
      </span>
      {line.holds === 0 && (
        <button
          type="button"
          tabIndex={-1}
          aria-label={`first step here, in “${head}”`}
          className="flex h-5 shrink-0 items-center gap-1 rounded border border-dashed border-faint px-1.5 text-sm text-sea hover:bg-sea-wash"
          onClick={() => acts.insert({ into: line.of, branch: line.branch })}
        >
          <Plus size={12} aria-hidden /> first step here
        </button>
      )}
    </>
  );
}

/** A line for each block around: single for one way or another, double for side by side, a bracket for again and again. */
export function Guides({ guides, height }: { guides: Guide[]; height: number | undefined }) {
  return guides.map((g, i) => (
    <span
      key={i}
      aria-hidden
      className={clsx(
        'absolute top-0',
        g === 'single' && 'w-[2px] bg-rule',
        g === 'double' && 'w-[4px] border-x border-ink',
        g === 'bracket' && 'w-[4px] border-l-2 border-dotted border-faint',
      )}
      style={{ left: 17 + i * sizes.indent, height: height ?? '100%' }}
    />
  ));
}

function Grip({ step }: { step: string }) {
  const { listeners, setNodeRef } = useDraggable({ id: step });
  return (
    <span
      ref={setNodeRef}
      onPointerDown={(e) => listeners?.['onPointerDown']?.(e)}
      aria-hidden
      data-grip={step}
      className="absolute left-1 z-10 flex h-5 w-3 cursor-grab touch-none items-center justify-center text-faint opacity-0 group-hover:opacity-100"
      style={{ left: 2 }}
    >
      <GripVertical size={13} />
    </span>
  );
}

/** A name changed where it stands. Enter and leaving keep it, Escape does not. */
function Rename({ step, name, acts, onDone }: { step: string; name: string; acts: SheetActs; onDone: () => void }) {
  const [text, setText] = useState(name);
  const box = useRef<HTMLInputElement>(null);
  useEffect(() => box.current?.select(), []);
  const keep = () => {
    if (text.trim() !== '' && text !== name) acts.rename(step, text);
    onDone();
  };
  return (
    <input
      ref={box}
      className="h-6 min-w-0 grow rounded border border-sea bg-sheet px-1 outline-none"
      aria-label={`Name of “${name}”`}
      value={text}
      maxLength={120}
      onChange={(e) => setText(e.target.value)}
      onBlur={keep}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === 'Enter') keep();
        if (e.key === 'Escape') onDone();
      }}
    />
  );
}
