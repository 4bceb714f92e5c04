import { randomUUID } from 'node:crypto';
import { createInterface } from 'node:readline';
import { Readable } from 'node:stream';
import { and, eq, isNull, sql } from 'drizzle-orm';
import { newState, openActivities, replay, type RunEvent } from '../core/engine/index.ts';
import { useSettings } from '../server/config.ts';
import { db, disconnect } from '../server/db/database.ts';
import { chatReply, message, run, serviceCase, task } from '../server/db/schema/index.ts';
import { definitionOf } from '../server/items/definitions.ts';
import { withdrawRequest } from '../server/requests/commands.ts';
import { makeOrganisation } from '../server/testing/organisation.ts';
import { playParty, viewerFor } from '../server/testing/parties.ts';
import type { Viewer } from '../server/auth/viewer.ts';
import { forgetView, keepView, keptViews } from '../server/lists/views.ts';
import { correctRequest, handOver, noteToRequester } from '../server/tasks/commands.ts';
import { outsideToken } from '../server/auth/token.ts';
import { askFromOutside, confirmOutside, fromOutside } from '../server/outside/ask.ts';
import { putInBasket, sendBasket } from '../server/baskets/commands.ts';
import { changeHours, createHours, giveHours } from '../server/hours/commands.ts';
import { hoursOf } from '../server/hours/queries.ts';
import { keepFile } from '../server/files/keep.ts';
import { saveRow } from '../server/tables/commands.ts';
import { changeCells } from '../server/tables/grid.ts';
import { rowOf } from '../server/tables/queries.ts';
import { ticketPlay } from './soak-tickets.ts';
import { answersFor, askFor, publishOutside, publishPlan, quickPlans, randomFrom } from './generated.ts';

/**
 * Plays the people of thousands of generated runs while `scripts/soak.mjs` kills and restarts everything around it,
 * then holds what is in the database and in the stand-ins against what must be so. Says `calm` when it has played
 * enough and waits for everything to be well again before it looks.
 */
useSettings(process.env);
const [runs = 500, seconds = 120, seed = 2026] = process.argv.slice(2).map(Number);
const chance = randomFrom(seed);
const tell = (line: string) => console.log(line);

/** What may be thrown while the database is away: the act is tried again, or left to the next round. */
const away = (error: unknown): boolean =>
  /terminat|ECONNREFUSED|ECONNRESET|not queryable|starting up|shutting down|Connection|timeout|recovery/i.test(
    `${String(error)} ${error instanceof Error ? String(error.cause) : ''}`,
  );

let lostSight = 0;
async function through<T>(act: () => Promise<T>): Promise<T> {
  for (;;) {
    try {
      return await act();
    } catch (error) {
      if (!away(error)) throw error;
      lostSight++;
      await new Promise((r) => setTimeout(r, 200));
    }
  }
}

async function main(): Promise<void> {
  const groups = 40;
  const org = await makeOrganisation(groups);
  const items: string[] = [];
  for (const [i, plan] of quickPlans(Math.min(60, Math.ceil(runs / 8)), seed).entries()) items.push(await publishPlan(org, `Generated ${i}`, plan));
  const link = await publishOutside(org);
  const hours = await keepHours(org);
  const tickets = await ticketPlay(org, through);
  tell('prepared');
  const admin = viewerFor(org.people['dan']!, 'administrator');
  const asked = new Map<string, number>();
  const until = Date.now() + seconds * 1000;
  let moves = 0;
  const open = new Set<number>();
  // Four hands at once: some ask, all play whoever is waited for.
  const hand = async () => {
    while (Date.now() < until || asked.size < runs) {
      if (asked.size < runs && (open.size < 40 || chance(3) === 0)) {
        const idempotencyKey = randomUUID();
        const item = items[chance(items.length)]!;
        const who = ['tor', 'dan', 'olav'][chance(3)]!;
        const group = `survey-${chance(groups) + 1}`;
        // Unknown whether it arrived when the database went away: sent again with the same key it is one request.
        asked.set(idempotencyKey, 0);
        const withFile = chance(3) === 0;
        const whom = chance(2) === 0 ? ['ina', 'runa', 'boss'][chance(3)] : undefined;
        // Some ask for a code that others may have; it is told, and nothing is opened.
        const code = chance(3) === 0 ? `SK-${10 + chance(4)}` : null;
        const made = await through(async () =>
          askFor(org, item, idempotencyKey, who, group, { code, sketch: withFile ? [{ file: await attach(org.people[who]!) }] : null }, whom),
        );
        if (!made.ok && made.problems?.length === 1 && made.problems[0]!.field === 'code') {
          asked.delete(idempotencyKey);
          refusedCodes++;
          continue;
        }
        if (!made.ok) throw new Error(made.sentence);
        asked.set(idempotencyKey, made.number);
        open.add(made.number);
        continue;
      }
      if (!ordering && asked.size < runs && chance(25) === 0) {
        ordering = true;
        for (const [key, number] of await orderSome(org, [items[chance(items.length)]!, items[chance(items.length)]!])) {
          asked.set(key, number);
          open.add(number);
        }
        ordering = false;
        continue;
      }
      if (outside.length < 40 && asked.size < runs && chance(20) === 0) {
        const [id, sent] = await askOutside(link);
        asked.set(id, sent);
        open.add(sent);
        continue;
      }
      if (chance(12) === 0) await tickets.report(chance);
      if (chance(3) === 0) await tickets.act(chance);
      if (chance(60) === 0) await through(() => changeHoursOf(org, hours));
      if (chance(40) === 0) await through(() => changeMachine(org, 1 + chance(64)));
      const number = [...open][chance(open.size)];
      if (number === undefined) {
        await new Promise((r) => setTimeout(r, 50));
        continue;
      }
      const row = await through(() => byNumber(number));
      if (row.outcome && !row.undoing) open.delete(number);
      else if (chance(60) === 0) await through(() => withdrawRequest(viewerFor(row.requester), { number }));
      else if (chance(5) === 0) await through(() => besideWork(org, row.id, admin));
      else await through(() => playParty(row.id, admin, chance));
      moves++;
      if (moves % 500 === 0) tell(`  ${asked.size} asked, ${moves} moves, ${open.size} in sight`);
    }
  };
  await Promise.all([hand(), hand(), hand(), hand()]);
  tell(`calm ${moves} moves on ${asked.size} runs; the database was away for ${lostSight} acts`);
  await new Promise<void>((go) => createInterface({ input: process.stdin }).once('line', () => go()));
  await drain(admin);
  const wrong = [...(await look(asked)), ...(await tickets.look())];
  tell(`  ${await tickets.words()}`);
  for (const line of wrong) tell(`WRONG ${line}`);
  await disconnect();
  process.exit(wrong.length ? 1 : 0);
}

/** Somebody is filling a basket: one at a time, since it is one person's. */
let ordering = false;
let orders = 0;

/** Puts things into a basket and sends them as one order; gives their numbers by the keys under which they were sent. */
async function orderSome(org: Awaited<ReturnType<typeof makeOrganisation>>, items: string[]): Promise<[string, number][]> {
  const runa = viewerFor(org.people['runa']!);
  for (const itemId of items) {
    const put = await through(() => putInBasket(runa, { itemId, revision: 1, answers: answersFor(org) }));
    if (!put.ok) throw new Error(put.sentence);
  }
  // Unknown whether it was sent when the database went away: with the same key it is the same order.
  const idempotencyKey = randomUUID();
  const sent = await through(() => sendBasket(runa, { idempotencyKey }));
  if (!sent.ok) throw new Error(sent.sentence);
  orders++;
  const { rows } = await through(() =>
    db().execute<{ number: string; key: string }>(
      sql`select k.number, k.idempotency_key as key from service_case k join service_order o on o.id = k.order_id where o.number = ${sent.number}`,
    ),
  );
  return rows.map((r) => [r.key, Number(r.number)]);
}

/** The mail addresses from which something was asked from outside. */
const outside: string[] = [];

/** Asks from outside, by a public link, and confirms it twice at once; gives the key and the number of what was asked. */
async function askOutside(link: string): Promise<[string, number]> {
  const mail = `${randomUUID()}@sail.example`;
  outside.push(mail);
  // Each from an address of its own: they are not held back.
  const asking = () =>
    askFromOutside({
      token: link,
      address: `198.51.100.${outside.length}`,
      you: { 'you.name': 'Oda Vik', 'you.mail': mail },
      answers: { where: 'Off the mole' },
      trap: '',
    });
  const known = () => db().execute<{ id: string; hash: string }>(sql`select id, token_hash as hash from public_request where email = ${mail}`);
  const kept = await through(asking);
  if (!kept.ok) throw new Error(kept.sentence);
  // Where the database went away it may have been kept twice: two mails, of which one is followed.
  const { rows } = await through(known);
  const { id } = rows[0]!;
  const confirm = () => through(() => confirmOutside(outsideToken(id)));
  for (const done of await Promise.all([confirm(), confirm()])) if (!done.ok) throw new Error(done.sentence);
  const found = await through(() => fromOutside(outsideToken(id)));
  if (!found || !('follows' in found)) throw new Error('What was confirmed from outside is not followed.');
  return [id, found.number];
}

/** How often a code was asked for that an open request had. */
let refusedCodes = 0;

/** What was said of a task to whoever asked, and answered with “done”. */
const noted: string[] = [];

/** What people do beside the plan: a word to whoever asked, a task to somebody else, a view kept and forgotten. */
async function besideWork(org: Awaited<ReturnType<typeof makeOrganisation>>, runId: string, admin: Viewer): Promise<void> {
  const [open] = await db()
    .select({ id: task.id })
    .from(task)
    .where(and(eq(task.runId, runId), isNull(task.closedAt)))
    .limit(1);
  const roll = chance(6);
  if (roll === 0 || !open) {
    const kept = await keepView(admin, { list: 'ledger', asked: 'state=open', name: `View ${chance(5)}` });
    const [some] = await keptViews(admin, 'ledger');
    if (!kept.ok) throw new Error(kept.sentence);
    if (some && chance(2) === 0) await forgetView(admin, some.id);
    return;
  }
  const words = `It is under way, ${randomUUID()}`;
  const done =
    roll === 5
      ? await correctRequest(admin, { id: open.id, values: { cores: 1 + chance(8) } })
      : roll < 3
        ? await noteToRequester(admin, { id: open.id, words })
        : await handOver(admin, { id: open.id, ...(chance(2) === 0 ? { person: org.people['runa']! } : { team: org.teamId }) });
  if (!done.ok && !['ended', 'not-found'].includes(done.code)) throw new Error(`${done.code}: ${done.sentence}`);
  if (done.ok && roll < 3) noted.push(words);
}

/** A small text, brought by a person. */
async function attach(person: string): Promise<string> {
  const kept = await keepFile(viewerFor(person), { name: 'Soundings.txt', stream: Readable.from(['12.5 m\n', '13 m\n']) });
  if (!kept.ok) throw new Error(kept.sentence);
  return kept.file.id;
}

/** The table that plans read is changed while they run. */
async function changeMachine(org: Awaited<ReturnType<typeof makeOrganisation>>, processors: number): Promise<void> {
  const designer = viewerFor(org.people['dan']!, 'designer');
  const row = await rowOf(designer, org.machines, 'Large');
  if (!row) throw new Error('The table of machines has lost a row.');
  const at = { key: row.key, version: row.version };
  // By its slip, or in the grid.
  const done =
    processors % 2 === 0
      ? await saveRow(designer, { table: org.machines, row: at, cells: { ...row.cells, processors } })
      : await changeCells(designer, {
          table: org.machines,
          edits: [{ id: row.key, row: at, texts: { processors: String(processors) } }],
          take: 'rest',
        });
  if (!done.ok && done.code !== 'changed-meanwhile') throw new Error(done.sentence);
}

/** The hours of everybody and of the team: never closed but on some days long past, so that nothing waits longer for them. */
async function keepHours(org: Awaited<ReturnType<typeof makeOrganisation>>): Promise<string> {
  const designer = viewerFor(org.people['dan']!, 'designer');
  const made = await createHours(designer, { name: 'All hours' });
  if (!made.ok) throw new Error(made.sentence);
  await changeHoursOf(org, made.id);
  const given = await giveHours(designer, { id: made.id, teams: [org.teamId], places: [], everywhere: true });
  if (!given.ok) throw new Error(given.sentence);
  return made.id;
}

/** The hours are changed while runs ask for them. */
async function changeHoursOf(org: Awaited<ReturnType<typeof makeOrganisation>>, id: string): Promise<void> {
  const designer = viewerFor(org.people['dan']!, 'designer');
  const now = await hoursOf(designer, id);
  const week = Array.from({ length: 7 }, () => [{ from: 0, to: 24 * 60 }]);
  const holidays = [{ day: `2020-01-${10 + chance(20)}`, words: 'Long past' }];
  const done = await changeHours(designer, { id, version: now!.version, definition: { ...now!.definition, week, holidays } });
  if (!done.ok && done.code !== 'changed-meanwhile') throw new Error(done.sentence);
}

const byNumber = async (number: number) => {
  const { rows } = await db().execute<{ id: string; requester: string; outcome: string | null; undoing: boolean }>(
    sql`select u.id, k.requester_id as requester, k.outcome, u.state ? 'undoing' as undoing
      from service_case k join run u on u.case_id = k.id where k.number = ${number}`,
  );
  return rows[0]!;
};

/** Lets everything that needs nobody run to its end; stuck undo steps are tried again. */
async function drain(admin: ReturnType<typeof viewerFor>): Promise<void> {
  const end = Date.now() + 240_000;
  let quiet = 0;
  while (Date.now() < end && quiet < 5) {
    const { rows } = await db().execute<{ n: number }>(sql`
      select (select count(*) from call where status = 'waiting') + (select count(*) from timer where due_at < now() + interval '30 seconds')
           + (select count(*) from message where sent_at is null and failed_at is null and attempts = 0) as n`);
    const { rows: stuck } = await db().execute<{ id: string }>(
      sql`select distinct r.id from run r join run_step s on s.run_id = r.id where s.stuck_cause is not null and s.key like 'undo:%' limit 50`,
    );
    for (const s of stuck) await playParty(s.id, admin, () => 0);
    quiet = Number(rows[0]?.n) === 0 && stuck.length === 0 ? quiet + 1 : 0;
    await new Promise((r) => setTimeout(r, 400));
  }
}

async function look(asked: Map<string, number>): Promise<string[]> {
  const wrong: string[] = [];
  const all = (await db().select().from(run).innerJoin(serviceCase, eq(serviceCase.id, run.caseId))).map((r) => ({ ...r.service_case, ...r.run }));
  const { rows: apart } = await db().execute<{ n: number }>(
    sql`select count(*) as n from run u join service_case k on k.id = u.case_id where k.outcome is distinct from u.outcome`,
  );
  const check = (ok: boolean, sentence: string) => {
    if (!ok) wrong.push(sentence);
  };
  const none = async (what: string, query: ReturnType<typeof sql>) => {
    const { rows } = await db().execute<{ n: number }>(query);
    check(Number(rows[0]?.n) === 0, `${rows[0]?.n} ${what}`);
  };
  const { rows: twice } = await db().execute<{ code: string }>(
    sql`select answers ->> 'code' as code from service_case where outcome is null and answers ->> 'code' is not null group by item_id, 1 having count(*) > 1`,
  );
  for (const { code } of twice) check(false, `Two open requests for one item have the code ${code}.`);
  const { rows: sentOrders } = await db().execute<{ n: number }>(sql`select count(*)::int as n from service_order`);
  check(sentOrders[0]?.n === orders, `${orders} orders were sent and ${sentOrders[0]?.n} are there.`);
  const { rows: theirs } = await db().execute<{ n: number }>(
    sql`select count(*)::int as n from service_case k join person p on p.id = k.requester_id where p.outside`,
  );
  check(theirs[0]?.n === outside.length, `${outside.length} things were asked from outside and ${theirs[0]?.n} are there.`);
  tell(`  ${outside.length} asked from outside`);
  await none('things lie in a basket that was sent.', sql`select count(*) as n from basket_line`);
  tell(`  ${orders} orders`);
  tell(`  ${refusedCodes} times a code was asked for that an open request had`);
  check(all.length === asked.size, `${asked.size} requests were sent and ${all.length} are there.`);
  check(Number(apart[0]?.n) === 0, `${apart[0]?.n} requests did not end as their runs did.`);
  const keys = new Set(all.map((r) => r.idempotencyKey));
  for (const key of asked.keys()) check(keys.has(key), `The request ${key} was lost.`);
  const ends = new Map<string, number>();
  const { rows: timers } = await db().execute<{ of: string }>(sql`select run_id || ' ' || key as of from timer`);
  const timed = new Set(timers.map((t) => t.of));
  for (const r of all) {
    ends.set(r.outcome ?? 'open', (ends.get(r.outcome ?? 'open') ?? 0) + 1);
    const { rows } = await db().execute<{ event: RunEvent; at: string }>(
      sql`select event, at from run_event where run_id = ${r.id} and ignored is null order by id`,
    );
    const { plan } = await definitionOf(db(), r.revisionId);
    const again = replay(
      plan,
      rows.map((e) => ({ event: e.event, at: new Date(e.at).toISOString() })),
      newState(),
    );
    check(JSON.stringify(sorted(again)) === JSON.stringify(sorted(r.state)), `R-${r.number}: replay does not give the snapshot.`);
    check(rows.length === r.seq, `R-${r.number}: ${rows.length} events and sequence ${r.seq}.`);
    const waits = openActivities(r.state);
    if (r.outcome) check(!r.state.undoing || waits.every((a) => a.phase === 'stuck'), `R-${r.number} ended, and its undo stands still.`);
    else
      check(
        waits.some(
          (a) =>
            ['asking', 'working', 'answering', 'returned', 'stuck'].includes(a.phase) ||
            // Time is waited for where a timer is set.
            (['pausing', 'between'].includes(a.phase) && timed.has(`${r.id} ${a.key}`)),
        ),
        `R-${r.number} waits for nobody: ${waits.map((a) => `${a.key} ${a.phase}`).join(', ')}.`,
      );
  }
  await none('calls still wait.', sql`select count(*) as n from call where status = 'waiting'`);
  await none(
    'files that requests hold are not kept with them, whole.',
    sql`select count(*) as n from service_case k, jsonb_array_elements(case when jsonb_typeof(k.answers -> 'sketch') = 'array' then k.answers -> 'sketch' else '[]' end) a
      left join stored_file f on f.id = (a ->> 'file')::uuid
      where f.case_id is distinct from k.id or f.size <> (select coalesce(sum(length(p.bytes)), 0) from file_piece p where p.file_id = f.id)`,
  );
  const told = new Set(
    (await db().execute<{ text: string }>(sql`select text from message where text like '%under way, %'`)).rows.map(
      (m) => /under way, \S+/.exec(m.text)?.[0],
    ),
  );
  check(
    noted.every((words) => told.has(words.slice('It is '.length))),
    'A note to a requester that was taken is not there.',
  );
  tell(`  ${noted.length} notes`);
  await none('timers are overdue.', sql`select count(*) as n from timer where due_at < now() - interval '10 seconds'`);
  await none(
    'steps of ended runs are open.',
    sql`select count(*) as n from run_step s join run r on r.id = s.run_id where r.outcome is not null and s.ended_at is null and s.key not like 'undo:%'`,
  );
  await none(
    'gates, tasks and questions of ended runs are open.',
    sql`select count(*) as n from run r where r.outcome is not null and (
    exists (select from gate g where g.run_id = r.id and g.closed_at is null) or exists (select from task t where t.run_id = r.id and t.closed_at is null)
    or exists (select from question q where q.run_id = r.id and q.closed_at is null))`,
  );

  // The stand-ins' own books.
  const journal = (await (await fetch(`${process.env['DIRECTORY_URL']!.replace('/scim/v2', '')}/_journal`)).json()) as {
    key?: string;
    change: string;
  }[];
  const changes = journal.flatMap((j) => (j.key ? [j.key] : []));
  check(new Set(changes).size === changes.length, `The directory was changed twice for ${changes.length - new Set(changes).size} calls.`);
  const known = new Set((await db().execute<{ k: string }>(sql`select idempotency_key as k from call`)).rows.map((r) => r.k));
  check(
    changes.every((k) => known.has(k)),
    'The directory was changed by a call that is not on record.',
  );
  const mails = (await (await fetch(`http://127.0.0.1:${process.env['MAILBOX_PORT']}/_messages`)).json()) as {
    messageId: string;
    deliveries: number;
  }[];
  const sent = await db().select({ id: message.messageId, via: message.via, sentAt: message.sentAt, chatEvent: message.chatEvent }).from(message);
  const arrived = new Set(mails.map((m) => m.messageId));
  const lost = sent.filter((m) => m.via === 'mail' && m.sentAt && !arrived.has(m.id));
  check(lost.length === 0, `${lost.length} mails counted as sent did not arrive.`);
  check(arrived.size === mails.length, 'A mail stands twice in the mailbox.');
  const everything = (await (await fetch(`${process.env['CHAT_URL']}/_events`)).json()) as { event_id: string; sender: string }[];
  // What people said there, poison among it, is theirs.
  const said = everything.filter((e) => e.sender.startsWith('@nessmoor:'));
  const heard = new Set(said.map((e) => e.event_id));
  const chats = sent.filter((m) => m.via === 'chat' && m.sentAt);
  check(
    chats.every((m) => m.chatEvent && heard.has(m.chatEvent)) && new Set(chats.map((m) => m.chatEvent)).size === chats.length,
    'Chat messages counted as sent are not there, or two are the same.',
  );
  // Each answer of somebody's there is answered once at most.
  const answered = await db().$count(chatReply);
  check(
    said.length === heard.size && said.length <= sent.filter((m) => m.via === 'chat').length + answered,
    `Chat holds ${said.length} messages, more than were written.`,
  );
  // One poisoned message stops nobody: chat was read to its end, and what could not be taken stands on the list.
  const { rows: aside } = await db().execute<{ source: string; n: number }>(
    sql`select source, count(*)::int as n from set_aside where settled_at is null group by source order by source`,
  );
  const { rows: unread } = await db().execute<{ n: number }>(
    sql`select count(*)::int as n from graphile_worker.jobs where attempts >= max_attempts and run_at < now() - interval '3 minutes'`,
  );
  check(Number(unread[0]?.n) === 0, `${unread[0]?.n} jobs are given up and not set aside.`);
  const { rows: failed } = await db().execute<{ what: string; cause: string; times: number }>(
    sql`select what, cause, times from set_aside where settled_at is null and source = 'job' order by last_at limit 5`,
  );
  for (const f of failed) tell(`  set aside after ${f.times}: ${f.what}: ${f.cause}`);
  check(
    aside.every((a) => a.source !== 'job'),
    'A piece of work was set aside that should have gone well.',
  );
  tell(`  set aside: ${aside.map((a) => `${a.n} ${a.source}`).join(', ') || 'nothing'}`);
  tell(`looked at ${all.length} runs: ${[...ends].map(([o, n]) => `${n} ${o}`).join(', ')}`);
  tell(
    `  ${changes.length} changes in the directory, each once; ${mails.length} mails, ${mails.filter((m) => m.deliveries > 1).length} of them handed over more than once under one Message-ID`,
  );
  return wrong;
}

/** The same object with its keys in order, to compare by text. */
function sorted(v: unknown): unknown {
  if (Array.isArray(v)) return v.map(sorted);
  if (typeof v !== 'object' || v === null) return v;
  return Object.fromEntries(
    Object.entries(v)
      .filter(([, x]) => x !== undefined)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([k, x]) => [k, sorted(x)]),
  );
}

main().catch((error: unknown) => {
  console.error(error);
  process.exit(1);
});
