import { Outlet } from 'react-router';
import { has } from '../../../server/auth/viewer.ts';
import { Frame, MarginLink } from '~/ui/frame';
import { signedIn } from '../session.server';
import type { Route } from './+types/place';
import { ownsSystems } from '../../../server/consents/queries.ts';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  return { consents: await ownsSystems(viewer), aside: has(viewer, 'administrator') };
}

export default function Desk({ loaderData: { consents, aside } }: Route.ComponentProps) {
  return (
    <Frame
      marginLabel="Desk"
      margin={
        <div className="flex gap-1 py-2 md:block md:py-4">
          <MarginLink to="/desk/approvals">Approvals for me</MarginLink>
          <MarginLink to="/desk/tasks">Tasks</MarginLink>
          <MarginLink to="/desk/stuck">Stuck steps</MarginLink>
          {consents && <MarginLink to="/desk/consents">Consents</MarginLink>}
          {aside && <MarginLink to="/desk/set-aside">Set aside</MarginLink>}
        </div>
      }
    >
      <Outlet />
    </Frame>
  );
}
