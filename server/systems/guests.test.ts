import { Validator } from '@seriousme/openapi-schema-validator';
import { isNull, eq } from 'drizzle-orm';
import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';
import { guestFromAPartner } from '../../demo/guest-from-a-partner.ts';
import { guestHouse as registered } from '../../demo/guest-house.ts';
import { guestHouse } from '../../standins/guests.ts';
import { askedOf } from '../../core/lists/index.ts';
import { decide } from '../approvals/commands.ts';
import { tendCall } from '../calls/tend.ts';
import { now } from '../clock.ts';
import { setSystemOwners } from '../consents/commands.ts';
import { settleDifference } from '../differences/commands.ts';
import { differenceList } from '../differences/list.ts';
import { giveBack } from '../holdings/commands.ts';
import { thingsHeld } from '../holdings/queries.ts';
import { deliverMail } from '../mail/hand-over.ts';
import { myRequest } from '../requests/queries.ts';
import { fireTimer } from '../runtime/fire-timers.ts';
import { loopback } from '../testing/loopback.ts';
import { replays } from '../testing/replays.ts';
import { world, type World } from '../testing/world.ts';
import { keepWebSystem } from './commands.ts';

/** The guest of the demo, against the guest house over real HTTP and a mailbox over real SMTP. */
let w: World;
const on = loopback();
let base: string;
let item: string;
let system: string;
beforeAll(async () => {
  w = await world();
  const smtp = (w.settings as unknown as Record<string, string>)['SMTP_URL']!;
  const house = guestHouse({ token: 'key-of-the-house', smtp, address: 'http://guests.example' });
  base = await on.listen(house);
  const made = await keepWebSystem(w.viewer('dan', 'administrator'), { definition: registered(`${base}/house`), secret: 'key-of-the-house' });
  if (!made.ok) throw new Error(`${made.sentence} ${JSON.stringify(made.problems)}`);
  system = made.id;
  await setSystemOwners('host', { system, people: [w.id('boss')] });
  const definition = guestFromAPartner(system);
  item = (await w.item(definition.name, definition.plan, definition.form)).id;
});
afterAll(async () => {
  await on.close();
  await w.close();
});
const post = (path: string, body?: object) =>
  fetch(`${base}${path}`, { method: 'POST', headers: { 'content-type': 'application/json' }, ...(body && { body: JSON.stringify(body) }) });
beforeEach(() => post('/_ways', { accept: 'later', closed: '' }));

/** Does what is due now, and lets those timers fire that have this name. */
async function work(timer?: { name: string; key: RegExp }): Promise<void> {
  for (let i = 0; i < 6; i++) {
    for (const c of await w.db().select({ id: w.schema.call.id }).from(w.schema.call).where(isNull(w.schema.call.closedAt))) await tendCall(c.id);
    for (const m of await w.db().select({ id: w.schema.message.id }).from(w.schema.message).where(isNull(w.schema.message.sentAt)))
      await deliverMail(m.id);
    if (timer === undefined || i > 0) continue;
    for (const t of await w.db().select().from(w.schema.timer).where(eq(w.schema.timer.name, timer.name))) {
      if (!timer.key.test(t.key)) continue;
      await w
        .db()
        .update(w.schema.timer)
        .set({ dueAt: new Date(now().getTime() - 1000) })
        .where(eq(w.schema.timer.key, t.key));
      await fireTimer(t);
    }
  }
}
const again = { name: 'again', key: /^accepts#/ };
let n = 0;
async function invited() {
  const mail = `sigga${++n}@skerrin.example`;
  const answers = { name: 'Sigga Hafrun', mail, until: '2027-06-30', rooms: ['tide-exchange', 'chart-reviews'], why: 'Tides together' };
  const made = await w.ask(w.viewer('tor'), item, 'tide-models', answers);
  const [approval] = await w.approvals(made.id);
  expect(await decide(w.viewer('runa'), { approvalId: approval!.id, decision: 'approve', comment: '' })).toMatchObject({ ok: true });
  await work();
  return { ...made, mail };
}
const guests = async () => (await (await fetch(`${base}/_guests`)).json()) as { id: string; mail: string; rooms: string[]; removedAt?: string }[];
const guest = async (mail: string) => (await guests()).find((g) => g.mail === mail)!;
const standing = async (id: string) =>
  (await w.query<{ outcome: string | null }>("select state ->> 'outcome' as outcome from run where id = $1", [id]))[0]!.outcome;
const told = async (subject: RegExp) => (await w.mails('tor')).filter((m) => subject.test(m.subject));

it('describes itself in a document that OpenAPI 3.1 allows (held against its published schema)', async () => {
  expect(await new Validator().validate((await (await fetch(`${base}/openapi.json`)).json()) as never)).toEqual({ valid: true });
});

it('is invited by mail, looked after every five minutes, and let in once they have accepted; the sponsor can send them home', async () => {
  const { id, number, mail } = await invited();
  expect((await guest(mail)).rooms).toEqual([]);
  const [pause] = await w.query<{ seconds: number }>(
    "select extract(epoch from due_at - now())::int as seconds from timer where run_id = $1 and name = 'again'",
    [id],
  );
  expect(Math.abs(pause!.seconds - 300)).toBeLessThan(30);
  await work(again);
  await work(again);
  expect(await w.query("select count(*)::int as n from call where run_id = $1 and action like '%.look'", [id])).toEqual([{ n: 3 }]);
  expect(await standing(id)).toBeNull();
  // Between two looks whoever asked reads what is waited for.
  expect((await myRequest(w.viewer('tor'), number))?.standing).toMatchObject({ step: 'The guest accepts', who: [], stuck: false });
  const { rows } = await thingsHeld(w.viewer('tor'), 'mine');
  expect(rows).toMatchObject([{ kind: 'guest', what: mail, until: '2027-06-30' }]);
  const [letter] = await w.mails(mail.split('@')[0]!);
  await post(new URL(/https?:\/\/\S+/.exec(letter!.text)![0]).pathname);
  await work(again);
  expect(await standing(id)).toBe('fulfilled');
  expect((await guest(mail)).rooms).toEqual(['tide-exchange', 'chart-reviews']);
  expect((await told(/Your guest is here/)).at(-1)!.text).toContain('Sigga Hafrun has accepted');
  expect(await giveBack(w.viewer('tor'), { id: rows[0]!.id, why: '' })).toEqual({ ok: true });
  await work();
  expect(await guest(mail)).toMatchObject({ rooms: [], removedAt: expect.any(String) });
  await replays(w, id);
});

it('a room that lets nobody in is told; the others let them in', async () => {
  await post('/_ways', { accept: 'at once', closed: 'tide-exchange' });
  const { id, mail } = await invited();
  expect(await standing(id)).toBe('fulfilled');
  expect((await guest(mail)).rooms).toEqual(['chart-reviews']);
  expect((await told(/A room did not let your guest in/)).at(-1)!.text).toContain('could not be let into Tide exchange');
  await replays(w, id);
});

it('who has not accepted in a week is not let in: it is told, and the invitation is taken back; nothing is held', async () => {
  const { id, mail } = await invited();
  await work({ name: 'deadline', key: /^wait#/ });
  expect(await standing(id)).toBe('lapsed');
  expect(await guest(mail)).toMatchObject({ rooms: [], removedAt: expect.any(String) });
  expect(await told(/Your guest has not accepted/)).toHaveLength(1);
  await replays(w, id);
});

it('its list says who is there: a guest the house sent home is missing with the sponsor, one invited past us is taken over or sent home', async () => {
  await post('/_ways', { accept: 'at once', closed: '' });
  const { id, mail } = await invited();
  expect(await standing(id)).toBe('fulfilled');
  const boss = w.viewer('boss', 'administrator');
  const differences = async () => (await differenceList(boss, askedOf('differences', 'state=open')))!.rows.map((r) => [r.is, r.what, r.who]);
  await w.read(system);
  expect(await differences()).toEqual([]);
  await post(`/_lose/${(await guest(mail)).id}`);
  const past = (name: string, sponsor: object) =>
    fetch(`${base}/house/guests`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', authorization: 'Bearer key-of-the-house' },
      body: JSON.stringify({ mail: `${name}@partner.example`, name, until: '2027-06-30', ...sponsor }),
    });
  await past('kari', { sponsor: w.id('ina') });
  await past('pia', {});
  await w.read(system);
  expect((await differences()).toSorted()).toEqual([
    ['missing', mail, 'Tor Strand'],
    ['unknown', 'kari@partner.example', 'Ina Strand'],
    ['unknown', 'pia@partner.example', null],
  ]);
  const { rows } = (await differenceList(boss, askedOf('differences', 'state=open')))!;
  const of = (what: string) => rows.find((r) => r.what === what)!.id;
  expect(await settleDifference(boss, { id: of(mail), how: 'end', person: '', why: 'The house sent them home.' })).toEqual({ ok: true });
  expect(
    await settleDifference(boss, { id: of('kari@partner.example'), how: 'takeOver', person: w.id('ina'), why: 'She answers for her.' }),
  ).toMatchObject({
    ok: true,
  });
  expect(
    await settleDifference(boss, { id: of('pia@partner.example'), how: 'takeBack', person: w.id('ina'), why: 'Nobody knows her.' }),
  ).toMatchObject({
    ok: true,
  });
  await work();
  expect((await thingsHeld(w.viewer('ina'), 'mine')).rows).toMatchObject([{ kind: 'guest', what: 'kari@partner.example' }]);
  expect((await guests()).filter((g) => !g.removedAt && g.mail.endsWith('@partner.example')).map((g) => g.mail)).toEqual(['kari@partner.example']);
  await w.read(system);
  expect(await differences()).toEqual([]);
});
