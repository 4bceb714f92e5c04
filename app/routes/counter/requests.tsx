import { Link } from 'react-router';
import { myRequests } from '../../../server/requests/queries.ts';
import { ButtonLink } from '~/ui/button';
import { Empty } from '~/ui/frame';
import { Live } from '~/ui/live';
import { RequestState } from '~/ui/state-mark';
import { standingWords } from '~/ui/standing';
import { Time } from '~/ui/time';
import { asked, numberIn, signedIn } from '../session.server';
import type { Route } from './+types/requests';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'My requests · Counter · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const before = numberIn(asked(request, 'before')) || undefined;
  return { ...(await myRequests(signedIn(context, request), before)), before };
}

export default function Requests({ loaderData: { rows, next, before } }: Route.ComponentProps) {
  return (
    <div className="max-w-4xl">
      <div className="mb-4 flex items-baseline gap-3">
        <h1 className="font-serif text-2xl">My requests</h1>
        <Live />
      </div>
      {rows.length === 0 ? (
        <Empty act={<ButtonLink to="/counter">Ask for something</ButtonLink>}>
          {before
            ? 'There are no older requests.'
            : 'What you ask for stands here, with where it is and who has it. You have not asked for anything yet.'}
        </Empty>
      ) : (
        <ul className="border-t">
          {rows.map((r) => (
            <li key={r.number} className="border-b">
              <Link to={`/counter/requests/${r.number}`} className="group grid gap-x-6 gap-y-1 py-3 sm:grid-cols-[minmax(0,1fr)_auto]">
                <span>
                  <span className="font-serif text-lg group-hover:text-sea">{r.item}</span>{' '}
                  <span className="numbers ml-2 text-sm text-faint">R-{r.number}</span>
                  <span className="block text-sm text-faint">{[r.beside, r.standing && standingWords(r.standing)].filter(Boolean).join(' · ')}</span>
                </span>
                <span className="flex items-center gap-4 sm:flex-col sm:items-end sm:gap-1">
                  <RequestState outcome={r.outcome} stuck={r.standing?.stuck} />
                  <span className="text-faint">
                    <Time at={r.endedAt ?? r.openedAt} relative />
                  </span>
                </span>
              </Link>
            </li>
          ))}
        </ul>
      )}
      {next && (
        <p className="mt-4">
          <ButtonLink to={`?before=${next}`}>Older requests</ButtonLink>
        </p>
      )}
    </div>
  );
}
