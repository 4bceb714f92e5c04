import { expect, request as api, type APIRequestContext } from '@playwright/test';
import routes from '../../app/routes.ts';
import type { Part } from './story.ts';

// Over HTTP, as somebody with a tool of their own would come: no page, no script, only what the server lets in and gives out.

export const base = process.env['PUBLIC_URL'] ?? '';
export const origin = new URL(base).origin;
const kept = new Map<string, APIRequestContext>();

/** A browserless client, signed in as one of the demo's people; `nobody` is not. */
export async function as(part: Part | 'nobody'): Promise<APIRequestContext> {
  const known = kept.get(part);
  if (known) return known;
  const client = await api.newContext({ baseURL: base, extraHTTPHeaders: { origin }, maxRedirects: 0 });
  if (part !== 'nobody') {
    const answer = await client.post('/sign-in', { form: { name: part, password: 'lantern over quay' } });
    expect(answer.status(), `signing in as ${part}`).toBe(302);
  }
  kept.set(part, client);
  return client;
}
/** Lets all of them go. */
export const letGo = async (): Promise<void> => {
  await Promise.all([...kept.values()].map((c) => c.dispose()));
  kept.clear();
};

/** Ids of the demo that exist, found as their people find them. */
export async function idIn(part: Part, list: string, link: RegExp): Promise<string> {
  const html = await (await (await as(part)).get(list)).text();
  const found = link.exec(html)?.[1];
  expect(found, `${link} in ${list}`).toBeDefined();
  return found!;
}

type Route = (typeof routes)[number];
/** The addresses of routes with the files that answer there, those within others included; a layout has none of its own. */
const addressed = (from: readonly Route[], above = ''): { address: string; file: string }[] =>
  from.flatMap((r) => {
    const own = r.path === undefined ? above : `${above}/${r.path}`;
    const within = r.children ? addressed(r.children as Route[], own) : [];
    return r.path === undefined && r.index !== true ? within : [{ address: own || '/', file: r.file }, ...within];
  });
/** Every address there is. */
export const addresses = addressed(routes);
