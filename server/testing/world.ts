import { randomBytes } from 'node:crypto';
import { createServer, type AddressInfo } from 'node:net';
import type { Server } from 'node:http';
import pg from 'pg';
import { and, eq, isNotNull, isNull, sql } from 'drizzle-orm';
import { calendars } from '../../standins/calendars.ts';
import { directory } from '../../standins/directory.ts';
import { chat } from '../../standins/chat.ts';
import { mailbox, type Received } from '../../standins/mailbox.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import type { Form } from '../../core/forms/index.ts';
import { form as sampleForm, joinGroup, wideForm } from '../../core/testing/samples.ts';
import type { Plan } from '../../core/plans/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { now, shiftClock } from '../clock.ts';
import { testSettings } from './settings.ts';
import { connections, db, disconnect } from '../db/database.ts';
import { directoryClient } from '../systems/directory/client.ts';
import { syncDirectory } from '../people/sync-directory.ts';
import { exchangeWords } from '../conversation/exchange.ts';
import { tendCall } from '../calls/tend.ts';
import { letIn } from '../groups/let-in.ts';
import { makeLetter } from '../letters/make.ts';
import { arrangeMeeting } from '../meetings/arrange.ts';
import { deliverMail } from '../mail/hand-over.ts';
import { fireTimer } from '../runtime/fire-timers.ts';
import { ticketTime } from '../tickets/time.ts';
import { mailIn } from '../mail/listener.ts';
import { makeOrganisation } from './organisation.ts';
import { createItem, publish, saveDraft } from '../items/commands.ts';
import { placed, withParts } from './parts.ts';
import { consentTo } from './consent.ts';
import { readSystem, wantReading } from '../differences/reading.ts';
import { submitRequest } from '../requests/submit.ts';
import { decide } from '../approvals/commands.ts';
import * as schema from '../db/schema/index.ts';

/**
 * A small organisation on a database of its own, with real stand-ins on loopback ports, for tests of commands and
 * runtime. Jobs are run by `work()`, at once and in this process, with the same functions the worker uses.
 */
export async function world({ replies = false }: { replies?: boolean } = {}) {
  // Tests of several files run in one process: each begins with the clock as it is.
  shiftClock(0);
  const server = process.env['TEST_DATABASE_URL'];
  const app = process.env['TEST_APP_DATABASE_URL'];
  if (!server || !app) throw new Error('Run these tests with: npm test -- unit');
  const name = `t_${randomBytes(6).toString('hex')}`;
  const admin = new pg.Client({ connectionString: server });
  await admin.connect();
  await admin.query(`create database ${name} template nessmoor_template`);
  const token = randomBytes(12).toString('hex');
  const servers: Server[] = [];
  const listen = async (on: { listen: (port: number, host: string, up: () => void) => Server }) => {
    const s = await new Promise<Server>((up) => {
      const started: Server = on.listen(0, '127.0.0.1', () => up(started));
    });
    servers.push(s);
    return (s.address() as AddressInfo).port;
  };
  // Where replies come in: a port that was free a moment ago.
  const repliesPort = replies ? await freePort() : undefined;
  const mail = mailbox(repliesPort ? { replies: `smtp://127.0.0.1:${repliesPort}` } : {});
  const chatPort = replies ? await listen(chat({ token })) : undefined;
  const directoryPort = await listen(directory({ token }));
  const calendarPort = await listen(calendars({ token }));
  const mailPort = await listen(mail.web);
  await new Promise<void>((up) => mail.smtp.listen(0, '127.0.0.1', () => up()));
  const settings = testSettings({
    DATABASE_URL: app.replace(/\/postgres$/, `/${name}`),
    SECRET_KEY: 'ab'.repeat(32),
    DIRECTORY_URL: `http://127.0.0.1:${directoryPort}/scim/v2`,
    DIRECTORY_TOKEN: token,
    SMTP_URL: `smtp://127.0.0.1:${(mail.smtp.server.address() as AddressInfo).port}`,
    CHAT_DOMAIN: 'skerrin.example',
    CALENDAR_URL: `http://127.0.0.1:${calendarPort}/outbox`,
    CALENDAR_TOKEN: token,
    ...(repliesPort && { MAIL_IN_PORT: String(repliesPort) }),
    ...(chatPort && { CHAT_URL: `http://127.0.0.1:${chatPort}`, CHAT_TOKEN: token }),
  });
  const takesReplies = replies ? mailIn() : undefined;
  const { scim, scimGroups, people, groups, teamId, machines, routing } = await makeOrganisation();
  const machine = { table: machines, key: 'Large' };
  const id = (userName: string) => people[userName]!;
  const viewer = (userName: string, ...roles: Viewer['roles']): Viewer => ({
    id: id(userName),
    name: userName,
    email: `${userName}@skerrin.example`,
    zone: 'UTC',
    roles,
  });

  const parts = new Map<string, string>();
  const made = {
    db,
    schema,
    settings,
    teamId,
    /** A row of the reference table that the samples read. */
    machine,
    id,
    viewer,
    groupId: (groupName: string) => groups[groupName]!,
    scimGroup: (groupName: string) => directoryClient.group(scimGroups[groupName]!),
    scimUser: (userName: string) => scim[userName]!,
    sync: syncDirectory,
    /** Has a system say what it has, as its job does, and compares that with what is held. Throws where it is not read to its end. */
    read: async (system: string): Promise<void> => {
      await db().transaction((tx) => wantReading(tx, system, null));
      await readSystem(system);
      const [reading] = await db().select().from(schema.systemReading).where(eq(schema.systemReading.system, system));
      if (!reading?.endedAt || !reading.whole) throw new Error(`${system} was not read: ${reading?.cause ?? 'not asked'}`);
    },
    /** A published item with the sample form and plan, the stand-in approver being `boss`. */
    item: async (
      itemName = 'Join a group',
      plan: Plan = joinGroup,
      form: Form = sampleForm,
      more: Partial<ItemDefinition> = {},
    ): Promise<{ id: string }> => {
      const designer = viewer('dan', 'designer');
      const made = await createItem(designer, { name: itemName });
      if (!made.ok) throw new Error(made.sentence);
      const stand = { ada: id('boss'), desk: teamId, machines, tides: groups['tide-models']!, whoGets: routing };
      const real = await withParts(plan, designer, stand, parts);
      const draft: ItemDefinition = {
        name: itemName,
        summary: 'Access through a group',
        category: 'Access',
        form: placed(form, stand),
        plan: real,
        ...more,
      };
      const saved = await saveDraft(designer, { id: made.id, version: 1, draft });
      if (!saved.ok) throw new Error(saved.sentence);
      const published = await consentTo(viewer('boss'), () => publish(designer, { id: made.id, version: saved.version, note: '' }));
      if (!published.ok) throw new Error(`${published.sentence} ${JSON.stringify(published.problems)}`);
      return { id: made.id };
    },
    /** Asks for the item; gives the number of the request, the id of its run and of its case. */
    ask: async (who: Viewer, itemId: string, group = 'tide-models', more: Record<string, unknown> = {}) => {
      const groupId = groups[group]!;
      const made = await submitRequest(who, {
        itemId,
        revision: 1,
        answers: { group: { group: groupId }, reason: 'Tide tables', kind: 'daily', ...more },
        idempotencyKey: randomBytes(8).toString('hex'),
      });
      if (!made.ok) throw new Error(made.sentence);
      const [row] = await db()
        .select({ id: schema.run.id, caseId: schema.run.caseId })
        .from(schema.serviceCase)
        .innerJoin(schema.run, eq(schema.run.caseId, schema.serviceCase.id))
        .where(eq(schema.serviceCase.number, made.number));
      return { number: made.number, ...row! };
    },
    /** The request that has this run, with where the run stands. */
    request: async (runId: string) => {
      const [row] = await db()
        .select()
        .from(schema.run)
        .innerJoin(schema.serviceCase, eq(schema.serviceCase.id, schema.run.caseId))
        .where(eq(schema.run.id, runId));
      return { ...row!.service_case, state: row!.run.state, seq: row!.run.seq };
    },
    approvals: (runId: string) =>
      db()
        .select({ id: schema.approval.id, personId: schema.approval.personId, status: schema.approval.status, comment: schema.approval.comment })
        .from(schema.approval)
        .innerJoin(schema.gate, eq(schema.gate.id, schema.approval.gateId))
        .where(eq(schema.gate.runId, runId)),
    /** Decides as one of those who were asked. */
    decide: async (userName: string, runId: string, decision: 'approve' | 'decline', comment = '') => {
      const [mine] = await db()
        .select({ id: schema.approval.id })
        .from(schema.approval)
        .innerJoin(schema.gate, eq(schema.gate.id, schema.approval.gateId))
        .where(and(eq(schema.gate.runId, runId), eq(schema.approval.personId, id(userName))));
      return decide(viewer(userName), { approvalId: mine!.id, decision, comment });
    },
    /** Lets in whoever comes into a group by its condition, and runs every timer, call, exchange of words, letter, meeting and message that waits, due or not, once; and lets tickets go on of which it was decided whether they may. */
    work: async () => {
      for (const t of await db().select().from(schema.timer).orderBy(schema.timer.dueAt)) {
        await db()
          .update(schema.timer)
          .set({ dueAt: new Date(now().getTime() - 1000) })
          .where(and(eq(schema.timer.runId, t.runId), eq(schema.timer.key, t.key), eq(schema.timer.name, t.name)));
        await fireTimer(t);
      }
      const { rows: decided } = await db().execute<{ id: string; case: string }>(
        sql`select id, payload ->> 'caseId' as case from graphile_worker._private_jobs where key like 'asked:%' order by id`,
      );
      for (const d of decided) await ticketTime(d.case);
      await db().execute(sql`select from graphile_worker.complete_jobs(${sql.param(decided.map((d) => d.id))}::bigint[])`);
      const { call, groupAdmission, letter, meeting, message } = schema;
      for (const a of await db().select({ id: groupAdmission.id }).from(groupAdmission).where(eq(groupAdmission.state, 'open'))) await letIn(a.id);
      for (const c of await db().select({ id: call.id }).from(call).where(isNull(call.closedAt)).orderBy(call.createdAt, call.id))
        await tendCall(c.id);
      for (const c of await db().select({ id: call.id }).from(call).where(isNotNull(call.wordsDue)).orderBy(call.createdAt, call.id))
        await exchangeWords(c.id);
      for (const l of await db().select({ id: letter.id }).from(letter).where(eq(letter.status, 'waiting')).orderBy(letter.createdAt, letter.id))
        await makeLetter(l.id);
      for (const m of await db().select({ id: meeting.id }).from(meeting).where(eq(meeting.status, 'seeking')).orderBy(meeting.createdAt, meeting.id))
        await arrangeMeeting(m.id);
      const unsent = db().select({ id: message.id }).from(message).where(isNull(message.sentAt));
      for (const m of await unsent.orderBy(message.createdAt, message.id)) await deliverMail(m.id);
    },
    manner: async (which: 'directory' | 'mailbox' | 'calendars', manner: string, delayMs = 0) => {
      const port = { directory: directoryPort, mailbox: mailPort, calendars: calendarPort }[which];
      await fetch(`http://127.0.0.1:${port}/_manner`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ manner, delayMs }),
      });
    },
    /** Somebody is taken, as their calendar says. */
    takenUp: (userName: string, from: string, to: string, more: { perhaps?: boolean } = {}) =>
      fetch(`http://127.0.0.1:${calendarPort}/_taken`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify([{ address: `${userName}@skerrin.example`, from, to, ...more }]),
      }),
    /** Answers an invitation, as a calendar program would. */
    answerInCalendar: async (n: number, says: string, comment = '') =>
      (await fetch(`http://127.0.0.1:${mailPort}/message/${n}/answer`, { method: 'POST', body: new URLSearchParams({ says, comment }) })).status,
    journal: async () => (await (await fetch(`http://127.0.0.1:${directoryPort}/_journal`)).json()) as { change: string; id: string; key?: string }[],
    mails: async (userName: string) =>
      (await (await fetch(`http://127.0.0.1:${mailPort}/_messages?to=${userName}@skerrin.example`)).json()) as Received[],
    query: <T extends object>(text: string, values: unknown[] = []) =>
      connections()
        .query(text, values)
        .then((r) => r.rows as T[]),
    /** What only the owner of the tables may do. */
    asOwner: async <T extends pg.QueryResultRow>(text: string): Promise<T[]> => {
      const owner = new pg.Client({ connectionString: server.replace(/\/postgres$/, `/${name}`) });
      await owner.connect();
      return (await owner.query<T>(text).finally(() => owner.end())).rows;
    },
    /** Answers a mail in words, as its reader would. */
    replyTo: async (n: number, text: string) =>
      (await fetch(`http://127.0.0.1:${mailPort}/message/${n}/reply`, { method: 'POST', body: new URLSearchParams({ text }) })).status,
    chatEvents: async (userName: string) =>
      (await (await fetch(`http://127.0.0.1:${chatPort}/_events?user=${userName}`)).json()) as {
        event_id: string;
        sender: string;
        content: { body: string; 'm.relates_to'?: { event_id: string } };
      }[],
    /** What was said in a channel. */
    channelEvents: async (channel: string) =>
      (await (await fetch(`http://127.0.0.1:${chatPort}/_events?channel=${channel}`)).json()) as {
        event_id: string;
        sender: string;
        content: { body: string; 'm.relates_to'?: { event_id: string } };
      }[],
    sayIn: (channel: string, user: string, text: string, thread = '') =>
      fetch(`http://127.0.0.1:${chatPort}/channel`, {
        method: 'POST',
        redirect: 'manual',
        body: new URLSearchParams({ channel, user, text, thread }),
      }),
    say: (user: string, thread: string, text: string) =>
      fetch(`http://127.0.0.1:${chatPort}/say`, { method: 'POST', redirect: 'manual', body: new URLSearchParams({ user, thread, text }) }),
    databaseName: name,
    close: async () => {
      if (takesReplies) await new Promise<void>((done) => takesReplies.close(() => done()));
      await disconnect();
      await Promise.all([...servers.map((s) => new Promise((done) => s.close(done))), new Promise<void>((done) => mail.smtp.close(() => done()))]);
      await admin.query(`drop database ${name} with (force)`);
      await admin.end();
    },
  };
  let plans = 0;
  return {
    ...made,
    /** Publishes a plan as an item with the wide form, and asks for it. */
    askPlan: async (plan: Plan, who = 'tor') => {
      const item = await made.item(`Work ${++plans}`, plan, wideForm);
      const crew = ['ina', 'runa'].map((u) => ({ person: id(u) }));
      return made.ask(viewer(who), item.id, 'tide-models', {
        crew,
        cores: 2,
        from: '2026-12-04',
        price: { amount: '1250.50', currency: 'EUR' },
        machine,
        by: { team: made.teamId },
        mail: 'guest@example.org',
        gear: [{ entry: { what: 'Echo sounder', many: 2, by: { person: id('ina') }, state: 'new' } }, { entry: { what: 'Tide gauge', many: 1 } }],
      });
    },
  };
}
/** A port that is free, looked for from one that no other test process begins with. */
async function freePort(from = 20_000 + (process.pid % 20_000)): Promise<number> {
  const free = await new Promise<boolean>((told) => {
    const probe = createServer();
    probe.once('error', () => told(false));
    probe.listen(from, '127.0.0.1', () => probe.close(() => told(true)));
  });
  return free ? from : freePort(from + 1);
}
export type World = Awaited<ReturnType<typeof world>>;

/** The token in the one-time link of an approval mail. */
export function linkToken(text: string): string {
  const token = /\/desk\/decide\/([\w-]+)/.exec(text)?.[1];
  if (!token) throw new Error(`There is no link in: ${text}`);
  return token;
}
