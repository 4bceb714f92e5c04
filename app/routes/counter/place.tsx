import { Outlet } from 'react-router';
import { basketSize } from '../../../server/baskets/queries.ts';
import { Frame, MarginLink } from '~/ui/frame';
import { signedIn } from '../session.server';
import type { Route } from './+types/place';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const loader = async ({ context, request }: Route.LoaderArgs) => ({ inBasket: await basketSize(signedIn(context, request)) });

export default function Counter({ loaderData: { inBasket } }: Route.ComponentProps) {
  return (
    <Frame
      marginLabel="Counter"
      margin={
        <div className="flex flex-wrap gap-x-1 py-2 whitespace-nowrap md:block md:py-4 md:whitespace-normal">
          <MarginLink to="/counter" end>
            Ask for something
          </MarginLink>
          <MarginLink to="/counter/report">Report a problem</MarginLink>
          <MarginLink to="/counter/requests">My requests</MarginLink>
          <MarginLink to="/counter/things">My things</MarginLink>
          <MarginLink to="/counter/basket">
            Basket
            {inBasket > 0 && (
              <>
                {' '}
                <span className="numbers">{inBasket}</span>
                <span className="sr-only"> inside</span>
              </>
            )}
          </MarginLink>
        </div>
      }
    >
      <Outlet />
    </Frame>
  );
}
