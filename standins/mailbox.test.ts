import type { AddressInfo } from 'node:net';
import type { Server } from 'node:http';
import { createTransport } from 'nodemailer';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { mailbox, type Received } from './mailbox.ts';

const box = mailbox({});
let web: Server;
let base: string;
let port: number;
beforeAll(async () => {
  web = await new Promise<Server>((up) => {
    const s: Server = box.web.listen(0, '127.0.0.1', () => up(s));
  });
  base = `http://127.0.0.1:${(web.address() as AddressInfo).port}`;
  await new Promise<void>((up) => box.smtp.listen(0, '127.0.0.1', () => up()));
  port = (box.smtp.server.address() as AddressInfo).port;
});
afterAll(() => Promise.all([new Promise((done) => web.close(done)), new Promise<void>((done) => box.smtp.close(() => done()))]));

const send = (subject: string, more: object = {}) =>
  createTransport({ host: '127.0.0.1', port, secure: false }).sendMail({
    from: 'desk@skerrin.example',
    to: 'ina@skerrin.example',
    subject,
    text: 'Words',
    ...more,
  });
const all = async () => (await (await fetch(`${base}/_messages`)).json()) as Received[];
const manner = (m: string) =>
  fetch(`${base}/_manner`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ manner: m }) });

describe('the mailbox takes SMTP through a real socket', () => {
  it('shows what it received, with the thread (RFC 5322, appendix A.2)', async () => {
    await send('First', { messageId: '<1234@local.machine.example>' });
    await send('Re: First', {
      messageId: '<3456@example.net>',
      inReplyTo: '<1234@local.machine.example>',
      references: ['<1234@local.machine.example>'],
    });
    const [first, second] = await all();
    expect(first).toMatchObject({ to: ['ina@skerrin.example'], subject: 'First', messageId: '<1234@local.machine.example>', deliveries: 1 });
    expect(second).toMatchObject({ inReplyTo: '<1234@local.machine.example>', references: ['<1234@local.machine.example>'] });
    const page = await (await fetch(`${base}/message/2`)).text();
    expect(page).toContain('&lt;3456@example.net&gt;'.replace('&lt;', '&#60;').replace('&gt;', '&#62;'));
    expect(await (await fetch(`${base}/?to=ina`)).text()).toContain('Re: First');
  });

  it('counts a message delivered again, and shows it once', async () => {
    await send('Twice', { messageId: '<twice@x.example>' });
    await send('Twice', { messageId: '<twice@x.example>' });
    expect((await all()).filter((m) => m.subject === 'Twice').map((m) => m.deliveries)).toEqual([2]);
  });

  it('shows markup as text', async () => {
    await send('<script>alert(1)</script>', { text: '<b>bold</b>' });
    const page = await (await fetch(`${base}/`)).text();
    expect(page).not.toContain('<script>');
  });

  it('can be told to fail for a while and to refuse', async () => {
    await manner('failing');
    await expect(send('Later')).rejects.toMatchObject({ responseCode: 451 });
    await manner('refusing');
    await expect(send('Never')).rejects.toMatchObject({ responseCode: 550 });
    await manner('well');
    await send('Again');
    expect((await all()).at(-1)?.subject).toBe('Again');
  });
});
