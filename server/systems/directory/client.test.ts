import { randomUUID } from 'node:crypto';
import type { AddressInfo } from 'node:net';
import type { Server } from 'node:http';
import express from 'express';
import SCIMMY from 'scimmy';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { PermanentError, TransientError } from '../errors.ts';
import { directoryClient, enterprise } from './client.ts';
import { testSettings } from '../../testing/settings.ts';

/** Our client against a SCIM server that is not ours: scimmy, behind a thin HTTP front. */
interface Row {
  id: string;
  [k: string]: unknown;
}
const users = new Map<string, Row>();
const groups = new Map<string, Row>();
const keep = (rows: Map<string, Row>) => (resource: { id?: string }, data: object) => {
  const row = { ...data, id: resource.id ?? randomUUID() };
  rows.set(row.id, row);
  return row;
};
interface Asked {
  id?: string;
  filter?: { match: (rows: Row[]) => Row[] };
}
const give = (rows: Map<string, Row>) => (resource: Asked) =>
  resource.id ? rows.get(resource.id)! : resource.filter ? resource.filter.match([...rows.values()]) : [...rows.values()];

let server: Server;
let mood: 'well' | 'html' | 'hang' | 'redirect' = 'well';
const seen: { authorization: string | undefined; key: string | undefined }[] = [];

beforeAll(async () => {
  SCIMMY.Resources.declare(SCIMMY.Resources.User)
    .extend(SCIMMY.Schemas.EnterpriseUser)
    .ingress(((resource: { id?: string }, data: { userName?: string }) => {
      if ([...users.values()].some((u) => u['userName'] === data.userName && u.id !== resource.id))
        throw new SCIMMY.Types.Error(409, 'uniqueness', 'The user name is taken.');
      return keep(users)(resource, data);
    }) as never)
    .egress(give(users) as never);
  SCIMMY.Resources.declare(SCIMMY.Resources.Group)
    .ingress(keep(groups) as never)
    .egress(give(groups) as never);
  const app = express();
  app.use(express.json({ type: () => true }));
  app.use((req, res, next) => {
    seen.push({ authorization: req.headers.authorization, key: req.headers['idempotency-key'] as string | undefined });
    if (mood === 'html') return void res.send('<h1>It works!</h1>');
    if (mood === 'redirect') return void res.redirect('http://127.0.0.1:9/elsewhere');
    if (mood === 'hang') return;
    next();
  });
  for (const [path, Resource] of [
    ['Users', SCIMMY.Resources.User],
    ['Groups', SCIMMY.Resources.Group],
  ] as const) {
    const answer =
      (status: number, act: (req: express.Request) => Promise<unknown>): express.RequestHandler =>
      async (req, res) => {
        try {
          res.status(status).json(await act(req));
        } catch (error) {
          const e = error as { status?: number; message: string };
          res
            .status(e.status ?? 500)
            .json({ schemas: ['urn:ietf:params:scim:api:messages:2.0:Error'], status: String(e.status ?? 500), detail: e.message });
        }
      };
    app.get(
      `/${path}`,
      answer(200, (req) => {
        const { filter, startIndex, count } = req.query;
        return new Resource({ startIndex: Number(startIndex), count: Number(count), ...(filter !== undefined && { filter }) } as never).read();
      }),
    );
    app.get(
      `/${path}/:id`,
      answer(200, (req) => new Resource(String(req.params['id'])).read()),
    );
    app.post(
      `/${path}`,
      answer(201, (req) => new Resource().write(req.body as never)),
    );
    app.patch(
      `/${path}/:id`,
      answer(200, (req) => new Resource(String(req.params['id'])).patch(req.body as never)),
    );
  }
  server = await new Promise<Server>((up) => {
    const s: Server = app.listen(0, '127.0.0.1', () => up(s));
  });
  testSettings({ DIRECTORY_TOKEN: 'key-for-scimmy', DIRECTORY_URL: `http://127.0.0.1:${(server.address() as AddressInfo).port}` });
});
afterAll(() => {
  server.closeAllConnections();
  return new Promise((done) => server.close(done));
});

describe('the directory client, against an independent SCIM server (scimmy)', () => {
  it('creates people and groups, reads all pages, and changes a membership', async () => {
    const made: string[] = [];
    for (let i = 0; i < 3; i++)
      made.push(
        (
          await directoryClient.create('Users', {
            schemas: ['urn:ietf:params:scim:schemas:core:2.0:User'],
            userName: `person${i}`,
            displayName: `Person ${i}`,
            emails: [{ value: `p${i}@skerrin.example`, primary: true }],
          })
        ).id,
      );
    expect((await directoryClient.users()).found.map((u) => u.userName)).toEqual(['person0', 'person1', 'person2']);
    const group = await directoryClient.create('Groups', {
      schemas: ['urn:ietf:params:scim:schemas:core:2.0:Group'],
      displayName: 'readers',
      members: [{ value: made[0]! }],
    });
    await directoryClient.patchGroup(group.id, [{ op: 'add', path: 'members', value: [{ value: made[1]! }] }], undefined, 'run/add#1/0');
    expect((await directoryClient.group(group.id)).members.map((m) => m.value)).toEqual([made[0], made[1]]);
    await directoryClient.patchGroup(group.id, [{ op: 'remove', path: `members[value eq "${made[0]}"]` }], undefined, 'run/out#1/0');
    expect((await directoryClient.group(group.id)).members.map((m) => m.value)).toEqual([made[1]]);
    expect(seen.every((s) => s.authorization === 'Bearer key-for-scimmy')).toBe(true);
    expect(seen.some((s) => s.key === 'run/add#1/0')).toBe(true);
  });

  it('finds somebody by an attribute, makes an account once, and changes it (RFC 7644, sections 3.3, 3.4.2.2, 3.5.2)', async () => {
    const made = await directoryClient.createUser(
      {
        userName: 'asa.lunde',
        externalId: 'run/account#1/0',
        displayName: 'Ása Lunde',
        name: { formatted: 'Ása Lunde', givenName: 'Ása', familyName: 'Lunde' },
        emails: [{ value: 'asa.lunde@skerrin.example', type: 'work', primary: true }],
        active: true,
        [enterprise]: { employeeNumber: 'S-1', department: 'Tides' },
      },
      'run/account#1/0/asa.lunde',
    );
    if (made === 'taken') return expect.fail('It is not taken.');
    expect(await directoryClient.createUser({ userName: 'asa.lunde' }, 'run/other#1/0/asa.lunde')).toBe('taken');
    // Its reader of filters knows neither attributes of an extension nor quotation marks in a text; the stand-in's does.
    const found = await directoryClient.findUser('externalId', 'run/account#1/0');
    expect(found).toMatchObject({ id: made.id, externalId: 'run/account#1/0', name: { familyName: 'Lunde' }, [enterprise]: { department: 'Tides' } });
    expect(await directoryClient.findUser('userName', 'nobody')).toBeUndefined();
    const changed = await directoryClient.patchUser(
      made.id,
      [
        { op: 'replace', path: 'active', value: false },
        { op: 'replace', path: `${enterprise}:department`, value: 'Charts' },
        { op: 'replace', path: 'name', value: { formatted: 'Ása Wedd', givenName: 'Ása', familyName: 'Wedd' } },
        { op: 'add', path: 'entitlements', value: [{ value: 'Plotter' }] },
      ],
      undefined,
      'run/change#1/0',
    );
    expect(changed).toMatchObject({
      active: false,
      name: { familyName: 'Wedd' },
      entitlements: [{ value: 'Plotter' }],
      [enterprise]: { department: 'Charts', employeeNumber: 'S-1' },
    });
    const without = await directoryClient.patchUser(made.id, [{ op: 'remove', path: 'entitlements[value eq "Plotter"]' }], undefined, 'run/away#1/0');
    expect(without.entitlements ?? []).toEqual([]);
  });

  it('tells what will never go well from what may go well later', async () => {
    await expect(directoryClient.create('Users', { schemas: ['urn:ietf:params:scim:schemas:core:2.0:User'] })).rejects.toThrow(PermanentError);
    mood = 'html';
    await expect(directoryClient.users()).rejects.toThrow(
      new TransientError('The directory answered 200 with something that cannot be read. It is not JSON.'),
    );
    mood = 'redirect';
    await expect(directoryClient.users()).rejects.toThrow(
      new PermanentError('The directory answered with a redirect to elsewhere, which is not followed.'),
    );
    mood = 'hang';
    await expect(directoryClient.users()).rejects.toThrow(new TransientError('The directory did not answer within 8 s.'));
    mood = 'well';
  });
});
