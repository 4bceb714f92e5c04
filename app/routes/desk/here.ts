import { readsTicket } from '../../../server/tickets/readers.ts';
import { numberIn, posted, signedIn } from '../session.server';
import type { Route } from './+types/here';

/** A sign of life of somebody who has a ticket open: others on it see that they read, or write. */
export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const now = (await posted(request)).get('now');
  await readsTicket(viewer, { number: numberIn(params.number), now: now === 'writes' || now === 'gone' ? now : 'reads' });
  return new Response(null, { status: 204 });
}
