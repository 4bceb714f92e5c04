import { z } from 'zod';
import { config } from '../../config.ts';
import { line } from '../../../core/boundary/index.ts';
import { callOutside, detailOf, isTransient, jsonOf } from '../client.ts';
import { ChangedMeanwhile, PermanentError, TransientError } from '../errors.ts';

export const enterprise = 'urn:ietf:params:scim:schemas:extension:enterprise:2.0:User';
export const ownership = 'urn:nessmoor:params:scim:schemas:extension:ownership:1.0:Group';

const Name = line(300);
const Member = z.object({ value: Name });
export const ScimUser = z.object({
  id: line(200).min(1),
  userName: line(200).min(1),
  /** What whoever made it knows it by: of an account that was made here, the call that gave it. */
  externalId: Name.optional(),
  displayName: Name.optional(),
  name: z.object({ formatted: Name.optional(), givenName: Name.optional(), familyName: Name.optional() }).optional(),
  emails: z
    .array(z.object({ value: Name, primary: z.boolean().optional() }))
    .max(50)
    .optional(),
  title: Name.optional(),
  active: z.boolean().optional(),
  /** What they are licensed for (RFC 7643, section 4.1.2). */
  entitlements: z
    .array(z.object({ value: Name }))
    .max(1000)
    .optional(),
  meta: z.object({ version: Name.optional() }).optional(),
  [enterprise]: z
    .object({ employeeNumber: Name.optional(), department: Name.optional(), manager: z.object({ value: Name.optional() }).optional() })
    .optional(),
});
export type ScimUser = z.infer<typeof ScimUser>;
export const ScimGroup = z.object({
  id: line(200).min(1),
  displayName: Name.min(1),
  meta: z.object({ version: Name.optional() }).optional(),
  members: z.array(Member).max(200_000).default([]),
  [ownership]: z.object({ owners: z.array(Member).max(1000).default([]), purpose: line(1000).optional() }).optional(),
});
export type ScimGroup = z.infer<typeof ScimGroup>;
const Page = z.object({ totalResults: z.number().int().min(0), startIndex: z.number().optional(), Resources: z.array(z.unknown()).default([]) });

const pageSize = 100;

/** One request to the registered directory (SCIM 2.0, RFC 7644). `mayBe`: a refusal that says something else than that it went wrong. */
async function send(
  method: string,
  path: string,
  options: { body?: object; headers?: Record<string, string>; mayBe?: number } = {},
): Promise<{ status: number; body: unknown }> {
  const directory = { name: 'The directory', address: config().DIRECTORY_URL, ownNetwork: true, timeoutMs: 8000, mostBytes: 4_000_000 };
  const scim = 'application/scim+json';
  const headers = { authorization: `Bearer ${config().DIRECTORY_TOKEN}`, accept: scim, 'content-type': scim, ...options.headers };
  const answer = await callOutside(directory, { method, path, headers, body: options.body });
  const body = jsonOf(directory, answer);
  if (answer.status < 300 || answer.status === options.mayBe) return { status: answer.status, body };
  const said = `The directory answered ${answer.status}${detailOf(body)}.`;
  // 412 means that somebody else changed it (RFC 9110, section 13.1.1).
  if (answer.status === 412) throw new ChangedMeanwhile(said);
  if (isTransient(answer.status)) throw new TransientError(said);
  throw new PermanentError(said);
}

/** Reads an answer into its shape; nonsense is trouble, not a crash. */
function shaped<T>(shape: z.ZodType<T>, body: unknown): T {
  const result = shape.safeParse(body);
  if (!result.success)
    throw new TransientError(`The directory answered something that is not SCIM (${result.error.issues[0]?.path.join('.') ?? ''}).`);
  return result.data;
}

const patchSchema = 'urn:ietf:params:scim:api:messages:2.0:PatchOp';
const userSchema = 'urn:ietf:params:scim:schemas:core:2.0:User';

/** A text as it stands in a filter (RFC 7644, section 3.4.2.2): as in JSON. */
const quoted = (text: string): string => JSON.stringify(text);

/** What a reading of the directory gave: the resources that make sense, those that do not with the reason, and whether it was whole. */
export interface Reading<T> {
  found: T[];
  odd: { record: unknown; why: string }[];
  /** The directory gave as many as it said it had, and the number stayed the same from page to page. */
  whole: boolean;
}
/** More resources of a kind than this are not read. */
const mostResources = 500_000;

/** All resources of a kind, page after page (RFC 7644, section 3.4.2.4); each is read by itself. */
async function all<T extends { id: string }>(kind: 'Users' | 'Groups', shape: z.ZodType<T>): Promise<Reading<T>> {
  const found = new Map<string, T>();
  const odd: Reading<T>['odd'] = [];
  let total: number | undefined;
  let whole = true;
  for (let seen = 0; ;) {
    const page = shaped(Page, (await send('GET', `/${kind}?startIndex=${seen + 1}&count=${pageSize}`)).body);
    if (total !== undefined && page.totalResults !== total) whole = false;
    total = page.totalResults;
    for (const record of page.Resources) {
      const read = shape.safeParse(record);
      if (!read.success) odd.push({ record, why: `${read.error.issues[0]?.path.join('.') ?? ''}: ${read.error.issues[0]?.message ?? ''}` });
      else if (found.has(read.data.id)) odd.push({ record, why: 'The same id came twice.' });
      else found.set(read.data.id, read.data);
    }
    seen += page.Resources.length;
    if (page.Resources.length === 0 || seen >= total || seen >= mostResources)
      return { found: [...found.values()], odd, whole: whole && seen >= total };
  }
}

async function patch(kind: 'Users' | 'Groups', id: string, operations: object[], version: string | undefined, key: string): Promise<void> {
  await send('PATCH', `/${kind}/${encodeURIComponent(id)}`, {
    body: { schemas: [patchSchema], Operations: operations },
    headers: { 'idempotency-key': key, ...(version && { 'if-match': version }) },
  });
}

export const directoryClient = {
  users: () => all('Users', ScimUser),
  groups: () => all('Groups', ScimGroup),
  group: async (id: string): Promise<ScimGroup> => shaped(ScimGroup, (await send('GET', `/Groups/${encodeURIComponent(id)}`)).body),
  /** Changes a group only if it still is as it was read (`If-Match`). */
  patchGroup: (id: string, operations: object[], version: string | undefined, idempotencyKey: string): Promise<void> =>
    patch('Groups', id, operations, version, idempotencyKey),
  user: async (id: string): Promise<ScimUser> => shaped(ScimUser, (await send('GET', `/Users/${encodeURIComponent(id)}`)).body),
  /** The one of whom an attribute says this; undefined where there is nobody. Several are more than anybody can tell apart. */
  findUser: async (attribute: string, is: string): Promise<ScimUser | undefined> => {
    const filter = encodeURIComponent(`${attribute} eq ${quoted(is)}`);
    const page = shaped(Page, (await send('GET', `/Users?filter=${filter}&startIndex=1&count=2`)).body);
    if (page.Resources.length > 1 || page.totalResults > 1)
      throw new PermanentError(`The directory has ${page.totalResults} people with “${is}” as ${attribute.split(':').at(-1)}.`);
    return page.Resources.length === 0 ? undefined : shaped(ScimUser, page.Resources[0]);
  },
  /** Makes an account; `taken` where somebody else has this user name (RFC 7644, section 3.3: 409). */
  createUser: async (user: object, idempotencyKey: string): Promise<ScimUser | 'taken'> => {
    const body = { schemas: [userSchema, enterprise], ...user };
    const answer = await send('POST', '/Users', { body, headers: { 'idempotency-key': idempotencyKey }, mayBe: 409 });
    return answer.status === 409 ? 'taken' : shaped(ScimUser, answer.body);
  },
  /** Changes a person only if they still are as they were read; what they are then is read anew, since an answer may be empty (204). */
  patchUser: async (id: string, operations: object[], version: string | undefined, idempotencyKey: string): Promise<ScimUser> => {
    await patch('Users', id, operations, version, idempotencyKey);
    return directoryClient.user(id);
  },
  create: async (kind: 'Users' | 'Groups', body: object): Promise<{ id: string }> =>
    shaped(z.object({ id: z.string() }), (await send('POST', `/${kind}`, { body })).body),
  replace: async (kind: 'Users' | 'Groups', id: string, body: object): Promise<void> =>
    void (await send('PUT', `/${kind}/${encodeURIComponent(id)}`, { body })),
};
