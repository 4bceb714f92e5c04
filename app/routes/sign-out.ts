import { redirect } from 'react-router';
import { signOut } from '../../server/auth/sign-in.ts';
import { clearSession } from '../../server/http/cookie.ts';
import type { Route } from './+types/sign-out';
import { visitOf } from './session.server';

export async function action({ context }: Route.ActionArgs) {
  const { cookie, address } = visitOf(context);
  if (cookie) await signOut(cookie, address);
  // The page that it leads to forgets what the browser kept of forms that were not sent.
  return redirect('/sign-in?out', { headers: { 'Set-Cookie': await clearSession() } });
}

export const loader = () => redirect('/');
