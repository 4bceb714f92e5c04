import { data, redirect, type RouterContextProvider } from 'react-router';
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
export function found<T>(value: T | undefined, what: string): T {
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
  'too-many-tries': 429,
};
/** A refusal for a screen: shown where the person is, with what they typed. */
export const refused = <T extends object>(refusal: Refusal, more: T) => data({ refusal, ...more }, { status: statuses[refusal.code] });

/** The text of a form field; a file or nothing counts as empty. */
export const text = (form: FormData, name: string): string => {
  const value = form.get(name);
  return typeof value === 'string' ? value : '';
};

export { isId };
