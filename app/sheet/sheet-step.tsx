import { useDraggable } from '@dnd-kit/core';
import { clsx } from 'clsx';
import { Lock, Plus, Split } from 'lucide-react';
import { memo, useEffect, useRef, type KeyboardEvent, type RefObject } from 'react';
import { kindWords, type Finding, type Position, type SheetLayout, type SheetMark, type Step, type Wrapping } from '../../core/plans/index.ts';
import { lookOf } from '~/steps';
import type { Tone } from '~/steps/look';
import { Mark } from '~/ui/mark';

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

/** What a step's keys need to know of the whole sheet; read when a key is pressed, so that drawing a step does not depend on it. */
export interface Around {
  layout: SheetLayout;
  order: string[];
  acts: SheetActs;
}

const tones: Record<Tone, { bar: string; tick: string }> = {
  waits: { bar: 'border-ochre bg-ochre-wash', tick: 'bg-ochre' },
  system: { bar: 'border-violet bg-violet-wash', tick: 'bg-violet' },
  people: { bar: 'border-sea bg-sea-wash', tick: 'bg-sea' },
  plain: { bar: 'border-faint bg-sheet', tick: 'bg-faint' },
  done: { bar: 'border-moss bg-moss-wash', tick: 'bg-moss' },
  end: { bar: 'border-ink bg-sheet', tick: 'bg-ink' },
};

interface Props {
  mark: SheetMark;
  step: Step;
  sentence: string;
  findings: Finding[];
  selected: boolean;
  tabStop: boolean;
  around: RefObject<Around>;
}

/** Drawn anew only when something of its own has changed: typing into one step of three hundred draws one. */
export const SheetStep = memo(function SheetStep({ mark, step, sentence, findings, selected, tabStop, around }: Props) {
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

  const look = lookOf(step);
  const ForkIcon = look.Icon ?? Split;
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
          mark.form !== 'tick' && tones[look.bar].bar,
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
          <span aria-hidden className={clsx('h-full shrink-0 rounded-[1px]', mark.critical ? 'w-1' : 'w-0.5', tones[look.tick ?? look.bar].tick)} />
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
function sameDrawing(a: Props, b: Props): boolean {
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
