import { limits } from '../../server/auth/limits.ts';
import { log } from '../../server/log.ts';
import type { Route } from './+types/trouble';
import { posted, signedIn } from './session.server';

/** A page of ours failed in somebody's browser: it stands in the log under the number that they were shown. */
export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request, 4000);
  const wait = await limits.trouble(viewer.id);
  if (wait > 0) return new Response(null, { status: 429, headers: { 'retry-after': String(wait) } });
  const said = (name: string, most: number) => form.get(name).slice(0, most);
  log.warn({ visit: said('visit', 20), where: said('where', 200), words: said('words', 300) }, 'a page failed in the browser');
  return null;
}
