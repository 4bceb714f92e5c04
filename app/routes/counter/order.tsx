import { useSearchParams } from 'react-router';
import { myOrder } from '../../../server/baskets/queries.ts';
import { Live } from '~/ui/live';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';
import { numberIn, orNotFound, signedIn } from '../session.server';
import { RequestLine } from './request-line';
import type { Route } from './+types/order';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ params }) => [{ title: `R-${params.number} · Counter · Nessmoor` }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  return orNotFound(await myOrder(signedIn(context, request), numberIn(params.number)), 'This order');
}

export default function Order({ loaderData: { number, openedAt, endedAt, lines } }: Route.ComponentProps) {
  const [search] = useSearchParams();
  const over = lines.filter((l) => l.outcome).length;
  return (
    <div className="max-w-4xl">
      <p className="flex gap-3 text-sm">
        <span className="numbers text-faint">R-{number}</span>
        {!endedAt && <Live />}
      </p>
      <h1 className="font-serif text-2xl">Order of {lines.length === 1 ? 'one thing' : `${lines.length} things`}</h1>
      {search.has('sent') && !endedAt && (
        <p role="status" className="mt-3 border-l-3 border-moss bg-moss-wash px-3 py-2">
          Everything in your basket is on its way. You are told of each as soon as it is decided.
        </p>
      )}
      <section aria-label="Where it stands" className="my-5 border-y py-4">
        <p className="flex items-center gap-2 text-lg">
          <StateMark kind={endedAt ? 'done' : 'half'} /> {endedAt ? 'All of it is over' : 'Under way'}
        </p>
        <p className="mt-1 text-faint">
          Sent <Time at={openedAt} />
          {endedAt ? (
            <>
              , over <Time at={endedAt} />
            </>
          ) : (
            `; ${over} of ${lines.length} over`
          )}
        </p>
      </section>
      <ul className="border-t">
        {lines.map((l) => (
          <RequestLine key={l.number} r={l} />
        ))}
      </ul>
    </div>
  );
}
