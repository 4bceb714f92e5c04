import { randomUUID } from 'node:crypto';
import { asc, eq, sql } from 'drizzle-orm';
import { createTransport } from 'nodemailer';
import { ways } from '../core/statuses/index.ts';
import type { PlainGate } from '../core/plans/index.ts';
import { freshGate, replayTicket, shippedKinds } from '../core/tickets/index.ts';
import { sameJson } from '../core/boundary/index.ts';
import { decide } from '../server/approvals/commands.ts';
import { db, type Tx } from '../server/db/database.ts';
import { serviceCase, ticket, ticketEvent, ticketKind, caseWord } from '../server/db/schema/index.ts';
import { openWay } from '../server/intake/commands.ts';
import { changeKind, createKind } from '../server/kinds/commands.ts';
import { changeRouting, createRouting } from '../server/routing/commands.ts';
import { takeBackAsking } from '../server/tickets/asking.ts';
import { giveTicket, judgeTicket, writeOnTicket } from '../server/tickets/commands.ts';
import { readTicket } from '../server/tickets/happen.ts';
import { joinTicket, partTicket } from '../server/tickets/related.ts';
import { reportTicket } from '../server/tickets/report.ts';
import { viewerFor } from '../server/testing/parties.ts';
import type { makeOrganisation } from '../server/testing/organisation.ts';
import { atOneMoment } from './soak-look.ts';

type Organisation = Awaited<ReturnType<typeof makeOrganisation>>;
type Through = <T>(act: () => Promise<T>) => Promise<T>;

/** Tickets in the soak: people report and answer, the desk asks, moves, gives and judges, several at once, while everything is killed. */
export async function ticketPlay(org: Organisation, through: Through) {
  const designer = viewerFor(org.people['dan']!, 'designer');
  const kind = await createKind(designer, { name: 'Incident' });
  if (!kind.ok) throw new Error(kind.sentence);
  // Promises so short that they are near and broken while the soak runs.
  const { map } = shippedKinds[0]!;
  // Whoever has it may end it once somebody has agreed; where they are left out themselves, somebody else is asked.
  const gate: PlainGate = {
    ...freshGate('The lead agrees'),
    approvers: { from: 'people', people: ['boss', 'ina', 'dan'].map((who) => ({ person: org.people[who]! })) },
    nobody: { then: 'pass' },
  };
  const definition = {
    ...shippedKinds[0]!,
    map: {
      ...map,
      moves: map.moves.map((m) => (m.to === 'done' ? { ...m, gate } : m)),
      statuses: map.statuses.map((s) =>
        s.id === 'done' ? { ...s, tells: [[{ ref: 'form.its_subject' }, { text: ' is done, ' }, { ref: 'request.number' }]] } : s,
      ),
    },
    promises: shippedKinds[0]!.promises.map((p) => ({
      ...p,
      within: { length: 'PT20S', counted: 'always' as const },
      late: { tell: 'holder' as const, raise: 'high' },
    })),
  };
  const changed = await changeKind(designer, { id: kind.id, version: 1, definition });
  if (!changed.ok) throw new Error(changed.sentence);
  const table = await createRouting(designer, { name: 'Who gets a ticket', team: org.teamId });
  if (!table.ok) throw new Error(table.sentence);
  const fallback = { team: org.teamId, how: 'inTurn' as const };
  await changeRouting(designer, {
    id: table.id,
    version: 1,
    definition: { name: 'Who gets a ticket', chooses: 'nearest', columns: [], rows: [], fallback },
  });
  const way = await openWay(designer, { via: 'mail', name: 'desk', kind: kind.id, category: null, unknown: 'refuse', automatic: 'leave' });
  if (!way.ok) throw new Error(way.sentence);
  const reported = new Map<string, number>();
  /** Mails that a server of ours has taken, by their ids; each is one ticket, however often it was handed over. */
  const mailed = new Set<string>();
  let joins = 0;
  let agreed = 0;
  const sent = new Set<string>();
  let refused = 0;

  const report = async (chance: (n: number) => number): Promise<void> => {
    const key = randomUUID();
    // The report limit is for each person: many of them.
    const who = ['tor', 'dan', 'olav', 'ina', 'runa', 'boss'][chance(6)]!;
    const input = { kindId: kind.id, subject: `Ticket ${key}`, words: 'It does not work.', answers: {}, idempotencyKey: key };
    const twice = chance(3) === 0;
    const made = await Promise.all(Array.from({ length: twice ? 2 : 1 }, () => through(() => reportTicket(viewerFor(org.people[who]!), input))));
    const [first] = made;
    if (made.some((m) => !m.ok && m.code === 'too-many-tries') && made.every((m) => !m.ok)) return;
    const done = made.find((m) => m.ok) ?? first!;
    if (!done.ok) throw new Error(done.sentence);
    reported.set(key, done.number);
  };

  /** Hands a mail over as a mail server does: again and again, until it is taken or refused for good. */
  const mail = async (chance: (n: number) => number): Promise<void> => {
    const messageId = `<${randomUUID()}@skerrin.example>`;
    const who = ['tor', 'dan', 'olav', 'ina', 'runa', 'boss'][chance(6)]!;
    const handOver = async (): Promise<boolean> => {
      for (;;) {
        try {
          await createTransport(process.env['MAIL_IN_URL']!).sendMail({
            from: `${who}@skerrin.example`,
            to: `desk@${process.env['MAIL_DOMAIN']}`,
            messageId,
            subject: `Mail ${messageId}`,
            text: 'It does not work.',
          });
          return true;
        } catch (error) {
          // Too much at once from one person is the one refusal that is meant.
          const { responseCode } = error as { responseCode?: number };
          if (/at once/.test(String(error))) return false;
          if (responseCode !== undefined && responseCode >= 500) throw error;
          await new Promise((r) => setTimeout(r, 200));
        }
      }
    };
    const took = await Promise.all(Array.from({ length: chance(3) === 0 ? 2 : 1 }, handOver));
    if (took.includes(true)) mailed.add(messageId);
  };

  /** Two tickets are joined, or one is taken out again, by two at once. */
  const join = async (chance: (n: number) => number): Promise<void> => {
    const numbers = [...reported.values()];
    const [a, b] = [numbers[chance(numbers.length)], numbers[chance(numbers.length)]];
    if (a === undefined || b === undefined) return;
    const [dan, runa] = [viewerFor(org.people['dan']!, 'teamMember'), viewerFor(org.people['runa']!, 'administrator')];
    if (chance(2) === 0) return void (await through(() => partTicket(runa, { number: a })));
    const both = await Promise.all([
      through(() => joinTicket(dan, { number: a, other: `T-${b}` })),
      through(() => joinTicket(runa, { number: b, other: `T-${a}` })),
    ]);
    joins += both.filter((r) => r.ok).length;
  };

  /** Somebody says whether a ticket may go on, twice at once; or it is asked no more. */
  const agree = async (chance: (n: number) => number): Promise<void> => {
    const { rows } = await through(() =>
      db().execute<{ id: string; by: string; number: string }>(sql`
        select a.id, a.person_id as by, c.number from ticket t join gate g on g.run_id = t.asking_id join approval a on a.gate_id = g.id
        join service_case c on c.id = t.case_id where a.status = 'waiting' order by c.number, a.id`),
    );
    const one = rows[chance(rows.length || 1)];
    if (!one) return;
    if (chance(6) === 0)
      return void (await through(() => takeBackAsking(viewerFor(org.people['dan']!, 'administrator'), { number: Number(one.number) })));
    const said = { approvalId: one.id, decision: chance(3) === 0 ? ('decline' as const) : ('approve' as const), comment: 'As weighed.' };
    const both = await Promise.all([1, 2].map(() => through(() => decide(viewerFor(one.by), said))));
    agreed += both.filter((r) => r.ok).length;
  };

  const act = async (chance: (n: number) => number): Promise<void> => {
    if (chance(8) === 0) return mail(chance);
    if (chance(5) === 0) return agree(chance);
    if (chance(10) === 0) return join(chance);
    const numbers = [...reported.values()];
    const number = numbers[chance(numbers.length)];
    if (number === undefined) return report(chance);
    const t = await through(() => readTicket(db(), number));
    if (!t) throw new Error(`T-${number} is gone.`);
    const agent = viewerFor(org.people[chance(2) === 0 ? 'dan' : 'runa']!, 'teamMember');
    const once = randomUUID();
    // What went into another is written to there, which may be closed.
    if (chance(4) === 0 && t.state.status !== 'closed' && t.state.joined === undefined) {
      const words = `An answer ${once}`;
      const asks = () => writeOnTicket(viewerFor(t.requesterId), { number, words, inside: false, once, asRequester: true });
      const done = await Promise.all([through(asks), through(asks)]);
      if (!done.every((d) => !d.ok && d.code === 'too-many-tries')) sent.add(once);
      return;
    }
    if (chance(6) === 0) return void (await through(() => giveTicket(agent, { number, holder: org.people[['dan', 'runa', 'olav'][chance(3)]!]! })));
    if (chance(6) === 0)
      return void (await through(() => judgeTicket(agent, { number, impact: ['many', 'one'][chance(2)]!, urgency: ['now', 'later'][chance(2)]! })));
    const to = ways(t.kind.map, t.state.status);
    const move = to.length > 0 && chance(3) > 0 ? { from: t.state.status, to: to[chance(to.length)]! } : undefined;
    // Two agents at once: one moves it, the other is told.
    const both = await Promise.all(
      ['dan', 'runa'].map((who, i) =>
        through(() =>
          writeOnTicket(viewerFor(org.people[who]!, 'teamMember'), { number, words: `Word ${once} ${i}`, inside: false, once: `${once} ${i}`, move }),
        ),
      ),
    );
    both.forEach((r, i) => (r.ok ? sent.add(`${once} ${i}`) : refused++));
  };

  /** What must be so of tickets, whatever was killed. */
  const lookAt = async (tx: Tx): Promise<string[]> => {
    const wrong: string[] = [];
    const all = await tx
      .select({
        id: ticket.caseId,
        number: serviceCase.number,
        key: serviceCase.idempotencyKey,
        state: ticket.state,
        seq: ticket.seq,
        status: ticket.status,
        nextAt: ticket.nextAt,
        kind: ticketKind.definition,
        endedAt: serviceCase.endedAt,
        outcome: serviceCase.outcome,
      })
      .from(ticket)
      .innerJoin(serviceCase, eq(serviceCase.id, ticket.caseId))
      .innerJoin(ticketKind, eq(ticketKind.id, ticket.kindId));
    const came = all.filter((t) => t.key.startsWith('mail '));
    if (all.length - came.length !== reported.size) wrong.push(`${reported.size} tickets were reported and ${all.length - came.length} are there.`);
    const cameAs = new Set(came.map((t) => t.key.slice(5)));
    if (cameAs.size !== came.length) wrong.push('A mail was taken twice.');
    for (const id of mailed) if (!cameAs.has(id)) wrong.push(`The mail ${id} was taken and is lost.`);
    const { rows: inTwo } = await tx.execute<{ n: number }>(
      sql`select count(*)::int as n from ticket a join ticket b on b.case_id = a.joined_id where b.joined_id is not null`,
    );
    if (inTwo[0]!.n > 0) wrong.push(`${inTwo[0]!.n} tickets went into one that itself went into another.`);
    const { rows: asking } = await tx.execute<{ open: number; over: number }>(sql`
      select (select count(*)::int from run u join service_case c on c.id = u.case_id and c.kind = 'ticket'
          where u.ended_at is null and not exists (select from ticket t where t.asking_id = u.id)) as open,
        (select count(*)::int from ticket t join run u on u.id = t.asking_id where u.ended_at < now() - interval '90 seconds') as over`);
    if (asking[0]!.open > 0) wrong.push(`${asking[0]!.open} times people are asked about a ticket that does not wait for it.`);
    if (asking[0]!.over > 0) wrong.push(`${asking[0]!.over} tickets wait for what was decided long ago.`);
    for (const t of all) {
      if (!t.key.startsWith('mail ') && reported.get(t.key) !== t.number) wrong.push(`T-${t.number} is not what was reported under its key.`);
      const events = await tx
        .select({ seq: ticketEvent.seq, at: ticketEvent.at, event: ticketEvent.event })
        .from(ticketEvent)
        .where(eq(ticketEvent.caseId, t.id))
        .orderBy(asc(ticketEvent.seq));
      if (events.some((e, i) => e.seq !== i + 1) || events.length !== t.seq)
        wrong.push(`The events of T-${t.number} are not numbered in order: ${t.seq} by the ticket, ${events.map((e) => e.seq).join(', ')}.`);
      const again = replayTicket(
        t.kind,
        events.map((e) => ({ event: e.event, at: e.at.toISOString() })),
      );
      if (!sameJson(again, t.state)) wrong.push(`T-${t.number} does not stand where its events lead.`);
      const itself = t.state.joined === undefined;
      if ((itself && (t.state.endedAt === undefined) !== (t.endedAt === null)) || (t.endedAt === null) !== (t.outcome === null))
        wrong.push(`T-${t.number} and its case do not end together.`);
    }
    const { rows: words } = await tx.execute<{ once: string; n: number }>(
      sql`select once, count(*)::int as n from case_word where once is not null group by once`,
    );
    if (words.some((r) => r.n > 1)) wrong.push('A word was kept twice.');
    const kept = new Set(words.map((r) => r.once.slice(37)));
    for (const once of sent) if (!kept.has(once)) wrong.push(`The word ${once} was lost.`);
    const { rows: late } = await tx.execute<{ n: number }>(sql`select count(*)::int as n from ticket where next_at < now() - interval '5 minutes'`);
    if (late[0]!.n > 0) wrong.push(`What was due of ${late[0]!.n} tickets did not happen.`);
    const { rows: told } = await tx.execute<{ n: number }>(sql`
      select count(*)::int as n from (select case_id, event from ticket_event e where event ->> 'type' = 'told' and not exists (
        select from ticket_event x where x.case_id = e.case_id and x.seq < e.seq and x.event = e.event and not exists (
          select from ticket_event y where y.case_id = e.case_id and y.seq between x.seq and e.seq and y.event ->> 'type' in ('judged', 'recounted')))
        is false) twice`);
    if (told[0]!.n > 0) wrong.push(`${told[0]!.n} times the desk was told the same of a ticket twice.`);
    return wrong;
  };
  const words = async () =>
    `${reported.size} tickets, ${await db().$count(caseWord)} words about them, ${mailed.size} by mail, ${joins} joined, ${agreed} times somebody said whether one may go on, ${refused} times somebody else was quicker`;
  return { report, act, look: () => atOneMoment(lookAt), words };
}
