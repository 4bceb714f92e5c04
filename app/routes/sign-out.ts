import { redirect } from 'react-router';
import { signOut } from '../../server/auth/sign-in.ts';
import { clearSession } from '../../server/http/cookie.ts';
import type { Route } from './+types/sign-out';
import { visitOf } from './session.server';

export async function action({ context }: Route.ActionArgs) {
  const { cookie, address } = visitOf(context);
  if (cookie) await signOut(cookie, address);
  return redirect('/sign-in', { headers: { 'Set-Cookie': await clearSession() } });
}

export const loader = () => redirect('/');
