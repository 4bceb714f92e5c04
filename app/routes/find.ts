import { findAnything, findGroups, findPeople } from '../../server/queries/find.ts';
import type { Route } from './+types/find';
import { signedIn } from './session.server';

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const { searchParams } = new URL(request.url);
  const q = (searchParams.get('q') ?? '').slice(0, 100);
  const kind = searchParams.get('kind');
  if (kind === 'person') return { choices: await findPeople(q) };
  if (kind === 'group') return { choices: await findGroups(q) };
  return { anything: await findAnything(viewer, q) };
}
