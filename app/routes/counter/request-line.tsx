import { Link } from 'react-router';
import type { caseLines } from '../../../server/requests/queries.ts';
import type { myTickets } from '../../../server/tickets/queries.ts';
import { RequestState, StateMark } from '~/ui/state-mark';
import { standingWords } from '~/ui/standing';
import { Time } from '~/ui/time';

type Line = Awaited<ReturnType<typeof caseLines>>[number];

/** A request in a list: what it is, where it stands, and the order it was sent with. */
export function RequestLine({ r, ordered = false }: { r: Line; ordered?: boolean }) {
  return (
    <li className="border-b">
      <Link to={`/counter/requests/${r.number}`} className="group grid gap-x-6 gap-y-1 py-3 sm:grid-cols-[minmax(0,1fr)_auto]">
        <span>
          <span className="font-serif text-lg group-hover:text-sea">{r.item}</span>{' '}
          <span className="numbers ml-2 text-sm text-faint">R-{r.number}</span>
          <span className="block text-sm text-faint">
            {[r.beside, ordered && r.order && `of order R-${r.order}`, r.standing && standingWords(r.standing)].filter(Boolean).join(' · ')}
          </span>
        </span>
        <span className="flex items-center gap-4 sm:flex-col sm:items-end sm:gap-1">
          <RequestState outcome={r.outcome} stuck={r.standing?.stuck} />
          <span className="text-faint">
            <Time at={r.endedAt ?? r.openedAt} relative />
          </span>
        </span>
      </Link>
    </li>
  );
}

type Ticket = Awaited<ReturnType<typeof myTickets>>['rows'][number];

/** A ticket in the same list: what was reported, and where it stands in words for whoever did. */
export function TicketLine({ t }: { t: Ticket }) {
  return (
    <li className="border-b">
      <Link to={`/counter/tickets/${t.number}`} className="group grid gap-x-6 gap-y-1 py-3 sm:grid-cols-[minmax(0,1fr)_auto]">
        <span>
          <span className="font-serif text-lg group-hover:text-sea">{t.subject}</span>{' '}
          <span className="numbers ml-2 text-sm text-faint">T-{t.number}</span>
          <span className="block text-sm text-faint">{t.kind}</span>
        </span>
        <span className="flex items-center gap-4 sm:flex-col sm:items-end sm:gap-1">
          <span className="inline-flex items-center gap-1.5 whitespace-nowrap">
            <StateMark kind={t.asked ? 'held' : t.endedAt ? 'done' : 'half'} /> {t.words}
          </span>
          <span className="text-faint">
            <Time at={t.endedAt ?? t.openedAt} relative />
          </span>
        </span>
      </Link>
    </li>
  );
}
