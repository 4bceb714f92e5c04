import { data, redirect, type RouterContextProvider } from 'react-router';
import { typed } from '../../core/boundary/index.ts';
import type { Viewer } from '../../server/auth/viewer.ts';
import { visitContext, type Visit } from '../../server/http/context.ts';
import { isId } from '../../server/ids.ts';
import type { Refusal } from '../../server/refusal.ts';

/** The signed-in person, or the way to the sign-in page and back. */
export function signedIn(context: Readonly<RouterContextProvider>, request: Request): Viewer {
  const { viewer } = visitOf(context);
  if (viewer) return viewer;
  const url = new URL(request.url);
  throw redirect(`/sign-in?to=${encodeURIComponent(url.pathname.replace(/\.data$/, '') + url.search.replace(/[?&]_routes=[^&]*/, ''))}`);
}
export const visitOf = (context: Readonly<RouterContextProvider>): Visit => context.get(visitContext);

/** What is not there, or not for this person: the same answer, so that nothing is given away. */
export function orNotFound<T>(value: T | undefined, what: string): T {
  if (value === undefined) throw data(`${what} does not exist, or you may not see it.`, { status: 404 });
  return value;
}

const statuses: Record<Refusal['code'], number> = {
  'not-allowed': 403,
  'not-found': 404,
  invalid: 422,
  taken: 409,
  'changed-meanwhile': 409,
  'already-decided': 409,
  ended: 409,
  'has-findings': 409,
  'awaits-consent': 409,
  'too-many-tries': 429,
};
/** A refusal for a screen: shown where the person is, with what they typed. */
export const refused = <T extends object>(refusal: Refusal, more: T) => data({ refusal, ...more }, { status: statuses[refusal.code] });

/** What the address asks for, after the question mark: as people typed it, cut to a length. */
export const asked = (request: Request, name: string, most = 200): string => typed(new URL(request.url).searchParams.get(name) ?? '').slice(0, most);

/** A number of ours in an address: 0 where it is none, which nothing has. */
export const numberIn = (text: string | undefined): number => (/^\d{1,12}$/.test(text ?? '') ? Number(text) : 0);

/** Where a list goes on: a moment and what stands behind it. */
export function cursorIn(request: Request, id: RegExp): { at: Date; id: string } | undefined {
  const m = /^(\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{3}Z)_(.{1,60})$/.exec(asked(request, 'after'));
  const at = new Date(m?.[1] ?? '');
  return m && !Number.isNaN(at.getTime()) && id.test(m[2]!) ? { at, id: m[2]! } : undefined;
}
/** What stands behind the moment in most lists. */
export const anId = /^[0-9a-f-]{36}$/;

/** A path of ours to go on to; `/` for anything else, however it is written. */
export function ourPath(to: string): string {
  const here = 'http://here.invalid';
  try {
    const url = new URL(to, here);
    // A path that begins with two slashes, once read, would be an address elsewhere.
    return url.origin === here && to.startsWith('/') && !url.pathname.startsWith('//') ? url.pathname + url.search + url.hash : '/';
  } catch {
    return '/';
  }
}

export { isId };
export { documentIn, posted, postedJson, postedWithFiles, type Posted } from '../../server/http/body.ts';
