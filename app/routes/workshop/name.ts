import { nameIsTaken } from '../../../server/items/commands.ts';
import { db } from '../../../server/db/database.ts';
import { asked, orNotFound, isId, signedIn } from '../session.server';
import type { Route } from './+types/name';

/** Whether a name is taken, told while it is typed. */
export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  orNotFound(viewer.roles.includes('designer') ? true : undefined, 'The Workshop');
  const name = asked(request, 'name');
  const except = asked(request, 'except');
  return { name, taken: await nameIsTaken(db(), name, isId(except) ? except : undefined) };
}
