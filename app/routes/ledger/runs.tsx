import { mayReadLog } from '../../../server/changes/queries.ts';
import { ledger, ledgerCount } from '../../../server/runs/ledger.ts';
import { LedgerSheet } from '~/ledger/ledger-sheet';
import type { Cell } from '~/ui/list/table';
import { RequestState } from '~/ui/state-mark';
import { standingWords } from '~/ui/standing';
import { TideLine } from '~/ui/tide-line';
import { elapsed, Time } from '~/ui/time';
import { listFor } from '../list.server';
import { orNotFound, signedIn } from '../session.server';
import type { Route } from './+types/runs';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Ledger · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const page = await listFor(
    viewer,
    request,
    'ledger',
    (asked) => ledger(viewer, asked),
    (asked) => ledgerCount(viewer, asked),
  );
  return { ...orNotFound(page, 'The Ledger'), log: mayReadLog(viewer) };
}

type Row = Route.ComponentProps['loaderData']['list']['rows'][number];

const cells: Record<string, Cell<Row>> = {
  request: { width: 88, of: (r) => <span className="numbers">R-{r.number}</span> },
  item: {
    width: 140,
    grows: true,
    of: (r) => (
      <span className="block truncate font-medium" data-tip={r.item}>
        {r.item}
      </span>
    ),
  },
  requester: {
    width: 124,
    grows: true,
    of: (r) => (
      <span className="block truncate" data-tip={r.requester}>
        {r.requester}
      </span>
    ),
  },
  opened: { width: 156, wide: true, of: (r) => <Time at={r.openedAt} /> },
  state: {
    width: 164,
    grows: true,
    of: (r) => <RequestState outcome={r.outcome} stuck={r.standing?.stuck} />,
    under: (r) => r.standing && standingWords(r.standing),
  },
  ended: { width: 156, wide: true, of: (r) => r.endedAt && <Time at={r.endedAt} /> },
  took: { width: 104, wide: true, of: (r) => <span className="numbers">{r.endedAt ? elapsed(r.openedAt, r.endedAt) : ''}</span> },
  promise: { width: 104, wide: true, of: (r) => r.promised && <TideLine {...r.promised} /> },
  revision: { width: 72, wide: true, of: (r) => <span className="numbers">{r.revision}</span> },
  reason: {
    width: 240,
    of: (r) =>
      r.reason && (
        <span className="block truncate" data-tip={r.reason}>
          {r.reason}
        </span>
      ),
  },
};

const keyOf = (r: Row) => String(r.number);
const hrefOf = (r: Row) => `/ledger/${r.number}`;
const wordsOf = (r: Row) => `R-${r.number}, ${r.item}, ${r.requester}`;

export default function Runs({ loaderData }: Route.ComponentProps) {
  return (
    <LedgerSheet
      name="ledger"
      views={loaderData.views}
      log={loaderData.log}
      of={loaderData}
      cells={cells}
      keyOf={keyOf}
      hrefOf={hrefOf}
      wordsOf={wordsOf}
      empty="What was asked for stands here with its trace. Nothing has been asked yet."
      nothing="No request is like that."
    />
  );
}
