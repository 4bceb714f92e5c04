import { createHash } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { linkToken, world, type World } from '../testing/world.ts';
import { blankItem } from '../../core/items/index.ts';
import { createItem, saveDraft, publish } from '../items/commands.ts';
import { hashOf } from '../items/definitions.ts';
import { decideByLink } from '../approvals/commands.ts';
import { approvalByLink } from '../approvals/queries.ts';
import { setPassword } from '../people/commands.ts';
import { signIn, signOut } from '../auth/sign-in.ts';
import { viewerOf } from '../auth/viewer.ts';
import { directoryClient, ownership } from '../systems/directory/client.ts';

let w: World;
let item: { id: string };
beforeAll(async () => {
  w = await world();
  item = await w.item();
});
afterAll(() => w.close());

describe('items', () => {
  it('have names of their own, whatever the case', async () => {
    expect(await createItem(w.viewer('dan', 'designer'), { name: 'JOIN a group' })).toMatchObject({ code: 'taken', problems: [{ field: 'name' }] });
    expect(await createItem(w.viewer('dan', 'designer'), { name: '  ' })).toMatchObject({ code: 'invalid' });
  });

  it('are copied without touching the original', async () => {
    const designer = w.viewer('dan', 'designer');
    const copy = await createItem(designer, { name: 'Join a group, tried out', copyOf: item.id });
    if (!copy.ok) throw new Error(copy.sentence);
    const broken = await saveDraft(designer, { id: copy.id, version: 1, draft: { ...blankItem('Join a group, tried out') } });
    expect(broken).toMatchObject({ ok: true, version: 2, findings: [{ code: 'no-outcome' }] });
    const [original] = await w.query<{ steps: number }>("select jsonb_array_length(draft->'plan'->'steps') as steps from item where id = $1", [
      item.id,
    ]);
    expect(original!.steps).toBe(3);
  });

  it('saved by two people: the second is told and overwrites nothing', async () => {
    const designer = w.viewer('dan', 'designer');
    const made = await createItem(designer, { name: 'Shared draft' });
    if (!made.ok) throw new Error(made.sentence);
    const save = (summary: string) => saveDraft(designer, { id: made.id, version: 1, draft: { ...blankItem('Shared draft'), summary } });
    const both = await Promise.all([save('one'), save('two')]);
    expect(both.map((r) => (r.ok ? 'saved' : r.code)).sort()).toEqual(['changed-meanwhile', 'saved']);
  });

  it('that do not fit the schema are refused with the place', async () => {
    const result = await saveDraft(w.viewer('dan', 'designer'), {
      id: item.id,
      version: 2,
      draft: { ...blankItem('Join a group'), plan: { steps: [{ id: 'x', kind: 'teleport', name: 'X' }] } },
    });
    expect(result).toMatchObject({ ok: false, code: 'invalid', sentence: expect.stringContaining('plan') });
  });

  it('are not published while findings stop it, nor twice the same', async () => {
    const designer = w.viewer('dan', 'designer');
    const made = await createItem(designer, { name: 'Empty plan' });
    if (!made.ok) throw new Error(made.sentence);
    expect(await publish(designer, { id: made.id, version: 1, note: '' })).toMatchObject({
      code: 'has-findings',
      problems: [{ sentence: expect.stringContaining('no steps') }],
    });
    expect(await publish(designer, { id: item.id, version: 2, note: '' })).toMatchObject({
      code: 'taken',
      sentence: 'Nothing has changed since revision 1.',
    });
  });

  it('have a hash that does not depend on the order of keys (RFC 8785)', async () => {
    expect(hashOf({ b: 1, a: { d: [1, 2], c: 'é' } })).toBe(hashOf({ a: { c: 'é', d: [1, 2] }, b: 1 }));
    // RFC 8785, section 3.2.2: literals and numbers in canonical form, hashed here by Node on the RFC's own text.
    const canonical = '{"literals":[null,true,false],"numbers":[333333333.3333333,1e+30,4.5,0.002,1e-27]}';
    const sample = { numbers: [333333333.33333329, 1e30, 4.5, 2e-3, 0.000000000000000000000000001], literals: [null, true, false] };
    expect(hashOf(sample)).toBe(createHash('sha256').update(canonical).digest('hex'));
  });
});

describe('what is append-only', () => {
  it.each(['change_log', 'run_event', 'revision'])('%s takes no change from the application', async (table) => {
    await w.ask(w.viewer('tor'), item.id);
    await expect(w.query(`delete from ${table}`)).rejects.toThrow(/permission denied|append-only/);
    await expect(w.query(`truncate ${table} cascade`)).rejects.toThrow(/permission denied|append-only/);
    const column = table === 'change_log' ? 'action' : table === 'revision' ? 'note' : 'ignored';
    await expect(w.query(`update ${table} set ${column} = 'x'`)).rejects.toThrow(/permission denied|append-only/);
  });
});

describe('the link in an approval mail', () => {
  it('decides once, without sign-in; a second use is told', async () => {
    const { id, number } = await w.ask(w.viewer('runa'), item.id);
    await w.work();
    const token = linkToken((await w.mails('ina')).filter((m) => m.subject.includes(`R-${number}`)).at(-1)!.text);
    expect((await approvalByLink(token)).approval).toMatchObject({ number, item: 'Join a group', status: 'waiting' });
    expect(await decideByLink({ token, decision: 'decline', comment: '' })).toMatchObject({ code: 'invalid' });
    expect(await decideByLink({ token, decision: 'approve', comment: '' })).toEqual({ ok: true });
    expect(await decideByLink({ token, decision: 'approve', comment: '' })).toMatchObject({ code: 'ended' });
    expect(await approvalByLink(token)).toEqual({ approval: undefined, known: true });
    expect(await approvalByLink('made-up')).toEqual({ approval: undefined, known: false });
    expect(await decideByLink({ token: 'made-up', decision: 'approve', comment: '' })).toMatchObject({ code: 'ended' });
    await w.work();
    expect((await w.request(id)).outcome).toBe('fulfilled');
  });
});

describe('sign-in', () => {
  it('takes name or address with the right password, and says the same for every wrong one', async () => {
    expect(await setPassword('host', { personId: w.id('tor'), password: 'short' })).toMatchObject({ code: 'invalid' });
    await setPassword('host', { personId: w.id('tor'), password: 'skerry light 7' });
    const right = await signIn('TOR@skerrin.example', 'skerry light 7', { address: '127.0.0.1', agent: 'test' });
    if (!right.ok) throw new Error(right.sentence);
    expect(await viewerOf(right.cookie)).toMatchObject({ id: w.id('tor'), roles: [], zone: 'UTC' });
    await signOut(right.cookie, '127.0.0.1');
    expect(await viewerOf(right.cookie)).toBeUndefined();
    const wrong = await signIn('tor', 'not it at all', { address: '127.0.0.1', agent: 'test' });
    const unknown = await signIn('nobody-here', 'not it at all', { address: '127.0.0.1', agent: 'test' });
    expect(wrong).toEqual(unknown);
    const [kept] = await w.query<{ password_hash: string }>('select password_hash from person where user_name = $1', ['tor']);
    expect(kept!.password_hash).toMatch(/^\$argon2id\$/);
  });

  it('is held back after too many tries', async () => {
    const tries = [];
    for (let i = 0; i < 10; i++) tries.push(await signIn('olav', 'wrong', { address: '127.0.0.9', agent: 'test' }));
    expect(tries.slice(0, 8).every((t) => !t.ok && t.code === 'invalid')).toBe(true);
    expect(tries[9]).toMatchObject({ code: 'too-many-tries', sentence: expect.stringMatching(/^Too many tries. Try again in \d+ seconds.$/) });
  });
});

describe('the directory', () => {
  it('read again brings people who left, new owners and lost members', async () => {
    const group = await w.scimGroup('orphan-files');
    await directoryClient.replace('Groups', group.id, {
      displayName: 'orphan-files',
      members: [{ value: w.scimUser('dan') }],
      [ownership]: { owners: [{ value: w.scimUser('olav') }] },
    });
    await w.sync();
    const now = await w.query<{ user_name: string; as: string }>(
      `select p.user_name, gp."as" from group_person gp join person p on p.id = gp.person_id where gp.group_id = $1 order by 1`,
      [w.groupId('orphan-files')],
    );
    expect(now).toEqual([
      { user_name: 'dan', as: 'member' },
      { user_name: 'olav', as: 'owner' },
    ]);
    await directoryClient.replace('Groups', group.id, { displayName: 'orphan-files', members: [], [ownership]: { owners: [] } });
    await w.sync();
    expect(await w.query('select from group_person where group_id = $1', [w.groupId('orphan-files')])).toEqual([]);
  });
});
