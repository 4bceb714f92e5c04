import { randomUUID } from 'node:crypto';
import { createInterface } from 'node:readline';
import { Readable } from 'node:stream';
import { and, eq, isNull, sql } from 'drizzle-orm';
import { useSettings } from '../server/config.ts';
import { db, disconnect } from '../server/db/database.ts';
import { task } from '../server/db/schema/index.ts';
import { withdrawRequest } from '../server/requests/commands.ts';
import { makeOrganisation } from '../server/testing/organisation.ts';
import { playParty, viewerFor } from '../server/testing/parties.ts';
import type { Viewer } from '../server/auth/viewer.ts';
import { forgetView, keepView, keptViews } from '../server/lists/views.ts';
import { correctRequest, handOver, writeFromTask } from '../server/tasks/commands.ts';
import { writeOnRequest } from '../server/conversation/request.ts';
import { outsideToken } from '../server/auth/token.ts';
import { askFromOutside, confirmOutside, fromOutside } from '../server/outside/ask.ts';
import { putInBasket, sendBasket } from '../server/baskets/commands.ts';
import { changeHours, createHours, giveHours } from '../server/hours/commands.ts';
import { hoursOf } from '../server/hours/queries.ts';
import { keepFile } from '../server/files/keep.ts';
import { saveRow } from '../server/tables/commands.ts';
import { changeCells } from '../server/tables/grid.ts';
import { rowOf } from '../server/tables/queries.ts';
import { atOneMoment, look } from './soak-look.ts';
import { newcomer, publishAccounts } from './soak-accounts.ts';
import { keepTwoApart, lookApart, refusedApart } from './soak-apart.ts';
import { clearCounter, keepCounter, lookAtStock, publishEquipment } from './soak-equipment.ts';
import { meddle, readOnce } from './soak-differences.ts';
import { askForLonger, giveSomethingBack, hurryMachines, publishMachines } from './soak-machines.ts';
import { keepAnother, lookAtGroups, moveSomebody, settleGroups } from './soak-groups.ts';
import { askTheHouses, hurryHouses, publishHouses, turnHouses } from './soak-houses.ts';
import { keepStaff, readStaffOnce, tellStaff } from './soak-staff.ts';
import { publishLetters } from './soak-letters.ts';
import { arrangeAll, publishMeetings } from './soak-meetings.ts';
import { handleANote } from './soak-notes.ts';
import { lookAtSizes, otherSizes, readSizes } from './soak-tables.ts';
import { ticketPlay } from './soak-tickets.ts';
import { actAtYard, endAtYard, publishYard } from './soak-yard.ts';
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
  const machines = await publishMachines(org);
  await readSizes(org);
  const accounts = await publishAccounts(org);
  const equipment = await publishEquipment(org);
  const letters = await publishLetters(org);
  const meetings = await publishMeetings(org);
  const atTheYard = await publishYard(org);
  const houses = await publishHouses(org);
  await keepStaff(org);
  await keepTwoApart(org);
  await keepAnother(chance, org);
  const link = await publishOutside(org);
  const hours = await keepHours(org);
  const tickets = await ticketPlay(org, through);
  tell('prepared');
  const admin = viewerFor(org.people['dan']!, 'administrator');
  const asked = new Map<string, number>();
  const until = Date.now() + seconds * 1000;
  let moves = 0;
  let longer = 0;
  const open = new Set<number>();
  // Four hands at once: some ask, all play whoever is waited for.
  const hand = async () => {
    while (Date.now() < until || asked.size < runs) {
      if (asked.size < runs && (open.size < 40 || chance(3) === 0)) {
        const idempotencyKey = randomUUID();
        const which = chance(13);
        const item = [machines, accounts, equipment, letters, meetings, atTheYard, houses][which] ?? items[chance(items.length)]!;
        const who = ['tor', 'dan', 'olav'][chance(3)]!;
        // Two of them are kept apart, and wanted more often.
        const group = `survey-${(chance(3) === 0 ? chance(2) : chance(groups)) + 1}`;
        // Unknown whether it arrived when the database went away: sent again with the same key it is one request.
        asked.set(idempotencyKey, 0);
        const withFile = chance(3) === 0;
        const whom = chance(2) === 0 ? ['ina', 'runa', 'boss'][chance(3)] : undefined;
        // Some ask for a code that others may have; it is told, and nothing is opened.
        const code = chance(3) === 0 ? `SK-${10 + chance(4)}` : null;
        const made = await through(async () =>
          item === houses
            ? askTheHouses(org, houses, idempotencyKey, who)
            : askFor(
                org,
                item,
                idempotencyKey,
                who,
                group,
                { code, sketch: withFile ? [{ file: await attach(org.people[who]!) }] : null, ...(item === accounts && newcomer(chance)) },
                whom,
              ),
        );
        if (!made.ok && made.problems?.length === 1 && made.problems[0]!.field === 'code') {
          asked.delete(idempotencyKey);
          refusedCodes++;
          continue;
        }
        if (refusedApart(made)) {
          asked.delete(idempotencyKey);
          continue;
        }
        if (!made.ok) throw new Error(made.sentence);
        asked.set(idempotencyKey, made.number);
        open.add(made.number);
        continue;
      }
      if (longer < runs / 4 && chance(8) === 0) {
        const key = randomUUID();
        const number = await through(() => askForLonger(chance, key));
        if (number !== undefined) {
          longer++;
          asked.set(key, number);
          open.add(number);
        }
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
      if (chance(15) === 0) await through(() => giveSomethingBack(chance));
      if (chance(12) === 0) await through(() => handleANote(chance));
      if (chance(5) === 0) await through(() => actAtYard(chance));
      if (chance(4) === 0) await through(() => keepCounter(chance, admin));
      if (chance(6) === 0) await through(() => meddle(chance, org.people));
      if (chance(15) === 0) await through(() => tellStaff(chance, admin));
      if (chance(3) === 0) await through(() => moveSomebody(chance, org));
      if (chance(60) === 0) await through(() => changeHoursOf(org, hours));
      if (chance(10) === 0) await turnHouses(chance);
      if (chance(25) === 0) await through(() => otherSizes(chance, org));
      if (chance(40) === 0) await through(() => changeMachine(org, 1 + chance(64)));
      const number = [...open][chance(open.size)];
      if (number === undefined) {
        await new Promise((r) => setTimeout(r, 50));
        continue;
      }
      const row = await through(() => byNumber(number));
      if (row.outcome && !row.undoing) open.delete(number);
      else if (chance(60) === 0) await through(() => withdrawRequest(viewerFor(row.requester), { number }));
      else if (chance(5) === 0) await through(() => besideWork(org, { ...row, number }, admin));
      else await through(() => playParty(row.id, admin, chance));
      moves++;
      if (moves % 500 === 0) tell(`  ${asked.size} asked, ${moves} moves, ${open.size} in sight`);
    }
  };
  await Promise.all([hand(), hand(), hand(), hand()]);
  tell(`calm ${moves} moves on ${asked.size} runs; the database was away for ${lostSight} acts`);
  await new Promise<void>((go) => createInterface({ input: process.stdin }).once('line', () => go()));
  await hurryMachines();
  await hurryHouses();
  await endAtYard();
  await arrangeAll();
  await drain(admin);
  await settleGroups(org, () => drain(admin));
  await readOnce();
  await readStaffOnce(admin);
  const wrong = [
    ...(await lookApart(org)),
    ...(await lookAtStock()),
    ...(await atOneMoment((tx) => lookAtGroups(tx, org))),
    ...(await lookAtSizes(org)),
    ...(await look({ asked, orders, outside: outside.length, refusedCodes, noted })),
    ...(await tickets.look()),
  ];
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

/** What was said about requests by whoever asked and to them, and answered with “done”. */
const noted: string[] = [];

/** What people do beside the plan: a word to whoever asked, a task to somebody else, a view kept and forgotten. */
async function besideWork(
  org: Awaited<ReturnType<typeof makeOrganisation>>,
  of: { id: string; number: number; requester: string },
  admin: Viewer,
): Promise<void> {
  const [open] = await db()
    .select({ id: task.id, takenBy: task.takenBy })
    .from(task)
    .where(and(eq(task.runId, of.id), isNull(task.closedAt)))
    .limit(1);
  const roll = chance(8);
  if (roll > 5) {
    const words = `It is under way, ${randomUUID()}`;
    const word = { number: of.number, words, once: words, asRequester: true };
    const written = await Promise.all([writeOnRequest(viewerFor(of.requester), word), writeOnRequest(viewerFor(of.requester), word)]);
    for (const done of written)
      if (!done.ok && done.code !== 'ended' && done.code !== 'too-many-tries') throw new Error(`${done.code}: ${done.sentence}`);
    if (written.some((done) => done.ok)) noted.push(words);
    return;
  }
  if (roll === 0 || !open) {
    const kept = await keepView(admin, { list: 'ledger', asked: 'state=open', name: `View ${chance(5)}` });
    const [some] = await keptViews(admin, 'ledger');
    if (!kept.ok) throw new Error(kept.sentence);
    if (some && chance(2) === 0) await forgetView(admin, some.id);
    return;
  }
  // Whoever has it acts on it; what nobody has taken, anybody may.
  const whose = open.takenBy === null ? admin : viewerFor(open.takenBy, 'administrator');
  const words = `It is under way, ${randomUUID()}`;
  const done =
    roll === 5
      ? await correctRequest(whose, { id: open.id, values: { cores: 1 + chance(8) } })
      : roll < 3
        ? await writeFromTask(whose, { id: open.id, words })
        : await handOver(whose, { id: open.id, ...(chance(2) === 0 ? { person: org.people['runa']! } : { team: org.teamId }) });
  if (!done.ok && !['ended', 'not-found', 'changed-meanwhile'].includes(done.code)) throw new Error(`${done.code}: ${done.sentence}`);
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
      select (select count(*) from call where closed_at is null) + (select count(*) from call where words_due is not null) + (select count(*) from timer where due_at < now() + interval '30 seconds')
           + (select count(*) from letter where status = 'waiting') + (select count(*) from meeting where status = 'seeking') + (select count(*) from message where sent_at is null and failed_at is null and attempts = 0) as n`);
    const { rows: stuck } = await db().execute<{ id: string }>(
      sql`select distinct r.id from run r join run_step s on s.run_id = r.id where s.ended_at is null and s.key like 'undo:%'
        and (s.stuck_cause is not null or exists (select from task t where t.run_id = r.id and t.key = s.key and t.closed_at is null)) limit 50`,
    );
    for (const s of stuck) await playParty(s.id, admin, () => 0);
    await clearCounter(admin);
    quiet = Number(rows[0]?.n) === 0 && stuck.length === 0 ? quiet + 1 : 0;
    await new Promise((r) => setTimeout(r, 400));
  }
}

main().catch((error: unknown) => {
  console.error(error);
  process.exit(1);
});
