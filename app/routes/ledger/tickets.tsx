import { ticketList, ticketListCount } from '../../../server/tickets/list.ts';
import { LedgerSheet } from '~/ledger/ledger-sheet';
import type { Cell } from '~/ui/list/table';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';
import { listFor } from '../list.server';
import { orNotFound, signedIn } from '../session.server';
import type { Route } from './+types/tickets';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Tickets · Ledger · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const page = await listFor(
    viewer,
    request,
    'tickets',
    (asked) => ticketList(viewer, asked),
    (asked) => ticketListCount(viewer, asked),
  );
  return orNotFound(page, 'The Ledger');
}

type Row = Route.ComponentProps['loaderData']['list']['rows'][number];

const marks = { runs: 'half', answers: 'half', holds: 'held', ends: 'done' } as const;
const line = (words: string | null) =>
  words && (
    <span className="block truncate" data-tip={words}>
      {words}
    </span>
  );

const cells: Record<string, Cell<Row>> = {
  ticket: { width: 80, of: (r) => <span className="numbers">T-{r.number}</span> },
  subject: {
    width: 260,
    grows: true,
    of: (r) => (
      <span className="block truncate font-medium" data-tip={r.subject}>
        {r.subject}
      </span>
    ),
    under: (r) => [r.kind, r.category, r.priority].filter(Boolean).join(' · '),
  },
  requester: { width: 150, of: (r) => line(r.requester) },
  opened: { width: 156, wide: true, of: (r) => <Time at={r.openedAt} /> },
  status: {
    width: 150,
    of: (r) => (
      <span className="flex items-center gap-1.5">
        <StateMark kind={marks[r.clock]} size={12} /> {r.joined ? 'In another' : r.status}
      </span>
    ),
    under: (r) => r.holder ?? '',
  },
  ended: { width: 156, wide: true, of: (r) => r.endedAt && <Time at={r.endedAt} /> },
  promise: {
    width: 80,
    of: (r) => r.kept !== undefined && <span className={r.kept ? 'text-moss' : 'text-coral'}>{r.kept ? 'kept' : 'broken'}</span>,
  },
  team: { width: 150, wide: true, of: (r) => line(r.team) },
  place: { width: 140, wide: true, of: (r) => line(r.place) },
  helped: { width: 72, wide: true, of: (r) => (r.helped === null ? '' : r.helped ? 'yes' : 'no') },
};

const keyOf = (r: Row) => String(r.number);
const hrefOf = (r: Row) => `/desk/queue/tickets/${r.number}`;
const wordsOf = (r: Row) => `T-${r.number}, ${r.subject}, ${r.requester}`;

export default function Tickets({ loaderData }: Route.ComponentProps) {
  return (
    <LedgerSheet
      name="tickets"
      views={loaderData.views}
      of={loaderData}
      cells={cells}
      keyOf={keyOf}
      hrefOf={hrefOf}
      wordsOf={wordsOf}
      empty="What was reported stands here, open and ended. Nothing has been reported yet."
      nothing="No ticket is like that."
    />
  );
}
