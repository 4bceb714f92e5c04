import { createCookie } from 'react-router';
import { sessionHours } from '../auth/viewer.ts';
import { ofSettings } from '../config.ts';

const cookie = ofSettings((settings) =>
  createCookie('nessmoor_session', {
    path: '/',
    httpOnly: true,
    sameSite: 'lax',
    secure: settings.PUBLIC_URL.startsWith('https:'),
    maxAge: sessionHours * 3600,
  }),
);

export async function readSession(header: string | undefined): Promise<string | undefined> {
  const value: unknown = await cookie().parse(header ?? null);
  return typeof value === 'string' ? value : undefined;
}
export const setSession = (value: string): Promise<string> => cookie().serialize(value);
export const clearSession = (): Promise<string> => cookie().serialize('', { maxAge: 0 });
