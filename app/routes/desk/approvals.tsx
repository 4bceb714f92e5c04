import { Link, NavLink, Outlet, useParams } from 'react-router';
import { clsx } from 'clsx';
import { approvalsFor } from '../../../server/approvals/queries.ts';
import { ButtonLink } from '~/ui/button';
import { Empty } from '~/ui/frame';
import { Mark } from '~/ui/mark';
import { Time } from '~/ui/time';
import { anId, cursorIn, signedIn } from '../session.server';
import type { Route } from './+types/approvals';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Approvals for me · Desk · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const after = cursorIn(request, anId);
  return approvalsFor(viewer, after && { askedAt: after.at, id: after.id });
}

const decidedWord = { approved: 'You approved', declined: 'You declined', released: 'No longer needed', waiting: '', later: '' };

export default function Approvals({ loaderData: { waiting, decided, next } }: Route.ComponentProps) {
  const open = useParams()['id'] !== undefined;
  return (
    <div className={clsx('grid gap-8', open && 'lg:grid-cols-[300px_minmax(0,1fr)]')}>
      <div className={clsx('min-w-0', open ? 'hidden lg:block' : 'max-w-3xl')}>
        <h1 className="mb-4 font-serif text-2xl">Approvals for me</h1>
        {waiting.length === 0 && (
          <Empty>Nothing waits for your decision. When somebody asks for something you must agree to, it stands here and comes by mail.</Empty>
        )}
        <ul className="border-t">
          {waiting.map((a) => (
            <li key={a.id} className="border-b">
              <NavLink
                to={`/desk/approvals/${a.id}`}
                className={({ isActive }) =>
                  clsx('block border-l-3 py-2.5 pl-3', isActive ? 'border-ochre bg-ochre-wash' : 'border-transparent hover:text-sea')
                }
              >
                <span className="flex items-center gap-2">
                  <Mark kind="half" /> <span className="font-medium">{a.item}</span>{' '}
                  <span className="numbers ml-auto text-sm text-faint">R-{a.number}</span>
                </span>
                <span className="block truncate">{a.requester}</span>
                <span className="block text-sm text-faint">
                  {a.gate}, asked <Time at={a.askedAt} relative />
                </span>
              </NavLink>
            </li>
          ))}
        </ul>
        {next && (
          <p className="mt-4">
            <ButtonLink to={`?after=${next}`}>Next approvals</ButtonLink>
          </p>
        )}
        {decided.length > 0 && (
          <>
            <h2 className="mt-8 mb-2 text-sm text-faint">Lately</h2>
            <ul className="border-t text-sm">
              {decided.map((a) => (
                <li key={a.id} className="border-b">
                  <Link to={`/desk/approvals/${a.id}`} className="flex items-center gap-2 py-1.5 hover:text-sea">
                    <Mark kind={a.status === 'approved' ? 'done' : a.status === 'declined' ? 'declined' : 'empty'} size={12} />
                    <span className="min-w-0 truncate">
                      {decidedWord[a.status]}: {a.item}, {a.requester}
                    </span>
                    <span className="numbers ml-auto text-faint">R-{a.number}</span>
                  </Link>
                </li>
              ))}
            </ul>
          </>
        )}
      </div>
      <Outlet />
    </div>
  );
}
