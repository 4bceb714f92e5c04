import { clsx } from 'clsx';
import { Link, NavLink, Outlet, useParams } from 'react-router';
import { tasksFor } from '../../../server/tasks/queries.ts';
import { ButtonLink } from '~/ui/button';
import { Empty } from '~/ui/frame';
import { Mark } from '~/ui/mark';
import { useNow } from '~/ui/now';
import { Time } from '~/ui/time';
import { anId, asked, cursorIn, signedIn } from '../session.server';
import type { Route } from './+types/tasks';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Tasks · Desk · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const which = asked(request, 'whose') === 'mine' ? 'mine' : 'all';
  const after = cursorIn(request, anId);
  return { which, ...(await tasksFor(signedIn(context, request), which, after && { dueAt: after.at, id: after.id })) };
}

export default function Tasks({ loaderData: { which, rows, next } }: Route.ComponentProps) {
  const open = useParams()['id'] !== undefined;
  const { now } = useNow();
  const whose = which === 'mine' ? '?whose=mine' : '';
  return (
    <div className={clsx('grid gap-8', open && 'lg:grid-cols-[300px_minmax(0,1fr)]')}>
      <div className={clsx('min-w-0', open ? 'hidden lg:block' : 'max-w-3xl')}>
        <h1 className="mb-2 font-serif text-2xl">Tasks</h1>
        <nav aria-label="Whose tasks" className="mb-4 flex gap-4 text-sm">
          {[
            ['all', 'Mine and my teams’', '?'],
            ['mine', 'Only mine', '?whose=mine'],
          ].map(([key, words, to]) => (
            <Link
              key={key}
              to={to!}
              aria-current={key === which ? 'page' : undefined}
              className={key === which ? 'font-medium' : 'text-sea underline underline-offset-4'}
            >
              {words}
            </Link>
          ))}
        </nav>
        {rows.length === 0 && (
          <Empty>
            {which === 'mine'
              ? 'No task is yours. Take one of your teams’, or wait for one to come by mail.'
              : 'Nothing is to be done. Tasks of yours and of your teams stand here, the one due first on top.'}
          </Empty>
        )}
        <ul className="border-t">
          {rows.map((t) => {
            const late = t.dueAt !== null && t.dueAt < now;
            return (
              <li key={t.id} className="border-b">
                <NavLink
                  to={`/desk/tasks/${t.id}${whose}`}
                  className={({ isActive }) =>
                    clsx('block border-l-3 py-2.5 pl-3', isActive ? 'border-sea bg-sea-wash' : 'border-transparent hover:text-sea')
                  }
                >
                  <span className="flex items-center gap-2">
                    <Mark kind={late ? 'failed' : t.mine ? 'half' : 'empty'} /> <span className="min-w-0 truncate font-medium">{t.name}</span>
                    <span className="numbers ml-auto shrink-0 text-sm text-faint">R-{t.number}</span>
                  </span>
                  <span className="block truncate">
                    {t.item}, for {t.requester}
                  </span>
                  <span className={clsx('block text-sm', late ? 'text-coral' : 'text-faint')}>
                    {t.mine ? 'yours' : t.takenBy ? `${t.takenBy} has it` : t.team ? `${t.team}, not taken` : ''}
                    {t.dueAt && (
                      <>
                        {' · '}
                        {late ? 'late, was due ' : 'due '}
                        <Time at={t.dueAt} relative />
                      </>
                    )}
                  </span>
                </NavLink>
              </li>
            );
          })}
        </ul>
        {next && (
          <p className="mt-4">
            <ButtonLink to={`?${which === 'mine' ? 'whose=mine&' : ''}after=${next}`}>Next tasks</ButtonLink>
          </p>
        )}
      </div>
      <Outlet />
    </div>
  );
}
