import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { eq } from 'drizzle-orm';
import type { Step } from '../../core/plans/index.ts';
import type { Form } from '../../core/forms/index.ts';
import { step, tell } from '../../core/testing/samples.ts';
import { sentence } from '../../core/values/index.ts';
import { shiftClock } from '../clock.ts';
import { item as items, person, publicRequest, rateLimit, serviceCase } from '../db/schema/index.ts';
import { draftOf } from '../items/queries.ts';
import { publish, saveDraft } from '../items/commands.ts';
import { browse } from '../items/offered.ts';
import { whyNotAsk } from '../items/audience.ts';
import { findPeople } from '../people/find.ts';
import { answerQuestion } from '../requests/commands.ts';
import { myRequest } from '../requests/queries.ts';
import { submitRequest } from '../requests/submit.ts';
import { sweep } from '../runtime/sweep.ts';
import { world, type World } from '../testing/world.ts';
import { askFromOutside, confirmOutside, fromOutside, offeredBy } from './ask.ts';
import { askToConfirm } from './confirm-mail.ts';
import { closePublicLink, makePublicLink, publicLinkOf } from './links.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());
afterEach(async () => {
  shiftClock(0);
  await w.db().delete(rateLimit);
});

const form: Form = {
  fields: [
    { id: 'chart', kind: 'text', label: 'Number of the chart', required: true },
    { id: 'depth', kind: 'number', label: 'Depth', required: false },
  ],
};
const question = step('askBack', 'where', {
  question: sentence('Where was that?'),
  fields: [{ id: 'answer', kind: 'text', label: 'Where', required: true }],
});
const dan = () => w.viewer('dan', 'designer');
let n = 0;

/** An item that is offered from outside, with the token of its link. */
async function open(steps: Step[] = [question, tell('end', 'Done')]) {
  const { id } = await w.item(`Correction ${++n}`, { steps }, form);
  const now = (await draftOf(dan(), id))!;
  const saved = await saveDraft(dan(), { id, version: now.version, draft: { ...now.draft, outsiders: true } });
  if (!saved.ok) throw new Error(saved.sentence);
  const published = await publish(dan(), { id, version: saved.version, note: '' });
  if (!published.ok) throw new Error(published.sentence);
  expect(await makePublicLink(dan(), id)).toEqual({ ok: true });
  return { id, token: await tokenOf(id) };
}
const tokenOf = async (id: string) => (await publicLinkOf(dan(), id))!.link!.split('/public/')[1]!;
const you = (mail: string, name = 'Oda Vik') => ({ 'you.name': name, 'you.mail': mail });
const ask = (token: string, mail: string, more: Partial<Parameters<typeof askFromOutside>[0]> = {}) =>
  askFromOutside({ token, address: '198.51.100.7', you: you(mail), answers: { chart: 'SK-204' }, trap: '', ...more });
/** Sends what waits for this address to be confirmed, and gives the last mail that came there. */
async function mailed(mail: string) {
  for (const row of await w.db().select().from(publicRequest).where(eq(publicRequest.email, mail))) await askToConfirm(row.id);
  await w.work();
  return (await w.mails(mail.split('@')[0]!)).at(-1)!;
}
const linkIn = (text: string) => /\/public\/requests\/([\w-]+)/.exec(text)![1]!;
const openedFor = async (mail: string) =>
  w
    .db()
    .select({ number: serviceCase.number })
    .from(serviceCase)
    .innerJoin(person, eq(person.id, serviceCase.requesterId))
    .where(eq(person.email, mail));

describe('an item that is asked for by a public link', () => {
  it('is asked for once it was confirmed by mail, once, and followed, answered and ended on the same page', async () => {
    const { token } = await open();
    expect(await ask(token, 'oda@skerrin.example')).toEqual({ ok: true, mail: 'oda@skerrin.example' });
    expect(await openedFor('oda@skerrin.example')).toEqual([]);
    const mail = await mailed('oda@skerrin.example');
    expect(mail.text).not.toContain('SK-204');
    expect(mail.text).not.toContain('Oda');
    const link = linkIn(mail.text);
    expect(await fromOutside(link)).toMatchObject({ waits: { answers: { chart: 'SK-204' }, name: 'Oda Vik' } });
    const both = await Promise.all([confirmOutside(link), confirmOutside(link)]);
    expect(both).toEqual([{ ok: true }, { ok: true }]);
    expect(await openedFor('oda@skerrin.example')).toHaveLength(1);

    const found = (await fromOutside(link))!;
    if (!('follows' in found)) throw new Error('It was confirmed');
    const mine = (await myRequest(found.follows, found.number))!;
    expect(mine).toMatchObject({ again: undefined, mayWithdraw: true });
    const [asked] = mine.questions;
    expect(await answerQuestion(found.follows, { id: asked!.id, values: { answer: 'By the mole' } })).toEqual({ ok: true });
    expect(await myRequest(found.follows, found.number)).toMatchObject({ outcome: 'fulfilled' });
    // The question came with the link to this page, not with one that wants a sign-in.
    await w.work();
    const texts = (await w.mails('oda')).map((m) => m.text);
    expect(texts.some((t) => t.includes('Where was that?') && t.includes(`/public/requests/${link}`))).toBe(true);
    expect(texts.join()).not.toContain('/counter/');
  });

  it('names who asked as somebody from outside, everywhere, and lets nobody find them as a colleague', async () => {
    const { token } = await open();
    await ask(token, 'ina.not@skerrin.example', { you: you('ina.not@skerrin.example', 'Ina Strand') });
    await confirmOutside(linkIn((await mailed('ina.not@skerrin.example')).text));
    const [row] = await w.db().select().from(person).where(eq(person.email, 'ina.not@skerrin.example'));
    expect(row).toMatchObject({ name: 'Ina Strand (from outside)', active: false, outside: true });
    expect((await findPeople('from outside')).map((p) => p.name)).toEqual([]);
  });

  it('is the only thing that they may ask for: what everyone may ask for is not for them', async () => {
    const { id: everyones } = await w.item(`Everyones ${++n}`);
    const { token } = await open();
    await ask(token, 'eva@skerrin.example');
    const link = linkIn((await mailed('eva@skerrin.example')).text);
    await confirmOutside(link);
    const found = (await fromOutside(link))!;
    if (!('follows' in found)) throw new Error('It was confirmed');
    expect(await browse(found.follows, '')).toEqual([]);
    const tried = await submitRequest(found.follows, { itemId: everyones, revision: 1, answers: {}, idempotencyKey: 'x' });
    expect(tried).toMatchObject({ ok: false, code: 'not-allowed' });
    expect(await whyNotAsk(w.db(), found.follows, everyones)).toBeDefined();
  });

  it('tells somebody who works here to ask at the Counter, and asks nothing in their name', async () => {
    const { id, token } = await open();
    await ask(token, 'Tor@skerrin.example');
    const mail = await mailed('Tor@skerrin.example');
    expect(mail.text).toContain(`/counter/ask/${id}`);
    expect(mail.text).not.toContain('/public/requests/');
    expect(await openedFor('Tor@skerrin.example')).toEqual([]);
  });

  it('is refused with what is wrong at each field, of who asks and of what is asked', async () => {
    const { token } = await open();
    const tried = await ask(token, 'nobody', { answers: { chart: '', depth: 'deep' }, you: { 'you.name': ' ', 'you.mail': 'nobody' } });
    expect(tried).toMatchObject({ ok: false, code: 'invalid' });
    expect(tried.ok === false && tried.problems!.map((p) => p.field)).toEqual(['you.name', 'you.mail', 'chart', 'depth']);
  });

  it('keeps nothing that falls into the trap, and says so to nobody', async () => {
    const { token } = await open();
    expect(await ask(token, 'robot@skerrin.example', { trap: 'https://example.org' })).toEqual({ ok: true, mail: 'robot@skerrin.example' });
    expect(await w.db().$count(publicRequest, eq(publicRequest.email, 'robot@skerrin.example'))).toBe(0);
  });

  it('writes to an address three times an hour at most, and takes so many from one place', async () => {
    const { token } = await open();
    for (let i = 0; i < 3; i++) expect((await ask(token, 'many@skerrin.example')).ok).toBe(true);
    expect(await ask(token, 'Many@skerrin.example', { address: '198.51.100.8' })).toMatchObject({ ok: false, code: 'too-many-tries' });
    const tried = [];
    for (let i = 0; i < 22; i++) tried.push((await ask(token, `m${i}@skerrin.example`, { address: '198.51.100.9' })).ok);
    expect(tried.filter(Boolean)).toHaveLength(20);
  });

  it('is not kept beyond a day unconfirmed, and not confirmed after it', async () => {
    const { token } = await open();
    await ask(token, 'late@skerrin.example');
    const link = linkIn((await mailed('late@skerrin.example')).text);
    shiftClock(25 * 3_600_000);
    expect(await fromOutside(link)).toBeUndefined();
    expect(await confirmOutside(link)).toMatchObject({ ok: false, code: 'ended' });
    shiftClock(0);
    await w.query("update public_request set expires_at = now() - interval '1 minute' where email = 'late@skerrin.example'");
    await sweep();
    expect(await w.db().$count(publicRequest, eq(publicRequest.email, 'late@skerrin.example'))).toBe(0);
    expect(await openedFor('late@skerrin.example')).toEqual([]);
  });

  it('leads nowhere once it is closed, made anew, archived, or not offered from outside any more; what was asked goes on', async () => {
    const { id, token } = await open();
    await ask(token, 'vik@skerrin.example');
    const link = linkIn((await mailed('vik@skerrin.example')).text);
    await makePublicLink(dan(), id);
    expect(await offeredBy(token)).toBeUndefined();
    expect(await ask(token, 'vik@skerrin.example')).toMatchObject({ ok: false, code: 'ended' });
    const second = await tokenOf(id);
    expect(await offeredBy(second)).toMatchObject({ itemId: id });
    await w.db().update(items).set({ archivedAt: new Date() }).where(eq(items.id, id));
    expect(await offeredBy(second)).toBeUndefined();
    expect(await confirmOutside(link)).toMatchObject({ ok: false, code: 'ended' });
    await w.db().update(items).set({ archivedAt: null }).where(eq(items.id, id));
    expect(await confirmOutside(link)).toEqual({ ok: true });
    await closePublicLink(dan(), id);
    expect(await offeredBy(second)).toBeUndefined();
    expect(await fromOutside(link)).toMatchObject({ number: expect.any(Number) });
  });

  it('has no link before it is published for those outside', async () => {
    const { id } = await w.item(`Inside ${++n}`);
    expect(await makePublicLink(dan(), id)).toMatchObject({ ok: false, code: 'invalid' });
    expect(await publicLinkOf(dan(), id)).toEqual({ offered: false, link: undefined });
  });
});
