import { clsx } from 'clsx';
import { minutesShort } from '../../core/calendar/index.ts';
import type { StepFacts } from '../../core/plans/index.ts';
import type { Shape } from '~/steps/look';

const framed: Partial<Record<Shape, string>> = {
  gate: 'rounded-t border-ochre bg-ochre-wash',
  task: 'rounded border-sea bg-sea-wash',
  question: 'rounded border-dashed border-ochre bg-ochre-wash',
  call: 'rounded-full border-violet bg-violet-wash',
};
const signs: Partial<Record<Shape, { path: string; colour: string; hollow?: boolean }>> = {
  message: { path: 'M3 2.5 11.5 7 3 11.5z', colour: 'text-sea' },
  letter: { path: 'M3 1.5H8.5L11.5 4.5V12.5H3zM5 6.5H9.5M5 9H9.5', colour: 'text-violet', hollow: true },
  meeting: { path: 'M2 3.5H12V12H2zM2 6.5H12M4.5 1.5V4.5M9.5 1.5V4.5', colour: 'text-sea', hollow: true },
  milestone: { path: 'M7 1 13 7 7 13 1 7z', colour: 'text-moss' },
  wait: { path: 'M4 2.5H6V11.5H4z', colour: 'text-faint' },
  reckoning: { path: 'M3 5.5H11M3 8.5H11', colour: 'text-faint', hollow: true },
  end: { path: 'M7 2A5 5 0 1 1 6.99 2zM7 5A2 2 0 1 1 6.99 5z', colour: 'text-ink' },
};

/** The mark of a step in the column of who acts, with its expected time and a word or two beside it. */
export function SheetMark({ shape, facts, narrow }: { shape: Shape; facts: StepFacts; narrow: boolean }) {
  const time = facts.minutes > 0 ? minutesShort(facts.minutes) : '';
  const frame = framed[shape];
  const sign = signs[shape];
  return (
    // What does not fit beside the mark wraps out of sight.
    <span className="flex h-5 min-w-0 flex-wrap items-center gap-x-1.5 overflow-hidden">
      {frame && (
        <span
          className={clsx(
            'numbers inline-flex h-5 min-w-6 shrink-0 items-center justify-center border',
            // Hours and minutes stand whole in a narrow column, too.
            narrow ? 'px-px text-xs tracking-tight' : 'px-1 text-sm',
            frame,
            facts.critical && 'border-b-3',
          )}
        >
          {time}
        </span>
      )}
      {sign && (
        <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden className={clsx('shrink-0', sign.colour)} stroke="currentColor" strokeWidth="1.5">
          <path d={sign.path} fill={sign.hollow ? 'none' : 'currentColor'} fillRule="evenodd" stroke={sign.hollow ? 'currentColor' : 'none'} />
        </svg>
      )}
      {sign && time && <span className="numbers shrink-0 text-sm">{time}</span>}
      {!narrow && facts.brief && (
        <span className="h-5 text-xs leading-5 whitespace-nowrap text-faint" data-tip={facts.brief}>
          {facts.brief}
        </span>
      )}
    </span>
  );
}
