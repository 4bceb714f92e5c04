import type { Standing, TideLine as Line } from '../../core/targets/index.ts';
import { TideLine } from './tide-line';
import { Time } from './time';

/** When something is promised, or that it is late; nothing is due while an answer is waited for. `waitsFor`: “you have”, “they have”. */
export function PromisedBy({ standing: s, waitsFor }: { standing: Standing; waitsFor: string }) {
  if (s.phase === 'held') return <span className="text-sm">, held until {waitsFor} answered</span>;
  return (
    <span className={s.late ? 'text-sm text-coral' : 'text-sm'}>
      {s.late ? ', late: promised by ' : ', promised by '}
      {s.due && <Time at={s.due} />}
    </span>
  );
}

/** What is promised of a request as a whole: the tide line, and by when, or whether it was kept. */
export function PromiseLine({ standing, tide, ended, waitsFor }: { standing: Standing; tide: Line; ended: boolean; waitsFor: string }) {
  const kept = standing.late ? 'It took longer than promised.' : 'In the promised time.';
  return (
    <div className="my-3 max-w-md">
      <TideLine standing={standing} tide={tide} large />
      <p className="text-sm text-faint">
        {ended ? (
          kept
        ) : (
          <>
            All of it
            <PromisedBy standing={standing} waitsFor={waitsFor} />
          </>
        )}
      </p>
    </div>
  );
}
