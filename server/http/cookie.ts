import { createCookie, type Cookie } from 'react-router';
import { sessionHours } from '../auth/viewer.ts';
import { config } from '../config.ts';

let made: Cookie | undefined;
const cookie = () =>
  (made ??= createCookie('nessmoor_session', {
    path: '/',
    httpOnly: true,
    sameSite: 'lax',
    secure: config().PUBLIC_URL.startsWith('https:'),
    maxAge: sessionHours * 3600,
  }));

export async function readSession(header: string | undefined): Promise<string | undefined> {
  const value: unknown = await cookie().parse(header ?? null);
  return typeof value === 'string' ? value : undefined;
}
export const setSession = (value: string): Promise<string> => cookie().serialize(value);
export const clearSession = (): Promise<string> => cookie().serialize('', { maxAge: 0 });
