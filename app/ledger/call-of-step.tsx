import type { trace } from '../../server/runs/queries.ts';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';
import { More } from './more';

type Trace = Extract<NonNullable<Awaited<ReturnType<typeof trace>>>, { sealed: false }>;
type Call = Trace['steps'][number]['calls'][number];

const statusWords: Record<Call['status'], string> = {
  waiting: 'not answered yet',
  accepted: 'accepted, to be answered later',
  succeeded: 'done',
  failed: 'failed',
  late: 'not answered in time',
  cancelled: 'not needed any more',
};
const howWords: Record<Call['tries'][number]['how'], string> = { sent: 'Sent', asked: 'Asked', calledBack: 'Called back' };

/** What a step asked of a system: each time it was sent, asked about or called back, and what was said. */
export function CallOfStep({ call: c }: { call: Call }) {
  const times = c.tries.length === 1 ? 'one exchange' : `${c.tries.length} exchanges`;
  return (
    <>
      {c.status === 'accepted' && c.progress && (
        <p className="mt-1 flex items-center gap-2 text-sm text-violet">
          <StateMark kind="half" size={12} /> {c.progress}
        </p>
      )}
      {c.wordsTrouble && (
        <p className="mt-1 flex items-center gap-2 text-sm text-coral">
          <StateMark kind="failed" size={12} /> What is said with it: {c.wordsTrouble}
        </p>
      )}
      <More summary={`${c.action} · ${statusWords[c.status]}, ${times}`} colour="text-violet">
        <p className="font-mono text-xs break-all text-faint">Idempotency key {c.idempotencyKey}</p>
        <ol>
          {c.tries.map((t) => (
            <li key={t.n}>
              <span className="numbers">{t.n}.</span> <Time at={t.beganAt} seconds /> {howWords[t.how]}: {t.said}{' '}
              <span className="numbers text-faint">{new Date(t.endedAt).getTime() - new Date(t.beganAt).getTime()} ms</span>
            </li>
          ))}
        </ol>
        {c.note && (
          <p>
            Sealed note for {c.note.who} ({c.note.labels.join(', ')}):{' '}
            {c.note.openedAt ? (
              <>
                opened by {c.note.by}, <Time at={c.note.openedAt} seconds />
              </>
            ) : (
              'not opened'
            )}
          </p>
        )}
        {c.isOpen && (
          <p>
            {c.acceptedAt ? 'Looked after again' : 'Next try'} <Time at={c.dueAt} seconds />
            {c.status === 'accepted' && c.answerBy && (
              <>
                , late after <Time at={c.answerBy} />
              </>
            )}
          </p>
        )}
      </More>
    </>
  );
}
