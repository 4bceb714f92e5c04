import { redirect } from 'react-router';
import type { Route } from './+types/home';
import { signedIn } from './session.server';

export function loader({ context, request }: Route.LoaderArgs) {
  signedIn(context, request);
  throw redirect('/counter');
}
