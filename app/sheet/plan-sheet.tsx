import { DndContext, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import { clsx } from 'clsx';
import { memo, useEffect, useRef } from 'react';
import { minutesWords } from '../../core/calendar/index.ts';
import type { Finding, Plan, Position, SheetLayout, Step } from '../../core/plans/index.ts';
import { DropSpots } from './drop-spots';
import { SheetArea } from './sheet-area';
import { Ruler } from './sheet-ruler';
import { SheetStep, type Around, type SheetActs } from './sheet-step';

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
          <SheetArea
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
                <SheetStep
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
