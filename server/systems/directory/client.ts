import { z } from 'zod';
import { config } from '../../config.ts';
import { Refused, Trouble } from '../trouble.ts';

export const enterprise = 'urn:ietf:params:scim:schemas:extension:enterprise:2.0:User';
export const ownership = 'urn:nessmoor:params:scim:schemas:extension:ownership:1.0:Group';

const Member = z.object({ value: z.string() });
export const ScimUser = z.object({
  id: z.string(),
  userName: z.string(),
  displayName: z.string().optional(),
  name: z.object({ formatted: z.string().optional() }).optional(),
  emails: z.array(z.object({ value: z.string(), primary: z.boolean().optional() })).optional(),
  title: z.string().optional(),
  active: z.boolean().optional(),
  [enterprise]: z.object({ department: z.string().optional(), manager: z.object({ value: z.string() }).optional() }).optional(),
});
export type ScimUser = z.infer<typeof ScimUser>;
export const ScimGroup = z.object({
  id: z.string(),
  displayName: z.string(),
  meta: z.object({ version: z.string().optional() }).optional(),
  members: z.array(Member).default([]),
  [ownership]: z.object({ owners: z.array(Member).default([]), purpose: z.string().optional() }).optional(),
});
export type ScimGroup = z.infer<typeof ScimGroup>;
const Page = z.object({ totalResults: z.number(), startIndex: z.number().optional(), Resources: z.array(z.unknown()).default([]) });
const Failure = z.object({ detail: z.string() });

/** How long one call may take, in milliseconds. */
const patience = 8000;
const pageSize = 100;

/** One request to the registered directory (SCIM 2.0, RFC 7644). Never follows a redirect elsewhere. */
async function send(
  method: string,
  path: string,
  options: { body?: unknown; headers?: Record<string, string> } = {},
): Promise<{ status: number; body: unknown }> {
  let response: Response;
  let text: string;
  try {
    response = await fetch(`${config().DIRECTORY_URL}${path}`, {
      method,
      redirect: 'error',
      signal: AbortSignal.timeout(patience),
      headers: {
        authorization: `Bearer ${config().DIRECTORY_TOKEN}`,
        accept: 'application/scim+json',
        'content-type': 'application/scim+json',
        ...options.headers,
      },
      ...(options.body !== undefined && { body: JSON.stringify(options.body) }),
    });
    text = await response.text();
  } catch (error) {
    const timedOut = error instanceof Error && error.name === 'TimeoutError';
    throw new Trouble(timedOut ? `The directory did not answer within ${patience / 1000} s.` : 'The directory cannot be reached.');
  }
  let body: unknown;
  try {
    body = text ? JSON.parse(text) : undefined;
  } catch {
    throw new Trouble(`The directory answered ${response.status} with something that is not JSON.`);
  }
  if (response.ok) return { status: response.status, body };
  const failure = Failure.safeParse(body);
  const said = `The directory answered ${response.status}${failure.success ? `: ${failure.data.detail}` : '.'}`;
  // RFC 7644, section 3.12; 412 means that somebody else changed it, so read again and try again.
  if (response.status >= 500 || [408, 412, 425, 429].includes(response.status)) throw new Trouble(said);
  throw new Refused(said);
}

/** Reads an answer into its shape; nonsense is trouble, not a crash. */
function shaped<T>(shape: z.ZodType<T>, body: unknown): T {
  const result = shape.safeParse(body);
  if (!result.success) throw new Trouble(`The directory answered something that is not SCIM (${result.error.issues[0]?.path.join('.') ?? ''}).`);
  return result.data;
}

/** All resources of a kind, page after page (RFC 7644, section 3.4.2.4). */
async function all<T>(kind: 'Users' | 'Groups', shape: z.ZodType<T>): Promise<T[]> {
  const found: T[] = [];
  for (let start = 1; ;) {
    const page = shaped(Page, (await send('GET', `/${kind}?startIndex=${start}&count=${pageSize}`)).body);
    for (const r of page.Resources) found.push(shaped(shape, r));
    start += page.Resources.length;
    if (page.Resources.length === 0 || found.length >= page.totalResults) return found;
  }
}

export const directoryClient = {
  users: () => all('Users', ScimUser),
  groups: () => all('Groups', ScimGroup),
  group: async (id: string): Promise<ScimGroup> => shaped(ScimGroup, (await send('GET', `/Groups/${encodeURIComponent(id)}`)).body),
  /** Changes a group only if it still is as it was read (`If-Match`). */
  patchGroup: async (id: string, operations: object[], version: string | undefined, idempotencyKey: string): Promise<void> => {
    await send('PATCH', `/Groups/${encodeURIComponent(id)}`, {
      body: { schemas: ['urn:ietf:params:scim:api:messages:2.0:PatchOp'], Operations: operations },
      headers: { 'idempotency-key': idempotencyKey, ...(version && { 'if-match': version }) },
    });
  },
  create: async (kind: 'Users' | 'Groups', body: object): Promise<{ id: string }> =>
    shaped(z.object({ id: z.string() }), (await send('POST', `/${kind}`, { body })).body),
  replace: async (kind: 'Users' | 'Groups', id: string, body: object): Promise<void> =>
    void (await send('PUT', `/${kind}/${encodeURIComponent(id)}`, { body })),
};
