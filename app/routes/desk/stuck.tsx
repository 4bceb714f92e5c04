import { Link } from 'react-router';
import { ButtonLink } from '~/ui/button';
import { Empty } from '~/ui/frame';
import { Mark } from '~/ui/mark';
import { Time } from '~/ui/time';
import { cursorIn, found, signedIn } from '../session.server';
import type { Route } from './+types/stuck';
import { stuckSteps } from '../../../server/runs/stuck.ts';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Stuck steps · Desk · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const after = cursorIn(request, /^\d{1,15}$/);
  return found(await stuckSteps(signedIn(context, request), after && { since: after.at, order: Number(after.id) }), 'This list');
}

export default function Stuck({ loaderData: { rows, next } }: Route.ComponentProps) {
  return (
    <div className="max-w-4xl">
      <h1 className="mb-1 font-serif text-2xl">Stuck steps</h1>
      <p className="mb-4 text-faint">
        A step that failed beyond its retries waits here; the request itself is not lost. Open one to try it again, skip it or take it over.
      </p>
      {rows.length === 0 && <Empty>No step is stuck.</Empty>}
      <ul className="border-t">
        {rows.map((s) => (
          <li key={`${s.number} ${s.key}`} className="border-b">
            <Link to={`/ledger/${s.number}#${encodeURIComponent(s.key)}`} className="block py-2.5 hover:text-sea">
              <span className="flex items-center gap-2">
                <Mark kind="failed" /> <span className="font-medium">{s.name}</span>
                <span className="numbers ml-auto text-sm text-faint">R-{s.number}</span>
              </span>
              <span className="block pl-[22px]">{s.cause ?? 'The cause is confidential, as the request is.'}</span>
              <span className="block pl-[22px] text-sm text-faint">
                {s.item}, for {s.requester}, since <Time at={s.since} relative />
              </span>
            </Link>
          </li>
        ))}
      </ul>
      {next && (
        <p className="mt-4">
          <ButtonLink to={`?after=${next}`}>Next stuck steps</ButtonLink>
        </p>
      )}
    </div>
  );
}
