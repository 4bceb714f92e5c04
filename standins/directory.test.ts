import type { AddressInfo } from 'node:net';
import type { Server } from 'node:http';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { directory, ownership } from './directory.ts';

let server: Server;
let base: string;
beforeAll(async () => {
  server = await new Promise<Server>((up) => {
    const s: Server = directory({ token: 'key-for-tests' }).listen(0, '127.0.0.1', () => up(s));
  });
  base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => new Promise((done) => server.close(done)));

interface Answer {
  status: number;
  etag: string | null;
  // eslint-disable-next-line @typescript-eslint/no-explicit-any -- the tests look into whatever comes back
  body: any;
}
async function send(method: string, path: string, body?: unknown, headers: Record<string, string> = {}): Promise<Answer> {
  const response = await fetch(`${base}${path}`, {
    method,
    headers: { authorization: 'Bearer key-for-tests', 'content-type': 'application/scim+json', ...headers },
    ...(body !== undefined && { body: JSON.stringify(body) }),
  });
  const text = await response.text();
  return { status: response.status, etag: response.headers.get('etag'), body: text ? JSON.parse(text) : undefined };
}

/** After the enterprise user of RFC 7643, section 8.3, and the group of section 8.4 (from memory, shortened). */
const user = (userName: string, more: object = {}) => ({
  schemas: ['urn:ietf:params:scim:schemas:core:2.0:User', 'urn:ietf:params:scim:schemas:extension:enterprise:2.0:User'],
  userName,
  name: { formatted: 'Ms. Barbara J Jensen, III', familyName: 'Jensen', givenName: 'Barbara' },
  displayName: 'Babs Jensen',
  emails: [
    { value: 'bjensen@example.com', type: 'work', primary: true },
    { value: 'babs@jensen.example', type: 'home' },
  ],
  active: true,
  'urn:ietf:params:scim:schemas:extension:enterprise:2.0:User': { employeeNumber: '701984', department: 'Tour Operations' },
  ...more,
});
const listOf = async (filter: string) =>
  (await send('GET', `/scim/v2/Users?filter=${encodeURIComponent(filter)}`)).body.Resources.map((r: { userName: string }) => r.userName);

describe('the directory speaks SCIM 2.0', () => {
  it('creates, reads, and refuses a taken user name (RFC 7644, 3.3 and 3.12)', async () => {
    const made = await send('POST', '/scim/v2/Users', user('bjensen'));
    expect(made).toMatchObject({ status: 201, etag: 'W/"1"', body: { userName: 'bjensen', meta: { resourceType: 'User', version: 'W/"1"' } } });
    expect((await send('GET', `/scim/v2/Users/${made.body.id}`)).body.emails).toHaveLength(2);
    expect(await send('POST', '/scim/v2/Users', user('BJensen'))).toMatchObject({
      status: 409,
      body: { schemas: ['urn:ietf:params:scim:api:messages:2.0:Error'], status: '409', scimType: 'uniqueness' },
    });
    expect((await send('GET', '/scim/v2/Users/nobody')).status).toBe(404);
  });

  it('filters as in the examples of RFC 7644, section 3.4.2.2', async () => {
    await send(
      'POST',
      '/scim/v2/Users',
      user('omalley', { name: { familyName: "O'Malley" }, title: 'Tour guide', emails: [{ value: 'om@example.org', type: 'work' }] }),
    );
    await send('POST', '/scim/v2/Users', user('jsmith', { name: { familyName: 'Smith' }, active: false }));
    expect(await listOf('userName eq "bjensen"')).toEqual(['bjensen']);
    expect(await listOf('name.familyName co "O\'Malley"')).toEqual(['omalley']);
    expect(await listOf('userName sw "J"')).toEqual(['jsmith']);
    expect(await listOf('title pr')).toEqual(['omalley']);
    expect(await listOf('active eq false')).toEqual(['jsmith']);
    expect(await listOf('userName eq "bjensen" or title pr')).toEqual(['bjensen', 'omalley']);
    expect(await listOf('emails[type eq "work" and value co "@example.com"]')).toEqual(['bjensen', 'jsmith']);
    expect(await listOf('not (active eq true)')).toEqual(['jsmith']);
    expect(await send('GET', `/scim/v2/Users?filter=${encodeURIComponent('userName maybe 1')}`)).toMatchObject({
      status: 400,
      body: { scimType: 'invalidFilter' },
    });
  });

  it('pages by startIndex and count (section 3.4.2.4)', async () => {
    const { body } = await send('GET', '/scim/v2/Users?startIndex=2&count=1');
    expect(body).toMatchObject({ totalResults: 3, startIndex: 2, itemsPerPage: 1 });
    expect(body.Resources[0].userName).toBe('omalley');
  });

  it('patches members as in section 3.5.2, keeps them a set, and guards by ETag', async () => {
    const [a, b] = (await send('GET', '/scim/v2/Users')).body.Resources as { id: string }[];
    const group = (
      await send('POST', '/scim/v2/Groups', {
        displayName: 'Tour Guides',
        members: [{ value: a!.id }],
        [ownership]: { owners: [{ value: b!.id }], purpose: 'Tours' },
      })
    ).body;
    const add = {
      schemas: ['urn:ietf:params:scim:api:messages:2.0:PatchOp'],
      Operations: [{ op: 'add', path: 'members', value: [{ value: b!.id }] }],
    };
    const first = await send('PATCH', `/scim/v2/Groups/${group.id}`, add, { 'if-match': 'W/"1"' });
    expect(first).toMatchObject({ status: 200, etag: 'W/"2"' });
    expect(first.body.members.map((m: { value: string }) => m.value)).toEqual([a!.id, b!.id]);
    expect((await send('PATCH', `/scim/v2/Groups/${group.id}`, add, { 'if-match': 'W/"1"' })).status).toBe(412);
    const again = await send('PATCH', `/scim/v2/Groups/${group.id}`, add);
    expect(again.body.members).toHaveLength(2);
    expect(again.etag).toBe('W/"2"');
    expect((await send('GET', `/scim/v2/Groups/${group.id}`, undefined, { 'if-none-match': 'W/"2"' })).status).toBe(304);
    const removed = await send('PATCH', `/scim/v2/Groups/${group.id}`, { Operations: [{ op: 'remove', path: `members[value eq "${a!.id}"]` }] });
    expect(removed.body.members.map((m: { value: string }) => m.value)).toEqual([b!.id]);
    expect(removed.body[ownership]).toMatchObject({ purpose: 'Tours', owners: [{ value: b!.id }] });
    expect(
      (await send('PATCH', `/scim/v2/Groups/${group.id}`, { Operations: [{ op: 'add', path: 'members', value: [{ value: 'nobody' }] }] })).status,
    ).toBe(400);
  });

  it('answers a write repeated under its key as before, and changes nothing', async () => {
    const key = { 'idempotency-key': 'run-1/add#1/0' };
    const one = await send('POST', '/scim/v2/Users', user('once'), key);
    const two = await send('POST', '/scim/v2/Users', user('once'), key);
    expect(two).toEqual(one);
    const journal = (await send('GET', '/_journal')).body as { key?: string }[];
    expect(journal.filter((j) => j.key === key['idempotency-key'])).toHaveLength(1);
  });

  it('wants its token, and can be told to fail, to refuse and to be slow', async () => {
    expect((await send('GET', '/scim/v2/Users', undefined, { authorization: 'Bearer wrong' })).status).toBe(401);
    const manner = (manner: string, delayMs = 0) => send('POST', '/_manner', { manner, delayMs }, { 'content-type': 'application/json' });
    await manner('failing');
    expect((await send('GET', '/scim/v2/Users')).status).toBe(503);
    await manner('refusing');
    expect((await send('GET', '/scim/v2/Users')).status).toBe(403);
    await manner('slow', 150);
    const began = performance.now();
    expect((await send('GET', '/scim/v2/Users?count=0')).body.totalResults).toBeGreaterThan(0);
    expect(performance.now() - began).toBeGreaterThan(140);
    await manner('well');
    expect((await manner('grumpy')).status).toBe(400);
    expect((await send('GET', '/scim/v2/ServiceProviderConfig')).body).toMatchObject({
      patch: { supported: true },
      etag: { supported: true },
      bulk: { supported: false },
    });
  });
});
