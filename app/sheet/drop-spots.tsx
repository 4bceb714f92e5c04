import { useDndContext, useDroppable } from '@dnd-kit/core';
import { clsx } from 'clsx';
import { positionsFor, type Plan, type Position, type SheetLayout } from '../../core/plans/index.ts';

/** While a step is dragged: the places where it may go, and no others. */
export function DropSpots({ plan, layout }: { plan: Plan; layout: SheetLayout }) {
  const { active } = useDndContext();
  if (!active) return null;
  return positionsFor(plan, String(active.id)).map((at) => {
    const spot = spotOf(at, layout);
    return spot && <Spot key={JSON.stringify(at)} at={at} {...spot} />;
  });
}

function spotOf(at: Position, layout: SheetLayout): { x: number; y: number } | undefined {
  if (at === 'start') return undefined;
  if ('into' in at) {
    const area = layout.areas.find((a) => a.from?.step === at.into && a.from.branch === at.branch);
    return area && { x: area.x + 156, y: area.rows[0]?.y ?? area.y };
  }
  const mark = layout.marks.find((m) => m.step === ('after' in at ? at.after : at.before));
  return mark && { x: 'after' in at ? mark.x + mark.width + (mark.lock ? 12 : 0) : mark.x - 16, y: mark.y };
}

function Spot({ at, x, y }: { at: Position; x: number; y: number }) {
  const { setNodeRef, isOver } = useDroppable({ id: JSON.stringify(at) });
  return (
    <div
      ref={setNodeRef}
      aria-hidden
      data-over={isOver || undefined}
      className={clsx('absolute z-20 w-4 rounded border border-dashed border-sea', isOver ? 'bg-sea' : 'bg-sea-wash')}
      style={{ left: x, top: y + 4, height: 36 }}
    />
  );
}
