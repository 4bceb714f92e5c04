import { DndContext, PointerSensor, useDraggable, useSensor, useSensors } from '@dnd-kit/core';
import { clsx } from 'clsx';
import { Columns2, Lock, Plus, RotateCw, Rows3, Shield, Split } from 'lucide-react';
import { memo, useEffect, useRef, type KeyboardEvent, type RefObject } from 'react';
import { minutesWords } from '../../core/calendar/index.ts';
import {
  kindWords,
  sheet,
  type Area,
  type Finding,
  type Plan,
  type Position,
  type SheetMark,
  type SheetLayout,
  type Step,
  type Wrapping,
} from '../../core/plans/index.ts';
import { Mark } from '~/ui/mark';
import { DropSpots } from './drop-spots';

export interface SheetActs {
  select: (step: string | undefined) => void;
  open: (step: string) => void;
  insert: (at: Position) => void;
  remove: (step: string) => void;
  move: (step: string, way: 'earlier' | 'later') => void;
  duplicate: (step: string) => void;
  copy: (step: string, cut: boolean) => void;
  paste: (at: Position) => void;
  wrap: (step: string, kind: Wrapping) => void;
  unwrap: (step: string) => void;
  drop: (step: string, at: Position) => void;
}

/** The plan drawn over expected working time, a row for each party; gates are locks across all rows. */
export const PlanSheet = memo(function PlanSheet({
  plan,
  layout,
  promised,
  steps,
  sentences,
  findings,
  selected,
  acts,
}: {
  plan: Plan;
  layout: SheetLayout;
  /** Promised working minutes, where the item promises any. */
  promised: number | undefined;
  steps: Map<string, Step>;
  sentences: Map<string, string>;
  findings: Finding[];
  selected: string | undefined;
  acts: SheetActs;
}) {
  const order = [...steps.keys()];
  const around = useRef<Around>({ layout, order, acts });
  useEffect(() => {
    around.current = { layout, order, acts };
  });
  const found = new Map<string, Finding[]>();
  for (const f of findings) if (f.step) found.set(f.step, [...(found.get(f.step) ?? []), f]);
  // A press becomes a drag only once it has moved: a click stays a click.
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const tabStop = selected && steps.has(selected) ? selected : order[0];
  const bottom = layout.height;
  const main = layout.areas[0];
  return (
    <DndContext
      id="plan-sheet"
      sensors={sensors}
      onDragEnd={(e) => e.over && acts.drop(String(e.active.id), JSON.parse(String(e.over.id)) as Position)}
    >
      <div
        role="group"
        aria-label="Plan sheet"
        aria-describedby="sheet-keys"
        className="relative"
        style={{ width: layout.width + 140, height: bottom + 24 }}
      >
        <p id="sheet-keys" className="sr-only">
          Arrow keys go from step to step. Enter opens a step. A inserts after it, B before it. Alt with left or right moves it. Control D duplicates
          it, Control C copies it, Control V pastes after it, Delete removes it, Control Z undoes.
        </p>
        <Ruler layout={layout} />
        {layout.areas.map((a) => (
          <AreaView
            key={a.id}
            area={a}
            first={a === main}
            empty={!layout.marks.some((m) => m.area === a.id)}
            onInsert={() => acts.insert(a.from ? { into: a.from.step, branch: a.from.branch } : 'start')}
          />
        ))}
        {main && (
          <p className="absolute text-xs text-faint" style={{ left: layout.width - 40, top: 4, width: 176, textAlign: 'right' }}>
            longest way <span className="numbers text-sm font-medium text-ink">{minutesWords(layout.length)}</span>
            {promised !== undefined && (
              <span className={clsx('block', promised < layout.length && 'text-coral')}>
                promised <span className="numbers text-sm font-medium">{minutesWords(promised)}</span>
              </span>
            )}
          </p>
        )}
        <ol aria-label="Steps">
          {layout.marks.map((m) => {
            const step = steps.get(m.step);
            return (
              step && (
                <StepMark
                  key={m.step}
                  mark={m}
                  step={step}
                  sentence={sentences.get(m.step) ?? ''}
                  findings={found.get(m.step) ?? none}
                  selected={m.step === selected}
                  tabStop={m.step === tabStop}
                  around={around}
                />
              )
            );
          })}
        </ol>
        <DropSpots plan={plan} layout={layout} />
      </div>
    </DndContext>
  );
});

const none: Finding[] = [];

/** What a step's keys need to know of the whole sheet; read when a key is pressed, so that drawing a step does not depend on it. */
interface Around {
  layout: SheetLayout;
  order: string[];
  acts: SheetActs;
}

function Ruler({ layout }: { layout: SheetLayout }) {
  return (
    <svg aria-hidden className="pointer-events-none absolute inset-0 overflow-visible" width={layout.width + 140} height={layout.height}>
      <line x1={0} x2={layout.width + 140} y1={sheet.head - 4} y2={sheet.head - 4} stroke="var(--ink)" strokeWidth="1" />
      {layout.ruler.map((t) => (
        <g key={t.minutes}>
          <line x1={t.x} x2={t.x} y1={sheet.head - 9} y2={layout.height} stroke="var(--rule)" strokeDasharray="1 3" />
          <line x1={t.x} x2={t.x} y1={sheet.head - 9} y2={sheet.head - 4} stroke="var(--ink)" />
          <text x={t.x + 4} y={sheet.head - 10} className="numbers" fontSize="11" fill="var(--faint)">
            {t.minutes === 0 ? 'asked' : minutesWords(t.minutes)}
          </text>
        </g>
      ))}
    </svg>
  );
}

function AreaView({ area, first, empty, onInsert }: { area: Area; first: boolean; empty: boolean; onInsert: () => void }) {
  return (
    <>
      <svg aria-hidden className="pointer-events-none absolute inset-0 overflow-visible" width="1" height="1">
        {area.from && (
          <path d={`M${area.from.x + 6} ${area.from.y} V${area.y + 14} H${area.x + 8}`} fill="none" stroke="var(--faint)" strokeWidth="1.2" />
        )}
        {area.from && bracketed.has(area.from.kind) && <Bracket area={area} rounds={area.from.kind !== 'together'} />}
        {area.rows.map((r, i) => (
          <line
            key={r.party}
            x1={area.x}
            x2={area.x + area.width}
            y1={r.y + sheet.row}
            y2={r.y + sheet.row}
            stroke={i === area.rows.length - 1 ? 'var(--faint)' : 'var(--rule)'}
            strokeWidth="1"
          />
        ))}
        {!first && <line x1={area.x} x2={area.x + area.width} y1={area.y + sheet.head} y2={area.y + sheet.head} stroke="var(--rule)" />}
      </svg>
      {!first && (
        <p className="absolute truncate text-sm" style={{ left: area.x + 12, top: area.y + 4, maxWidth: Math.max(area.width, 360) }}>
          {area.label}
        </p>
      )}
      {area.rows.map((r) => (
        <p
          key={r.party}
          className="absolute flex items-center text-sm text-faint"
          style={{ left: area.x + (first ? 16 : 12), top: r.y, width: sheet.gutter - 28, height: sheet.row }}
        >
          <span className="line-clamp-2" title={r.party}>
            {r.party}
          </span>
        </p>
      ))}
      {empty && (
        <button
          type="button"
          onClick={onInsert}
          className="absolute flex h-7 items-center gap-1 rounded border border-dashed border-faint px-2 text-sm text-sea hover:bg-sea-wash"
          style={{ left: area.x + sheet.gutter, top: (area.rows[0]?.y ?? area.y) + 8 }}
        >
          <Plus size={13} aria-hidden /> First step {first ? 'of the plan' : `of “${area.label}”`}
        </button>
      )}
    </>
  );
}

/** Branches side by side, and what is done again, stand in brackets. */
const bracketed = new Set<Step['kind']>(['together', 'forEach', 'repeat']);

function Bracket({ area, rounds }: { area: Area; rounds: boolean }) {
  const [left, right, top, foot] = [area.x + 2, area.x + area.width - 2, area.y + 4, area.y + area.height];
  return (
    <>
      <path d={`M${left + 6} ${top} H${left} V${foot} H${left + 6}`} fill="none" stroke="var(--ink)" strokeWidth="1.5" />
      {rounds && <path d={`M${right - 6} ${top} H${right} V${foot} H${right - 6}`} fill="none" stroke="var(--ink)" strokeWidth="1.5" />}
    </>
  );
}

/** Waiting is ochre, systems are violet; what the run does by itself and what people are told is plain. */
const look: Record<Step['kind'], { bar: string; tick: string }> = (() => {
  const waits = { bar: 'border-ochre bg-ochre-wash', tick: 'bg-ochre' };
  const system = { bar: 'border-violet bg-violet-wash', tick: 'bg-violet' };
  const people = { bar: 'border-sea bg-sea-wash', tick: 'bg-sea' };
  const plain = { bar: 'border-faint bg-sheet', tick: 'bg-faint' };
  const end = { bar: 'border-ink bg-sheet', tick: 'bg-ink' };
  return {
    gate: waits,
    askBack: waits,
    pause: waits,
    task: people,
    tell: { ...plain, tick: 'bg-sea' },
    provision: system,
    find: plain,
    workOut: plain,
    part: system,
    mark: { ...plain, tick: 'bg-moss' },
    choose: plain,
    together: plain,
    forEach: plain,
    repeat: plain,
    guard: plain,
    finish: end,
  };
})();
const forkIcon: Partial<Record<Step['kind'], typeof Split>> = { together: Columns2, forEach: Rows3, repeat: RotateCw, guard: Shield };

interface StepMarkProps {
  mark: SheetMark;
  step: Step;
  sentence: string;
  findings: Finding[];
  selected: boolean;
  tabStop: boolean;
  around: RefObject<Around>;
}

/** Drawn anew only when something of its own has changed: typing into one step of three hundred draws one. */
const StepMark = memo(function StepMark({ mark, step, sentence, findings, selected, tabStop, around }: StepMarkProps) {
  const button = useRef<HTMLButtonElement>(null);
  const { listeners, setNodeRef, isDragging, transform } = useDraggable({ id: mark.step });
  useEffect(() => {
    if (!selected) return;
    button.current?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
    // A step that was just inserted or moved has the focus, unless somebody types in its slip.
    if (document.activeElement === document.body || document.activeElement?.closest('[data-step]')) button.current?.focus({ preventScroll: true });
  }, [selected]);

  const go = (id: string | undefined) => {
    if (id === undefined) return;
    around.current.acts.select(id);
    document.querySelector<HTMLElement>(`[data-step="${id}"]`)?.focus();
  };
  const hear = (e: KeyboardEvent) => {
    const { acts, order, layout } = around.current;
    const at = order.indexOf(mark.step);
    const key = e.key.length === 1 ? e.key.toLowerCase() : e.key;
    const done = (act: () => void) => {
      e.preventDefault();
      act();
    };
    if (e.altKey && (key === 'ArrowLeft' || key === 'ArrowUp')) return done(() => acts.move(mark.step, 'earlier'));
    if (e.altKey && (key === 'ArrowRight' || key === 'ArrowDown')) return done(() => acts.move(mark.step, 'later'));
    if ((e.ctrlKey || e.metaKey) && key === 'd') return done(() => acts.duplicate(mark.step));
    if ((e.ctrlKey || e.metaKey) && (key === 'c' || key === 'x')) return done(() => acts.copy(mark.step, key === 'x'));
    if ((e.ctrlKey || e.metaKey) && key === 'v') return done(() => acts.paste({ after: mark.step }));
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    if (key === 'ArrowRight') return done(() => go(order[at + 1]));
    if (key === 'ArrowLeft') return done(() => go(order[at - 1]));
    if (key === 'ArrowDown' || key === 'ArrowUp') return done(() => go(nearest(layout, mark, key === 'ArrowDown' ? 1 : -1)));
    if (key === 'Home') return done(() => go(order[0]));
    if (key === 'End') return done(() => go(order.at(-1)));
    if (key === 'Enter' || key === ' ') return done(() => acts.open(mark.step));
    if (key === 'a' || key === 'Insert') return done(() => acts.insert({ after: mark.step }));
    if (key === 'b') return done(() => acts.insert({ before: mark.step }));
    if (key === 'Delete' || key === 'Backspace') return done(() => acts.remove(mark.step));
    if (key === 'Escape') return done(() => acts.select(undefined));
  };

  const ForkIcon = forkIcon[step.kind] ?? Split;
  const stops = findings.some((f) => f.severity === 'stops');
  const label = `${kindWords[step.kind].verb}: ${step.name}. ${sentence}${findings.map((f) => ` ${f.severity === 'stops' ? 'Stops publishing' : 'Warning'}: ${f.sentence}`).join('')}`;
  const height = mark.form === 'fork' ? 22 : 28;
  const top = mark.y + (mark.form === 'fork' ? 2 : 8);
  return (
    <li className="contents">
      {mark.lock && (
        <div
          aria-hidden
          className="absolute flex w-3 items-start justify-center rounded-[2px] bg-ochre pt-1.5 text-on-sea"
          style={{ left: mark.lock.x, top: mark.lock.y, height: mark.lock.height }}
        >
          <Lock size={9} strokeWidth={3} />
        </div>
      )}
      <button
        ref={(node) => {
          button.current = node;
          setNodeRef(node);
        }}
        type="button"
        onPointerDown={(e) => listeners?.['onPointerDown']?.(e)}
        data-step={mark.step}
        tabIndex={tabStop ? 0 : -1}
        aria-current={selected}
        aria-label={label}
        title={sentence}
        onClick={() => around.current.acts.open(mark.step)}
        onKeyDown={hear}
        className={clsx(
          'absolute flex items-center gap-1.5 truncate rounded pr-1.5 text-left text-sm transition-[left,top] duration-100 hover:border-sea',
          mark.form === 'tick' ? 'border border-transparent' : 'border',
          mark.form !== 'tick' && look[step.kind].bar,
          mark.critical && 'font-medium',
          mark.critical && mark.form !== 'tick' && 'border-b-3',
          selected && 'border-sea! outline-2 outline-sea',
          isDragging && 'z-30 opacity-70',
        )}
        style={{
          left: mark.x,
          top,
          width: mark.width - (mark.form === 'lock' ? 0 : 4),
          height,
          ...(transform && { transform: `translate(${transform.x}px, ${transform.y}px)` }),
        }}
      >
        {mark.form === 'tick' && (
          <span aria-hidden className={clsx('h-full shrink-0 rounded-[1px]', mark.critical ? 'w-1' : 'w-0.5', look[step.kind].tick)} />
        )}
        {mark.form === 'fork' && <ForkIcon size={13} aria-hidden className={clsx('ml-1.5 shrink-0', ForkIcon === Split && 'rotate-90')} />}
        {mark.form !== 'tick' && mark.form !== 'fork' && <span className="w-0" />}
        <span className="truncate">{step.name}</span>
        {findings.length > 0 && (
          <span className="ml-auto" title={findings.map((f) => f.sentence).join('\n')}>
            <Mark kind={stops ? 'failed' : 'lapsed'} size={13} />
          </span>
        )}
      </button>
      {selected && (
        <>
          <InsertHere
            label={`Insert a step before “${step.name}” (B)`}
            x={mark.x - 11}
            y={top - 20}
            onClick={() => around.current.acts.insert({ before: mark.step })}
          />
          <InsertHere
            label={`Insert a step after “${step.name}” (A)`}
            x={mark.x + mark.width - 11}
            y={top - 20}
            onClick={() => around.current.acts.insert({ after: mark.step })}
          />
        </>
      )}
    </li>
  );
}, sameDrawing);

/** Layout and findings are computed anew with every change; what counts is whether they say the same. */
function sameDrawing(a: StepMarkProps, b: StepMarkProps): boolean {
  return (
    a.step === b.step &&
    a.sentence === b.sentence &&
    a.selected === b.selected &&
    a.tabStop === b.tabStop &&
    a.findings.length === b.findings.length &&
    a.findings.every((f, i) => f.sentence === b.findings[i]?.sentence) &&
    JSON.stringify(a.mark) === JSON.stringify(b.mark)
  );
}

function InsertHere({ label, x, y, onClick }: { label: string; x: number; y: number; onClick: () => void }) {
  return (
    <button
      type="button"
      tabIndex={-1}
      title={label}
      onClick={onClick}
      className="absolute z-10 flex size-5 items-center justify-center rounded-full border border-sea bg-sheet text-sea hover:bg-sea hover:text-on-sea"
      style={{ left: x, top: y }}
    >
      <Plus size={12} aria-hidden />
      <span className="sr-only">{label}</span>
    </button>
  );
}

/** The step nearest to the left in the next row down or up. */
function nearest(layout: SheetLayout, from: SheetMark, way: 1 | -1): string | undefined {
  const others = layout.marks.filter((m) => (m.y - from.y) * way > 0);
  const rowY = others.reduce<number | undefined>((best, m) => (best === undefined || (m.y - best) * way < 0 ? m.y : best), undefined);
  return others.filter((m) => m.y === rowY).sort((a, b) => Math.abs(a.x - from.x) - Math.abs(b.x - from.x))[0]?.step;
}
