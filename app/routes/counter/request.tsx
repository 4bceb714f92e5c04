import { Link, useSearchParams } from 'react-router';
import { myRequest } from '../../../server/requests/queries.ts';
import { notesWaiting } from '../../../server/notes/queries.ts';
import { newToken } from '../../../server/auth/token.ts';
import { NotesWaiting } from '~/notes/waiting';
import { Live } from '~/ui/live';
import { orNotFound, numberIn, signedIn } from '../session.server';
import type { Route } from './+types/request';
import { actOnRequest } from './request-act.server';
import { RequestBody } from './request-body';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ params }) => [{ title: `R-${params.number} · Counter · Nessmoor` }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const number = numberIn(params.number);
  const [r, notes] = await Promise.all([myRequest(viewer, number), notesWaiting(viewer, number)]);
  return { r: orNotFound(r, 'This request'), notes, once: newToken() };
}

export const action = ({ context, request, params }: Route.ActionArgs) => actOnRequest(signedIn(context, request), numberIn(params.number), request);

export default function RequestPage({ loaderData: { r, notes, once }, actionData }: Route.ComponentProps) {
  const [search] = useSearchParams();
  return (
    <RequestBody
      r={r}
      once={once}
      outcome={actionData}
      sent={search.has('sent')}
      waits={<NotesWaiting notes={notes} request />}
      beside={
        <>
          {r.order && (
            <Link to={`/counter/orders/${r.order}`} className="text-sea underline underline-offset-4">
              of order R-{r.order}
            </Link>
          )}
          {!r.outcome && <Live number={r.number} />}
        </>
      }
    />
  );
}
