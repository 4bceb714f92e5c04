import { Outlet } from 'react-router';
import { Frame, MarginLink } from '~/ui/frame';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export default function Counter() {
  return (
    <Frame
      marginLabel="Counter"
      margin={
        <div className="flex gap-1 py-2 md:block md:py-4">
          <MarginLink to="/counter" end>
            Ask for something
          </MarginLink>
          <MarginLink to="/counter/requests">My requests</MarginLink>
        </div>
      }
    >
      <Outlet />
    </Frame>
  );
}
