/** Our marks for states. Each stands beside its word; colour never speaks alone. */
export type StateMarkKind = 'empty' | 'half' | 'held' | 'done' | 'declined' | 'lapsed' | 'failed';

const colours: Record<StateMarkKind, string> = {
  empty: 'text-faint',
  half: 'text-ochre',
  held: 'text-ochre',
  done: 'text-moss',
  declined: 'text-coral',
  lapsed: 'text-coral',
  failed: 'text-coral',
};

export function StateMark({ kind, size = 14 }: { kind: StateMarkKind; size?: number }) {
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 14 14"
      aria-hidden
      className={`inline-block shrink-0 ${colours[kind]}`}
      fill="none"
      stroke="currentColor"
      strokeWidth="1.6"
    >
      {kind === 'empty' && <circle cx="7" cy="7" r="5" />}
      {kind === 'half' && (
        <>
          <circle cx="7" cy="7" r="5" />
          <path d="M7 2a5 5 0 0 1 0 10z" fill="currentColor" stroke="none" />
        </>
      )}
      {kind === 'held' && <path d="M2 7h10" strokeWidth="3.5" />}
      {kind === 'done' && <path d="m2 7.5 3.3 3.5L12 3" strokeWidth="2" />}
      {kind === 'declined' && <path d="m3 3 8 8M11 3l-8 8" strokeWidth="2" />}
      {kind === 'lapsed' && <circle cx="7" cy="7" r="5" strokeDasharray="5 3" />}
      {kind === 'failed' && <path d="M7 2 12.5 12h-11z" />}
    </svg>
  );
}

type Outcome = 'fulfilled' | 'declined' | 'withdrawn' | 'lapsed' | 'failed';
const outcomes: Record<Outcome, { kind: StateMarkKind; word: string }> = {
  fulfilled: { kind: 'done', word: 'Fulfilled' },
  declined: { kind: 'declined', word: 'Declined' },
  withdrawn: { kind: 'empty', word: 'Withdrawn' },
  lapsed: { kind: 'lapsed', word: 'Lapsed' },
  failed: { kind: 'failed', word: 'Failed' },
};

/** Where a request stands, as mark and word. */
export function RequestState({ outcome, stuck = false }: { outcome: Outcome | null; stuck?: boolean | undefined }) {
  const { kind, word } = outcome
    ? outcomes[outcome]
    : stuck
      ? { kind: 'failed' as const, word: 'Stuck' }
      : { kind: 'half' as const, word: 'Under way' };
  return (
    <span className="inline-flex items-center gap-1.5 whitespace-nowrap">
      <StateMark kind={kind} /> {word}
    </span>
  );
}
