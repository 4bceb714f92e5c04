import { Link } from 'react-router';
import { movingWords } from '../../../core/groups/index.ts';
import { groupsFor, seesGroups } from '../../../server/groups/queries.ts';
import { Empty, Page } from '~/ui/frame';
import { StateMark } from '~/ui/state-mark';
import { orNotFound, signedIn } from '../session.server';
import type { Route } from './+types/groups';

export { TroubleOnPage as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Groups · Desk · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  return { groups: orNotFound((await seesGroups(viewer)) ? await groupsFor(viewer) : undefined, 'This page') };
}

export default function Groups({ loaderData: { groups } }: Route.ComponentProps) {
  return (
    <Page>
      <div className="max-w-3xl">
        <h1 className="mb-1 font-serif text-2xl">Groups</h1>
        <p className="mb-4 text-faint">
          Whoever owns a group can say who is in it by itself: as long as somebody works where and as what it says, they are in it, and then no more.
        </p>
        {groups.length === 0 && <Empty>No group has a condition for its members yet. Whoever owns one says so here.</Empty>}
        <ul aria-label="Groups" className={groups.length > 0 ? 'border-t' : 'hidden'}>
          {groups.map((g) => (
            <li key={g.id} className="grid gap-x-6 border-b py-2 sm:grid-cols-[minmax(0,2fr)_minmax(0,3fr)]">
              <div className="min-w-0">
                <Link to={`/desk/groups/${g.id}`} className="font-medium break-words hover:text-sea">
                  {g.name}
                </Link>
                <span className="numbers ml-2 text-sm text-faint">
                  {g.members.toLocaleString('en')}
                  <span className="sr-only"> in it</span>
                </span>
                {g.purpose && <p className="text-sm text-faint">{g.purpose}</p>}
              </div>
              <div className="min-w-0 break-words">
                {g.condition === undefined ? <span className="text-faint">Nobody by itself</span> : `By itself: ${g.condition}`}
                {g.held && (
                  <p className="flex items-center gap-2 text-sm text-ochre">
                    <StateMark kind="held" size={12} /> Waits for a word: {movingWords(g.held)}
                  </p>
                )}
              </div>
            </li>
          ))}
        </ul>
      </div>
    </Page>
  );
}
