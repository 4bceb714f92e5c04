import { draftAsRevision } from '../../../server/items/queries.ts';
import { orNotFound, isId, numberIn, signedIn } from '../session.server';
import type { Route } from './+types/revision';

/** The draft as a revision had it, as JSON: the editor puts it in place of the present one, so that it can be undone. */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const found = isId(params.id) ? await draftAsRevision(signedIn(context, request), params.id, numberIn(params.number)) : undefined;
  return Response.json(orNotFound(found, 'This revision'));
}
