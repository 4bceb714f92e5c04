import { Link } from 'react-router';
import { mayReadLog } from '../../../server/changes/queries.ts';
import { mayReadLedger, runs, type LedgerFilter } from '../../../server/runs/queries.ts';
import { ButtonLink } from '~/ui/button';
import { Empty, Frame } from '~/ui/frame';
import { RequestState } from '~/ui/mark';
import { standingWords } from '~/ui/standing';
import { elapsed, Time } from '~/ui/time';
import { asked, found, numberIn, signedIn } from '../session.server';
import type { Route } from './+types/runs';
import { clsx } from 'clsx';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Ledger · Nessmoor' }];

const filters: Record<LedgerFilter, string> = {
  all: 'All requests',
  open: 'Under way',
  stuck: 'Stuck',
  fulfilled: 'Fulfilled',
  declined: 'Declined',
  withdrawn: 'Withdrawn',
  lapsed: 'Lapsed',
  failed: 'Failed',
};

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const wanted = asked(request, 'show');
  const filter = (Object.hasOwn(filters, wanted) ? wanted : 'all') as LedgerFilter;
  found(mayReadLedger(viewer) ? true : undefined, 'The Ledger');
  const page = found(await runs(viewer, filter, numberIn(asked(request, 'before')) || undefined), 'The Ledger');
  return { ...page, filter, log: mayReadLog(viewer) };
}

export default function Runs({ loaderData: { rows, next, filter, log } }: Route.ComponentProps) {
  return (
    <Frame
      marginLabel="Requests by state"
      margin={
        <div className="flex flex-wrap py-2 md:block md:py-4">
          {Object.entries(filters).map(([key, label]) => (
            <Link
              key={key}
              to={key === 'all' ? '/ledger' : `?show=${key}`}
              aria-current={key === filter ? 'page' : undefined}
              className={clsx(
                'block border-l-3 px-4 py-1.5 hover:text-sea',
                key === filter ? 'border-sea bg-sea-wash font-medium' : 'border-transparent',
              )}
            >
              {label}
            </Link>
          ))}
        </div>
      }
    >
      <div className="mb-4 flex items-baseline gap-4">
        <h1 className="font-serif text-2xl">{filters[filter]}</h1>
        {log && (
          <Link to="/ledger/changes" className="ml-auto text-sea underline underline-offset-4">
            Log of changes
          </Link>
        )}
      </div>
      {rows.length === 0 ? (
        <Empty act={filter === 'all' ? undefined : <ButtonLink to="/ledger">All requests</ButtonLink>}>
          {filter === 'all' ? 'What was asked for stands here with its trace. Nothing has been asked yet.' : 'No request is in this state.'}
        </Empty>
      ) : (
        <div className="overflow-x-auto">
          <table className="w-full text-sm">
            <thead>
              <tr className="border-b text-left text-faint [&>th]:py-1.5 [&>th]:pr-4 [&>th]:font-normal">
                <th>Request</th>
                <th>Item</th>
                <th>Requester</th>
                <th>Opened</th>
                <th>State</th>
                <th>Took</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((r) => (
                <tr key={r.number} className="border-b align-top [&>td]:py-1.5 [&>td]:pr-4">
                  <td>
                    <Link to={`/ledger/${r.number}`} className="numbers text-sea underline underline-offset-4">
                      R-{r.number}
                    </Link>
                  </td>
                  <td>
                    {r.item} <span className="text-faint">rev. {r.revision}</span>
                  </td>
                  <td className="max-w-56 truncate" title={r.requester}>
                    {r.requester}
                  </td>
                  <td>
                    <Time at={r.openedAt} />
                  </td>
                  <td>
                    <RequestState outcome={r.outcome} stuck={r.standing?.stuck} />
                    {r.standing && (
                      <span className="block max-w-72 truncate text-faint" title={standingWords(r.standing)}>
                        {standingWords(r.standing)}
                      </span>
                    )}
                  </td>
                  <td className="numbers whitespace-nowrap">{r.endedAt ? elapsed(r.openedAt, r.endedAt) : ''}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {next && (
        <p className="mt-4">
          <ButtonLink to={`?${filter === 'all' ? '' : `show=${filter}&`}before=${next}`}>Older requests</ButtonLink>
        </p>
      )}
    </Frame>
  );
}
