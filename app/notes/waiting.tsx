import { KeyRound } from 'lucide-react';
import { Link } from 'react-router';
import type { notesWaiting } from '../../server/notes/queries.ts';
import { noteWords } from './note-words';
import { Time } from '~/ui/time';

type Waiting = Awaited<ReturnType<typeof notesWaiting>>;

/** The sealed notes that wait for whoever reads this, each with how long it still opens. */
export function NotesWaiting({ notes, request = false }: { notes: Waiting; request?: boolean }) {
  if (notes.length === 0) return null;
  return (
    <section aria-label="Sealed notes" className="my-4 border-l-3 border-violet bg-violet-wash px-3 py-2">
      <h2 className="sr-only">Sealed notes</h2>
      <ul className="space-y-1">
        {notes.map((n) => (
          <li key={n.id} className="flex flex-wrap items-baseline gap-x-2">
            <KeyRound size={14} aria-hidden className="self-center text-violet" />
            <Link to={`/counter/notes/${n.id}`} className="text-sea underline underline-offset-4">
              Sealed note: {noteWords(n.labels)}
              {!n.isMine && ` for ${n.who}`}
            </Link>
            <span className="text-sm text-faint">
              {!request && (
                <>
                  from {n.item}, <span className="numbers">R-{n.number}</span>,{' '}
                </>
              )}
              opens until <Time at={n.openUntil} />
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
