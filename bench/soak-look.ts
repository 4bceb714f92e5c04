import { eq, sql } from 'drizzle-orm';
import { newState, openActivities, replay, type RunEvent } from '../core/engine/index.ts';
import { sameJson } from '../core/boundary/index.ts';
import { db, type Tx } from '../server/db/database.ts';
import { chatReply, message, run, serviceCase } from '../server/db/schema/index.ts';
import { definitionOf } from '../server/items/definitions.ts';
import { caseNumber } from '../server/words.ts';
import { lookAtAccounts } from './soak-accounts.ts';
import { begunByConditions } from './soak-groups.ts';
import { lookAtHouses } from './soak-houses.ts';
import { begunByStaff, lookAtStaff } from './soak-staff.ts';
import { lookAtLetters } from './soak-letters.ts';
import { lookAtMeetings } from './soak-meetings.ts';
import { lookAtMachines } from './soak-machines.ts';
import { lookAtYard } from './soak-yard.ts';

/**
 * Everything read within it is as it was at one moment: the workers go on while it is looked at, and what was read before and after
 * something happened would not agree.
 */
export const atOneMoment = <T>(read: (tx: Tx) => Promise<T>): Promise<T> =>
  db().transaction(read, { isolationLevel: 'repeatable read', accessMode: 'read only' });

/** What was played, by which it is known what must be there. */
export interface Played {
  /** The numbers of the requests by the keys under which they were sent. */
  asked: Map<string, number>;
  orders: number;
  /** How many asked from outside. */
  outside: number;
  /** How often a code was asked for that an open request had. */
  refusedCodes: number;
  /** What was said about requests by whoever asked and to them, and answered with “done”. */
  noted: string[];
}

const tell = (line: string) => console.log(line);

interface Change {
  key?: string;
  change: string;
}
const standIn = async <T>(address: string): Promise<T> => (await (await fetch(address)).json()) as T;
/** What was changed in the directory. */
const journalOf = () => standIn<Change[]>(`${process.env['DIRECTORY_URL']!.replace('/scim/v2', '')}/_journal`);
const arrivedMails = () =>
  standIn<{ messageId: string; deliveries: number; subject: string; files?: unknown[] }[]>(
    `http://127.0.0.1:${process.env['MAILBOX_PORT']}/_messages`,
  );
/** What we said in chat, by its events; what people said there, poison among it, is theirs. */
const saidInChat = async () =>
  (await standIn<{ event_id: string; sender: string }[]>(`${process.env['CHAT_URL']}/_events`)).flatMap((e) =>
    e.sender.startsWith('@nessmoor:') ? [e.event_id] : [],
  );

/** Holds what is in the database and in the stand-ins against what must be so; gives what is wrong, in sentences. */
export async function look(played: Played): Promise<string[]> {
  // What must be on record here is read of the stand-ins before, and what must have arrived there, after.
  const [journal, before] = await Promise.all([journalOf(), saidInChat()]);
  return atOneMoment((tx) => lookAt(tx, played, journal, before));
}

async function lookAt(tx: Tx, played: Played, journal: Change[], before: string[]): Promise<string[]> {
  const { asked, orders, outside, refusedCodes, noted } = played;
  const wrong: string[] = [];
  const all = (await tx.select().from(run).innerJoin(serviceCase, eq(serviceCase.id, run.caseId))).map((r) => ({ ...r.service_case, ...r.run }));
  const { rows: apart } = await tx.execute<{ n: number }>(
    sql`select count(*) as n from run u join service_case k on k.id = u.case_id where k.kind = 'request' and k.outcome is distinct from u.outcome`,
  );
  const check = (ok: boolean, sentence: string) => {
    if (!ok) wrong.push(sentence);
  };
  const none = async (what: string, query: ReturnType<typeof sql>) => {
    const { rows } = await tx.execute<{ n: number }>(query);
    check(Number(rows[0]?.n) === 0, `${rows[0]?.n} ${what}`);
  };
  const { rows: twice } = await tx.execute<{ code: string }>(
    sql`select answers ->> 'code' as code from service_case where outcome is null and answers ->> 'code' is not null group by item_id, 1 having count(*) > 1`,
  );
  for (const { code } of twice) check(false, `Two open requests for one item have the code ${code}.`);
  const { rows: sentOrders } = await tx.execute<{ n: number }>(sql`select count(*)::int as n from service_order`);
  check(sentOrders[0]?.n === orders, `${orders} orders were sent and ${sentOrders[0]?.n} are there.`);
  const { rows: theirs } = await tx.execute<{ n: number }>(
    sql`select count(*)::int as n from service_case k join person p on p.id = k.requester_id where p.outside`,
  );
  check(theirs[0]?.n === outside, `${outside} things were asked from outside and ${theirs[0]?.n} are there.`);
  tell(`  ${outside} asked from outside`);
  await none('things lie in a basket that was sent.', sql`select count(*) as n from basket_line`);
  tell(`  ${orders} orders`);
  tell(`  ${refusedCodes} times a code was asked for that an open request had`);
  const requests = all.filter((r) => r.kind === 'request');
  // What was found in a system is taken over by a request that nobody sent.
  const { rows: over } = await tx.execute<{ n: number }>(
    sql`select count(*)::int as n from difference where state = 'settled' and how in ('takeOver', 'takeBack')`,
  );
  // And what the staff feed told, and what conditions of groups gave, was asked for by itself.
  const others = requests.length - over[0]!.n - (await begunByStaff(tx)) - (await begunByConditions(tx));
  check(others === asked.size, `${asked.size} requests were sent and ${others} are there.`);
  check(Number(apart[0]?.n) === 0, `${apart[0]?.n} requests did not end as their runs did.`);
  const keys = new Set(requests.map((r) => r.idempotencyKey));
  for (const key of asked.keys()) check(keys.has(key), `The request ${key} was lost.`);
  const ends = new Map<string, number>();
  const { rows: timers } = await tx.execute<{ of: string }>(sql`select run_id || ' ' || key as of from timer`);
  const timed = new Set(timers.map((t) => t.of));
  for (const r of all) {
    if (r.kind === 'request') ends.set(r.outcome ?? 'open', (ends.get(r.outcome ?? 'open') ?? 0) + 1);
    const { rows } = await tx.execute<{ event: RunEvent; at: string }>(
      sql`select event, at from run_event where run_id = ${r.id} and ignored is null order by id`,
    );
    const { plan } = await definitionOf(tx, r.revisionId);
    const again = replay(
      plan,
      rows.map((e) => ({ event: e.event, at: new Date(e.at).toISOString() })),
      newState(),
    );
    check(sameJson(again, r.state), `${caseNumber(r.kind, r.number)}: replay does not give the snapshot.`);
    check(rows.length === r.seq, `${caseNumber(r.kind, r.number)}: ${rows.length} events and sequence ${r.seq}.`);
    const waits = openActivities(r.state);
    if (r.outcome)
      check(
        !r.state.undoing || waits.every((a) => a.phase === 'stuck' || a.phase === 'working'),
        `${caseNumber(r.kind, r.number)} ended, and its undo stands still.`,
      );
    else
      check(
        waits.some(
          (a) =>
            ['asking', 'working', 'answering', 'returned', 'stuck'].includes(a.phase) ||
            // Time is waited for where a timer is set.
            (['pausing', 'between', 'coming'].includes(a.phase) && timed.has(`${r.id} ${a.key}`)),
        ),
        `${caseNumber(r.kind, r.number)} waits for nobody: ${waits.map((a) => `${a.key} ${a.phase}`).join(', ')}.`,
      );
  }
  const { rows: promised } = await tx.execute<{ n: number; twice: number }>(sql`
    select coalesce(sum(n), 0)::int as n, count(*) filter (where n > 1)::int as twice
    from (select count(*)::int as n from message where key like 'promise:%' group by run_id, key, to_id, via) t`);
  check(promised[0]?.twice === 0, `${promised[0]?.twice} times somebody was told twice of one promise.`);
  tell(`  ${promised[0]?.n} times somebody was told of a promise of a request`);
  await none(
    'promises of requests were to be looked at and were not.',
    sql`select count(*) as n from run where ended_at is null and tell_at < now() - interval '10 seconds'`,
  );
  const { rows: waiting } = await tx.execute<{ of: string }>(
    sql`select action || ' (' || status || ', due ' || coalesce(due_at::text, 'never') || ')' as of from call where closed_at is null order by due_at`,
  );
  check(waiting.length === 0, `${waiting.length} calls still wait: ${waiting.map((x) => x.of).join(', ')}.`);
  wrong.push(...(await lookAtMachines(tx)), ...(await lookAtAccounts(tx)), ...(await lookAtStaff(tx)));
  const letters = await lookAtLetters(tx);
  wrong.push(...letters.wrong);
  tell(`  ${letters.words}`);
  const meetings = await lookAtMeetings(tx);
  wrong.push(...meetings.wrong);
  tell(`  ${meetings.words}`);
  const houses = await lookAtHouses(tx);
  wrong.push(...houses.wrong);
  tell(`  ${houses.words}`);
  const yard = await lookAtYard(tx);
  wrong.push(...yard.wrong);
  tell(`  ${yard.words}`);
  await none(
    'files that requests hold are not kept with them, whole.',
    sql`select count(*) as n from service_case k, jsonb_array_elements(case when jsonb_typeof(k.answers -> 'sketch') = 'array' then k.answers -> 'sketch' else '[]' end) a
      left join stored_file f on f.id = (a ->> 'file')::uuid
      where f.case_id is distinct from k.id or f.size <> (select coalesce(sum(length(p.bytes)), 0) from file_piece p where p.file_id = f.id)`,
  );
  const { rows: words } = await tx.execute<{ text: string; n: number }>(
    sql`select w.text, count(*)::int as n from case_word w join service_case c on c.id = w.case_id and c.kind = 'request' group by 1`,
  );
  const kept = new Map(words.map((w) => [w.text, w.n]));
  check(
    noted.every((said) => kept.get(said) === 1),
    'What was said about a request and taken is not there, or is there twice.',
  );
  await none(
    'words to who asked for something were not told to them, or told twice.',
    sql`select count(*) as n from case_word w join service_case c on c.id = w.case_id and c.kind = 'request' where w."from" = 'desk' and not w.inside
      and 1 <> (select count(*) from message m where m.case_id = w.case_id and m.to_id = c.requester_id and m.key = 'word:' || w.id)`,
  );
  tell(`  ${noted.length} words about requests`);
  await none('timers are overdue.', sql`select count(*) as n from timer where due_at < now() - interval '10 seconds'`);
  await none(
    'steps of ended runs are open.',
    sql`select count(*) as n from run_step s join run r on r.id = s.run_id where r.outcome is not null and s.ended_at is null and s.key not like 'undo:%'`,
  );
  await none(
    'gates, tasks and questions of ended runs are open.',
    sql`select count(*) as n from run r where r.outcome is not null and (
    exists (select from gate g where g.run_id = r.id and g.closed_at is null) or exists (select from task t where t.run_id = r.id and t.closed_at is null and t.key not like 'undo:%')
    or exists (select from question q where q.run_id = r.id and q.closed_at is null))`,
  );

  // The stand-ins' own books.
  const changes = journal.flatMap((j) => (j.key ? [j.key] : []));
  check(new Set(changes).size === changes.length, `The directory was changed twice for ${changes.length - new Set(changes).size} calls.`);
  const known = new Set((await tx.execute<{ k: string }>(sql`select idempotency_key as k from call`)).rows.map((r) => r.k));
  // Of a call that tries one user name after the other each has the name after its key.
  check(
    changes.every((k) => known.has(k) || known.has(k.replace(/\/[a-z0-9.]+$/, ''))),
    'The directory was changed by a call that is not on record.',
  );
  const sent = await tx.select({ id: message.messageId, via: message.via, sentAt: message.sentAt, chatEvent: message.chatEvent }).from(message);
  const mails = await arrivedMails();
  const arrived = new Set(mails.map((m) => m.messageId));
  const lost = sent.filter((m) => m.via === 'mail' && m.sentAt && !arrived.has(m.id));
  check(lost.length === 0, `${lost.length} mails counted as sent did not arrive.`);
  check(arrived.size === mails.length, 'A mail stands twice in the mailbox.');
  check(
    mails.every((m) => m.subject !== 'Two letters' || m.files?.length === 2),
    'A mail came without the letters that go with it.',
  );
  const heard = new Set(await saidInChat());
  const chats = sent.filter((m) => m.via === 'chat' && m.sentAt);
  check(
    chats.every((m) => m.chatEvent && heard.has(m.chatEvent)) && new Set(chats.map((m) => m.chatEvent)).size === chats.length,
    'Chat messages counted as sent are not there, or two are the same.',
  );
  // Each answer of somebody's there is answered once at most.
  const answered = await tx.$count(chatReply);
  check(
    new Set(before).size === before.length && before.length <= sent.filter((m) => m.via === 'chat').length + answered,
    `Chat holds ${before.length} messages, more than were written.`,
  );
  // One poisoned message stops nobody: chat was read to its end, and what could not be taken stands on the list.
  const { rows: aside } = await tx.execute<{ source: string; n: number }>(
    sql`select source, count(*)::int as n from set_aside where settled_at is null group by source order by source`,
  );
  const { rows: unread } = await tx.execute<{ n: number }>(
    sql`select count(*)::int as n from graphile_worker.jobs where attempts >= max_attempts and run_at < now() - interval '3 minutes'`,
  );
  check(Number(unread[0]?.n) === 0, `${unread[0]?.n} jobs are given up and not set aside.`);
  const { rows: failed } = await tx.execute<{ what: string; cause: string; times: number }>(
    sql`select what, cause, times from set_aside where settled_at is null and source = 'job' order by last_at limit 5`,
  );
  for (const f of failed) tell(`  set aside after ${f.times}: ${f.what}: ${f.cause}`);
  check(
    aside.every((a) => a.source !== 'job'),
    'A piece of work was set aside that should have gone well.',
  );
  tell(`  set aside: ${aside.map((a) => `${a.n} ${a.source}`).join(', ') || 'nothing'}`);
  tell(`looked at ${all.length} runs, ${requests.length} of them of requests: ${[...ends].map(([o, n]) => `${n} ${o}`).join(', ')}`);
  tell(
    `  ${changes.length} changes in the directory, each once; ${mails.length} mails, ${mails.filter((m) => m.deliveries > 1).length} of them handed over more than once under one Message-ID`,
  );
  return wrong;
}
