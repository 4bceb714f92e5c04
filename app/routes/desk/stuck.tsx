import { lists, writeAsked } from '../../../core/lists/index.ts';
import { stuckCount, stuckSteps } from '../../../server/runs/stuck.ts';
import { ButtonLink } from '~/ui/button';
import { Empty, ListSheet } from '~/ui/frame';
import { addressOf } from '~/ui/list/address';
import { ListBar } from '~/ui/list/bar';
import { ListTable, type Cell } from '~/ui/list/table';
import { usePages } from '~/ui/list/use-pages';
import { Mark } from '~/ui/mark';
import { Time } from '~/ui/time';
import { listFor } from '../list.server';
import { found, signedIn } from '../session.server';
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
  return found(page, 'This list');
}

type Row = Route.ComponentProps['loaderData']['list']['rows'][number];

const cells: Record<string, Cell<Row>> = {
  request: { width: 76, of: (r) => <span className="numbers">R-{r.number}</span> },
  step: {
    width: 220,
    grows: true,
    of: (r) => (
      <span className="flex items-center gap-1.5 font-medium">
        <Mark kind="failed" size={12} />
        <span className="min-w-0 truncate" title={r.name}>
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

export default function Stuck({ loaderData: { asked, list, named, count } }: Route.ComponentProps) {
  const said = writeAsked(lists.stuck, asked);
  const pages = usePages<Row>(list, '/desk/stuck', said);
  const { rows } = pages;
  return (
    <ListSheet>
      <ListBar
        title="Stuck steps"
        name="stuck"
        shape={lists.stuck}
        asked={asked}
        named={named}
        count={count}
        exportTo="/export/stuck"
        live={{ hold: pages.further }}
      />
      <p className="pb-2 text-faint">
        A step that failed beyond its retries waits here; the request itself is not lost. Open one to try it again, skip it or take it over.
      </p>
      {rows.length === 0 ? (
        <Empty act={said ? <ButtonLink to="/desk/stuck">Show all stuck steps</ButtonLink> : undefined}>
          {said ? 'No stuck step is like that.' : 'No step is stuck.'}
        </Empty>
      ) : (
        <ListTable
          shape={lists.stuck}
          asked={asked}
          name="stuck"
          label="Stuck steps"
          rows={rows}
          cells={cells}
          keyOf={keyOf}
          hrefOf={hrefOf}
          wordsOf={wordsOf}
          {...(pages.next !== undefined && {
            more: { read: pages.read, loading: pages.loading, to: addressOf('/desk/stuck', said, `after=${pages.next}`) },
          })}
        />
      )}
    </ListSheet>
  );
}
