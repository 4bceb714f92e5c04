import { createHash, randomUUID } from 'node:crypto';
import express, { type Express, type Request, type Response } from 'express';
import { scimPatch, type ScimPatchOperation } from 'scim-patch';
import { filter as matches, parse as parseFilter } from 'scim2-parse-filter';
import { keep } from './keep.ts';
import { mannered, mannerRoute, pause } from './manner.ts';

/**
 * A directory that speaks SCIM 2.0 (RFC 7643, RFC 7644): users with the enterprise extension, groups with members
 * and, in an extension of ours, owners.
 */
export const ownership = 'urn:nessmoor:params:scim:schemas:extension:ownership:1.0:Group';
const enterprise = 'urn:ietf:params:scim:schemas:extension:enterprise:2.0:User';
const listSchema = 'urn:ietf:params:scim:api:messages:2.0:ListResponse';
const errorSchema = 'urn:ietf:params:scim:api:messages:2.0:Error';
const userSchema = 'urn:ietf:params:scim:schemas:core:2.0:User';
const groupSchema = 'urn:ietf:params:scim:schemas:core:2.0:Group';

interface Resource {
  id: string;
  schemas: string[];
  meta: { resourceType: 'User' | 'Group'; created: Date | string; lastModified: Date | string; version: string; location?: string };
  [attribute: string]: unknown;
}
interface Member {
  value: string;
  display?: string;
}
interface Kept {
  Users: Record<string, Resource>;
  Groups: Record<string, Resource>;
  /** Answers already given, by idempotency key: a repeated call gets the same answer and changes nothing. */
  answered: Record<string, { status: number; body: Resource }>;
  /** What really changed, in order; tests read it to see that nothing was done twice. */
  journal: { at: string; method: string; id: string; change: string; key?: string }[];
  /** Of each user who has one, the password hashed: it is taken and never given (RFC 7643, section 4.1.1). */
  passwords: Record<string, string>;
}
const hashed = (password: string): string => createHash('sha256').update(password).digest('hex');
type Kind = 'Users' | 'Groups';

class ScimError extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly scimType?: string,
  ) {
    super(message);
  }
}

export function directory({ token, file }: { token: string; file?: string }): Express {
  const { data, save } = keep<Kept>(file, () => ({ Users: {}, Groups: {}, answered: {}, journal: [], passwords: {} }));
  const manner = mannered();
  const app = express();
  app.disable('x-powered-by');
  app.set('etag', false);
  app.use(express.json({ limit: '1mb', type: ['application/json', 'application/scim+json'] }));
  app.all('/_manner', mannerRoute(manner));
  app.get('/_journal', (_req, res) => void res.json(data.journal));

  /** Whether somebody is let in by what they say they are called and their password; tests try it. */
  app.post('/_sign-in', (req, res) => {
    const { userName, password } = req.body as { userName?: string; password?: string };
    const user = Object.values(data.Users).find((u) => String(u['userName']).toLowerCase() === String(userName).toLowerCase());
    const right = user !== undefined && user['active'] !== false && data.passwords[user.id] === hashed(String(password));
    res.status(right ? 204 : 401).end();
  });

  app.use('/scim/v2', async (req, res, next) => {
    if (manner.now.manner === 'slow') await pause(manner.now.delayMs);
    if (manner.now.manner === 'failing') return void scimError(res, new ScimError(503, 'The directory is down.'));
    if (manner.now.manner === 'poisonous') return void poison(req, res, next);
    if (manner.now.manner === 'refusing') return void scimError(res, new ScimError(403, 'The directory refuses this change.'));
    if (req.headers.authorization !== `Bearer ${token}`) return void scimError(res, new ScimError(401, 'The bearer token is missing or wrong.'));
    next();
  });

  /** What a broken or hostile directory may say: words that cannot be kept, and among the people one record that is none. */
  function poison(req: Request, res: Response, next: () => void): void {
    if (req.method !== 'GET') return void res.status(400).type('application/scim+json').send('{"detail":"bad \\u0000 \\ud800","status":"400"}');
    if (req.path !== '/Users') return next();
    const send = res.json.bind(res);
    res.json = (body: { totalResults: number; Resources: unknown[] }) =>
      send({ ...body, Resources: body.Resources.map((r, i) => (i === 0 ? { ...(r as object), displayName: 'a\u0000b' } : r)) });
    next();
  }

  app.get('/scim/v2/ServiceProviderConfig', (_req, res) => {
    res.json({
      schemas: ['urn:ietf:params:scim:schemas:core:2.0:ServiceProviderConfig'],
      patch: { supported: true },
      bulk: { supported: false, maxOperations: 0, maxPayloadSize: 0 },
      filter: { supported: true, maxResults: 200 },
      changePassword: { supported: false },
      sort: { supported: false },
      etag: { supported: true },
      authenticationSchemes: [{ type: 'oauthbearertoken', name: 'Bearer token', description: 'A token given when the directory is registered' }],
    });
  });
  app.get('/scim/v2/ResourceTypes', (_req, res) => {
    const type = (name: 'User' | 'Group', schema: string, extension: string) => ({
      schemas: ['urn:ietf:params:scim:schemas:core:2.0:ResourceType'],
      id: name,
      name,
      endpoint: `/${name}s`,
      schema,
      schemaExtensions: [{ schema: extension, required: false }],
    });
    const types = [type('User', userSchema, enterprise), type('Group', groupSchema, ownership)];
    res.json({ schemas: [listSchema], totalResults: 2, startIndex: 1, itemsPerPage: 2, Resources: types });
  });

  for (const kind of ['Users', 'Groups'] as const) {
    app.get(`/scim/v2/${kind}`, (req, res) => void list(kind, req, res));
    app.post(`/scim/v2/${kind}`, (req, res) => once(req, res, () => create(kind, req.body as Record<string, unknown>)));
    app.get(`/scim/v2/${kind}/:id`, (req, res) => {
      const found = get(kind, req.params.id);
      if (req.headers['if-none-match'] === found.meta.version) return void res.status(304).end();
      answer(res, 200, found);
    });
    app.patch(`/scim/v2/${kind}/:id`, (req, res) => once(req, res, () => patch(kind, req)));
    app.put(`/scim/v2/${kind}/:id`, (req, res) => once(req, res, () => put(kind, req)));
    app.delete(`/scim/v2/${kind}/:id`, (req, res) => {
      const found = get(kind, req.params.id);
      match(req, found);
      delete data[kind][found.id];
      note('DELETE', found.id, 'deleted', req);
      res.status(204).end();
    });
  }
  app.use('/scim/v2', () => {
    throw new ScimError(404, 'There is no such endpoint.');
  });
  app.use((error: unknown, _req: Request, res: Response, next: (e?: unknown) => void) => {
    if (res.headersSent) return next(error);
    if (error instanceof ScimError) return scimError(res, error);
    scimError(res, new ScimError(400, error instanceof Error ? error.message : 'The request cannot be read.', 'invalidSyntax'));
  });

  function list(kind: Kind, req: Request, res: Response): void {
    const start = Math.max(1, Number(req.query['startIndex'] ?? 1) || 1);
    const count = Math.min(200, Math.max(0, Number(req.query['count'] ?? 100)));
    let all = Object.values(data[kind]);
    if (req.query['filter']) {
      try {
        // Strings compare without case unless a schema says otherwise (RFC 7643, section 2.3.1).
        const fits = matches(lowered(parseFilter(String(req.query['filter'])), 'compValue'));
        all = all.filter((r) => fits(lowered(r)));
      } catch {
        throw new ScimError(400, 'The filter cannot be read.', 'invalidFilter');
      }
    }
    const page = all.slice(start - 1, start - 1 + count);
    res
      .type('application/scim+json')
      .json({ schemas: [listSchema], totalResults: all.length, startIndex: start, itemsPerPage: page.length, Resources: page });
  }

  function create(kind: Kind, body: Record<string, unknown>) {
    const resourceType = kind === 'Users' ? ('User' as const) : ('Group' as const);
    const now = new Date().toISOString();
    const id = randomUUID();
    const { password, ...rest } = body;
    const made = tidy(kind, {
      ...rest,
      id,
      schemas: (body['schemas'] as string[] | undefined) ?? [kind === 'Users' ? userSchema : groupSchema],
      meta: { resourceType, created: now, lastModified: now, version: 'W/"1"' },
    });
    unique(kind, made);
    data[kind][id] = made;
    keepPassword(id, password);
    return { status: 201, body: made, change: 'created' };
  }

  function patch(kind: Kind, req: Request) {
    const found = get(kind, String(req.params['id']));
    match(req, found);
    const operations = (req.body as { Operations?: ScimPatchOperation[] }).Operations;
    if (!Array.isArray(operations)) throw new ScimError(400, 'A PATCH has Operations.', 'invalidSyntax');
    const before = JSON.stringify(found);
    let next: Resource;
    try {
      next = tidy(kind, scimPatch(structuredClone(found) as never, operations, { mutateDocument: true }) as Resource);
    } catch (error) {
      throw new ScimError(400, error instanceof Error ? error.message : 'The PATCH cannot be applied.', 'invalidPath');
    }
    const { password, ...rest } = next;
    const kept = keepPassword(found.id, password);
    return replace(kind, found, rest as Resource, kept ? '' : before, describe(operations));
  }

  /** Keeps a password that was sent; gives whether there was one. */
  function keepPassword(id: string, password: unknown): boolean {
    if (typeof password !== 'string') return false;
    data.passwords[id] = hashed(password);
    return true;
  }

  function put(kind: Kind, req: Request) {
    const found = get(kind, String(req.params['id']));
    match(req, found);
    const { password, ...rest } = req.body as Record<string, unknown>;
    keepPassword(found.id, password);
    const next = tidy(kind, { ...rest, id: found.id, schemas: found.schemas, meta: found.meta });
    return replace(kind, found, next, JSON.stringify(found), 'replaced');
  }

  function replace(kind: Kind, found: Resource, next: Resource, before: string, change: string) {
    if (JSON.stringify({ ...next, meta: found.meta }) === before) return { status: 200, body: found, change: undefined };
    unique(kind, next);
    const version = `W/"${Number(/\d+/.exec(found.meta.version)?.[0] ?? 0) + 1}"`;
    const changed = { ...next, meta: { ...found.meta, version, lastModified: new Date().toISOString() } };
    data[kind][found.id] = changed;
    return { status: 200, body: changed, change };
  }

  /** Answers a write, and the same write sent again under the same key with the same answer. */
  function once(req: Request, res: Response, act: () => { status: number; body: Resource; change: string | undefined }): void {
    const key = req.headers['idempotency-key'];
    const earlier = typeof key === 'string' && manner.now.manner !== 'forgetful' ? data.answered[key] : undefined;
    if (earlier) return answer(res, earlier.status, earlier.body);
    const { status, body, change } = act();
    if (typeof key === 'string') data.answered[key] = { status, body };
    if (change) note(req.method, body.id, change, req);
    save();
    answer(res, status, body);
  }

  function note(method: string, id: string, change: string, req: Request): void {
    const key = req.headers['idempotency-key'];
    data.journal.push({ at: new Date().toISOString(), method, id, change, ...(typeof key === 'string' && { key }) });
    save();
  }

  function get(kind: Kind, id: string): Resource {
    const found = data[kind][id];
    if (!found) throw new ScimError(404, `There is no ${kind === 'Users' ? 'user' : 'group'} ${id}.`);
    return found;
  }

  function match(req: Request, found: Resource): void {
    const wanted = req.headers['if-match'];
    if (wanted !== undefined && wanted !== '*' && wanted !== found.meta.version) throw new ScimError(412, 'The resource has changed meanwhile.');
  }

  function unique(kind: Kind, made: Resource): void {
    const attribute = kind === 'Users' ? 'userName' : 'displayName';
    const value = String(made[attribute] ?? '').toLowerCase();
    if (!value) throw new ScimError(400, `${attribute} is required.`, 'invalidValue');
    const taken = Object.values(data[kind]).some((r) => r.id !== made.id && String(r[attribute]).toLowerCase() === value);
    if (taken) throw new ScimError(409, `${attribute} is taken.`, 'uniqueness');
  }

  /** Members and owners are sets of users that exist. */
  function tidy(kind: Kind, resource: Resource): Resource {
    if (kind === 'Users') return resource;
    const set = (list: unknown): Member[] => {
      const members = new Map<string, Member>();
      for (const m of Array.isArray(list) ? (list as Member[]) : []) {
        const user = data.Users[m.value];
        if (!user) throw new ScimError(400, `There is no user ${m.value}.`, 'invalidValue');
        members.set(m.value, { value: m.value, display: String(user['displayName'] ?? '') });
      }
      return [...members.values()];
    };
    const extension = resource[ownership] as { owners?: unknown } | undefined;
    return { ...resource, members: set(resource['members']), [ownership]: { ...extension, owners: set(extension?.owners) } };
  }

  return app;
}

/** A copy with its texts in small letters; with `only`, just the texts under that name. */
function lowered<T>(value: T, only?: string): T {
  return JSON.parse(JSON.stringify(value), (key, v: unknown) =>
    typeof v === 'string' && (only === undefined || key === only) ? v.toLowerCase() : v,
  ) as T;
}

const describe = (operations: ScimPatchOperation[]) =>
  operations
    .map((o) => {
      const path = 'path' in o ? (o.path ?? '') : '';
      return `${o.op.toLowerCase()} ${path} ${'value' in o && path !== 'password' ? JSON.stringify(o.value) : ''}`.trim();
    })
    .join('; ');

function answer(res: Response, status: number, body: Resource): void {
  res.status(status).set('ETag', body.meta.version).type('application/scim+json').json(body);
}

function scimError(res: Response, error: ScimError): void {
  res
    .status(error.status)
    .type('application/scim+json')
    .json({ schemas: [errorSchema], status: String(error.status), detail: error.message, ...(error.scimType && { scimType: error.scimType }) });
}
