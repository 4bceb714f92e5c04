import { stuckCount, stuckSteps } from '../../../server/runs/stuck.ts';
import { ListSheet } from '~/ui/frame';
import { List } from '~/ui/list/list';
import type { Cell } from '~/ui/list/table';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';
import { listFor } from '../list.server';
import { orNotFound, signedIn } from '../session.server';
import type { Route } from './+types/stuck';

export { TroubleOnPage as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Stuck steps · Desk · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const page = await listFor(
    viewer,
    request,
    'stuck',
    (asked) => stuckSteps(viewer, asked),
    (asked) => stuckCount(viewer, asked),
  );
  return orNotFound(page, 'This list');
}

type Row = Route.ComponentProps['loaderData']['list']['rows'][number];

const cells: Record<string, Cell<Row>> = {
  request: { width: 76, of: (r) => <span className="numbers">R-{r.number}</span> },
  step: {
    width: 220,
    grows: true,
    of: (r) => (
      <span className="flex items-center gap-1.5 font-medium">
        <StateMark kind="failed" size={12} />
        <span className="min-w-0 truncate" data-tip={r.name}>
          {r.name}
        </span>
      </span>
    ),
    under: (r) => `${r.item}, ${r.requester}`,
  },
  cause: { width: 320, grows: true, of: (r) => <span className="wrap-anywhere">{r.cause ?? 'The cause is confidential, as the request is.'}</span> },
  since: { width: 110, of: (r) => <Time at={r.since} relative /> },
};

const keyOf = (r: Row) => `${r.number} ${r.key}`;
const hrefOf = (r: Row) => `/ledger/${r.number}#${encodeURIComponent(r.key)}`;
const wordsOf = (r: Row) => `R-${r.number}, ${r.name}`;

export default function Stuck({ loaderData }: Route.ComponentProps) {
  return (
    <ListSheet>
      <List
        name="stuck"
        path="/desk/stuck"
        title="Stuck steps"
        of={loaderData}
        cells={cells}
        keyOf={keyOf}
        hrefOf={hrefOf}
        wordsOf={wordsOf}
        lead="A step that failed beyond its retries waits here; the request itself is not lost. Open one to try it again, skip it or take it over."
        empty="No step is stuck."
        nothing="No stuck step is like that."
        live
      />
    </ListSheet>
  );
}
