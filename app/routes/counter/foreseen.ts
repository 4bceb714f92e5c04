import { foreseen } from '../../../server/requests/foreseen.ts';
import { asked, isId, signedIn } from '../session.server';
import { answersAsked } from './answers-asked.server';
import type { Route } from './+types/foreseen';
import { offered } from './offered.server';

/** What answers that are still being typed lead to: who must agree, what it costs, what is looked up, what is taken. */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const item = await offered(viewer, params.itemId);
  const whom = asked(request, 'whom', 100);
  return foreseen(viewer, item, answersAsked(request), isId(whom) && item.forOthers ? whom : undefined);
}
