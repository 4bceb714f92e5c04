import { findAnything, findGroups, findPeople } from '../../server/queries/find.ts';
import type { Route } from './+types/find';
import { asked, signedIn } from './session.server';

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const q = asked(request, 'q', 100);
  const kind = asked(request, 'kind');
  if (kind === 'person') return { choices: await findPeople(q) };
  if (kind === 'group') return { choices: await findGroups(q) };
  return { anything: await findAnything(viewer, q) };
}
