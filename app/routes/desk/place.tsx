import { Outlet, useLocation, useSearchParams } from 'react-router';
import { askedOf } from '../../../core/lists/index.ts';
import { approvalCount } from '../../../server/approvals/list.ts';
import { has } from '../../../server/auth/viewer.ts';
import { seesApart } from '../../../server/apart/queries.ts';
import { counterCount, seesStock } from '../../../server/equipment/queries.ts';
import { seesGroups } from '../../../server/groups/queries.ts';
import { ownsSystems } from '../../../server/consents/queries.ts';
import { countedTo } from '../../../server/lists/narrow.ts';
import { keptViews } from '../../../server/lists/views.ts';
import { stuckCount } from '../../../server/runs/stuck.ts';
import { myTables } from '../../../server/tables/queries.ts';
import { queueCount } from '../../../server/queue/list.ts';
import { MarginLine, Place } from '~/ui/frame';
import { KeptViews } from '~/ui/list/views';
import { signedIn } from '../session.server';
import type { Route } from './+types/place';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const [keepsStock, equipment, groups, apart, consents, all, mine, untaken, approvals, stuck, queueViews, approvalViews, kept] = await Promise.all([
    seesStock(viewer),
    counterCount(viewer),
    seesGroups(viewer),
    seesApart(viewer),
    ownsSystems(viewer),
    queueCount(viewer, askedOf('queue')),
    queueCount(viewer, askedOf('queue', 'whose=mine')),
    queueCount(viewer, askedOf('queue', 'whose=untaken')),
    approvalCount(viewer, askedOf('approvals')),
    stuckCount(viewer, askedOf('stuck')),
    keptViews(viewer, 'queue'),
    keptViews(viewer, 'approvals'),
    myTables(viewer),
  ]);
  const say = (n: number) => (n > countedTo ? `${countedTo}+` : String(n));
  return {
    groups,
    apart,
    keepsStock,
    equipment: say(equipment),
    consents,
    keeps: kept.length,
    aside: has(viewer, 'administrator'),
    mends: has(viewer, 'teamMember', 'administrator'),
    counts: { all: say(all), mine: say(mine), untaken: say(untaken), approvals: say(approvals), stuck: say(stuck) },
    queueViews,
    approvalViews,
  };
}

export default function Desk({
  loaderData: { groups, apart, keepsStock, equipment, consents, keeps, aside, mends, counts, queueViews, approvalViews },
}: Route.ComponentProps) {
  const { pathname } = useLocation();
  const [search] = useSearchParams();
  const queue = pathname.startsWith('/desk/queue');
  const approvals = pathname.startsWith('/desk/approvals');
  const whose = search.get('whose');
  const state = search.get('state');
  return (
    <Place
      marginLabel="Desk"
      margin={
        <>
          <div className="flex gap-1 py-2 md:block md:py-4">
            <MarginLine to="/desk/queue" here={queue && whose === null} count={counts.all}>
              My teams
            </MarginLine>
            <MarginLine to="/desk/queue?whose=mine" here={queue && whose === 'mine'} count={counts.mine}>
              Mine
            </MarginLine>
            <MarginLine to="/desk/queue?whose=untaken" here={queue && whose === 'untaken'} count={counts.untaken}>
              Not taken
            </MarginLine>
            <MarginLine to="/desk/approvals" here={approvals && state !== 'over'} count={counts.approvals}>
              Approvals for me
            </MarginLine>
            {mends && (
              <MarginLine to="/desk/stuck" here={pathname === '/desk/stuck'} count={counts.stuck}>
                Stuck steps
              </MarginLine>
            )}
            <MarginLine to="/desk/approvals?state=over" here={approvals && state === 'over'}>
              Answered by me
            </MarginLine>
            {consents && (
              <MarginLine to="/desk/consents" here={pathname === '/desk/consents'}>
                Consents
              </MarginLine>
            )}
            {keepsStock && (
              <MarginLine to="/desk/equipment" here={pathname.startsWith('/desk/equipment')} count={equipment}>
                Equipment
              </MarginLine>
            )}
            {groups && (
              <MarginLine to="/desk/groups" here={pathname.startsWith('/desk/groups')}>
                Groups
              </MarginLine>
            )}
            {apart && (
              <MarginLine to="/desk/apart" here={pathname === '/desk/apart'}>
                Kept apart
              </MarginLine>
            )}
            {keeps > 0 && (
              <MarginLine to="/desk/tables" here={pathname.startsWith('/desk/tables')} count={String(keeps)}>
                Tables I keep
              </MarginLine>
            )}
            {aside && (
              <MarginLine to="/desk/set-aside" here={pathname === '/desk/set-aside'}>
                Set aside
              </MarginLine>
            )}
          </div>
          <KeptViews list="queue" views={queueViews} to={(asked) => `/desk/queue?${asked}`} title="Kept views of the queue" />
          <KeptViews list="approvals" views={approvalViews} to={(asked) => `/desk/approvals?${asked}`} title="Kept views of approvals" />
        </>
      }
    >
      <Outlet />
    </Place>
  );
}
