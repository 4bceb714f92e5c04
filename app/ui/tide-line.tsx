import { clsx } from 'clsx';
import { standingWords, type Standing, type TideLine as Line } from '../../core/targets/index.ts';

const tones: Record<Line['tone'], string> = { calm: 'bg-sea', warned: 'bg-ochre', late: 'bg-coral' };
const share = (n: number): string => `${(n * 100).toFixed(2)}%`;

/**
 * The tide line: working time used against what was promised, held time hatched, a tick where the desk is warned, a mark where the promise
 * ends. Read aloud it is a sentence.
 */
export function TideLine({ standing, tide, large = false }: { standing: Standing; tide: Line; large?: boolean }) {
  const words = standingWords(standing);
  return (
    <span role="img" aria-label={words} data-tip={words} className={clsx('relative block w-full', large ? 'h-4' : 'h-3.5')}>
      <span className="absolute inset-x-0 bottom-[3px] border-b" />
      {tide.stretches.map((s, i) => (
        <span
          key={i}
          className={clsx('absolute bottom-[3px] h-[7px]', s.is === 'held' ? 'hatched text-faint' : tones[tide.tone])}
          style={{ left: share(s.from), width: share(s.to - s.from) }}
        />
      ))}
      <span className="absolute bottom-0 h-[6px] border-l border-ink" style={{ left: share(tide.warn) }} />
      <span className={clsx('absolute bottom-0 border-l-2 border-ink', large ? 'h-4' : 'h-[13px]')} style={{ left: share(tide.end) }} />
    </span>
  );
}
