import { eq, inArray, sql } from 'drizzle-orm';
import { plainText, type RichText } from '../../core/values/index.ts';
import { levelWords } from '../../core/targets/index.ts';
import { config } from '../config.ts';
import type { Tx } from '../db/database.ts';
import { location, person, team } from '../db/schema/index.ts';
import { answersByMail } from '../intake/ways.ts';
import { postAll } from '../mail/post.ts';
import { ticketNumber } from '../words.ts';
import { withJoined, type Ticket } from './happen.ts';

// What is said about a ticket: to whoever asked, in their thread; to whom it has come, with all they need to begin.

/**
 * To the requester, and to those of tickets that went into it: what the desk writes, what a status tells, that it has come in. Each reads it
 * in the thread of their own ticket: by mail, or in chat where they said it there.
 */
export async function tellRequester(tx: Tx, t: Ticket, m: { key: string; words: RichText }, at: Date): Promise<void> {
  const { rows } = await tx.execute<{
    caseId: string;
    number: string;
    subject: string;
    inChat: boolean;
    id: string;
    email: string;
    outside: boolean;
  }>(sql`
    select t.case_id as "caseId", c.number, t.subject, t.chat_root is not null as "inChat", p.id, p.email, p.outside
    from ticket t join service_case c on c.id = t.case_id join person p on p.id = c.requester_id
    where t.case_id = any(${withJoined(t.caseId)}) order by c.number`);
  const answered = await answersByMail(tx);
  await postAll(
    tx,
    rows.map((r) => {
      const url = `${config().PUBLIC_URL}/counter/tickets/${r.number}`;
      // Nobody from outside has a page here.
      const how = r.outside
        ? 'Answer this mail to add something.'
        : r.inChat
          ? 'Answer in this thread, or on its page:'
          : answered
            ? 'Answer this mail, or write on its page:'
            : '';
      return {
        caseId: r.caseId,
        key: m.key,
        to: { id: r.id, email: r.email },
        via: r.inChat ? ('chat' as const) : ('mail' as const),
        subject: `${r.subject}, ${ticketNumber(Number(r.number))}`,
        text: [plainText(m.words), [how, r.outside ? '' : url].filter(Boolean).join('\n')].filter(Boolean).join('\n\n') + '\n',
        content: [...m.words, ...(how ? [[{ text: how }]] : []), ...(r.outside ? [] : [[{ text: url, link: url }]])],
      };
    }),
    at,
  );
}

/** To whoever has it now, else to everybody of its team: all they need to begin. By chat where there is one. */
export async function tellDesk(tx: Tx, t: Ticket, m: { key: string; why: string; words: string; but?: string | null }, at: Date): Promise<void> {
  const { team: teamId, holder } = t.state;
  const whom = holder
    ? await tx
        .select({ id: person.id, email: person.email })
        .from(person)
        .where(inArray(person.id, [holder]))
    : teamId === undefined
      ? []
      : (
          await tx.execute<{ id: string; email: string }>(
            sql`select p.id, p.email from team_member m join person p on p.id = m.person_id where m.team_id = ${teamId} and p.active order by p.id`,
          )
        ).rows;
  const told = whom.filter((p) => p.id !== m.but);
  if (told.length === 0) return;
  const [asker] = await tx
    .select({ name: person.name, job: person.jobRole, department: person.department, email: person.email })
    .from(person)
    .where(eq(person.id, t.requesterId));
  const [place] = t.placeId ? await tx.select({ name: location.name }).from(location).where(eq(location.id, t.placeId)) : [];
  const [its] = teamId ? await tx.select({ name: team.name }).from(team).where(eq(team.id, teamId)) : [];
  const { priority } = t.kind;
  const facts = [
    `${t.kind.name}, ${levelWords(priority.priorities, t.state.priority)} priority${t.category ? `, ${t.category}` : ''}`,
    `From ${[asker?.name, asker?.job, asker?.department, asker?.email].filter(Boolean).join(', ')}`,
    place && `At ${place.name}`,
    its && `With ${its.name}`,
  ].filter((line) => line !== undefined && line !== '');
  const url = `${config().PUBLIC_URL}/desk/queue/tickets/${t.number}`;
  const reads = asker?.name ?? 'who asked';
  const how = config().CHAT_URL
    ? `What you answer in this thread, ${reads} reads. Everything else is done here:`
    : (await answersByMail(tx))
      ? `What you answer to this mail, ${reads} reads. Everything else is done here:`
      : '';
  await postAll(
    tx,
    told.map((to) => ({
      caseId: t.caseId,
      key: m.key,
      to,
      via: 'chat' as const,
      subject: `${m.why}: ${t.subject}, ${ticketNumber(t.number)}`,
      text: `${facts.join('\n')}\n\n${m.words}\n\n${how === '' ? '' : `${how}\n`}${url}\n`,
    })),
    at,
  );
}
