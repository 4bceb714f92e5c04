import { sql, type SQL } from 'drizzle-orm';
import { ticketFormat, readDocument } from '../../core/documents/index.ts';
import type { ListAsked } from '../../core/lists/index.ts';
import { everStatus } from '../../core/statuses/index.ts';
import { levelWords } from '../../core/targets/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { kindsOf } from '../kinds/queries.ts';
import { casesWithWords, rare, type WordStands } from '../lists/case-words.ts';
import { keyset, pageBy, type Key } from '../lists/keyset.ts';
import { anywhere } from '../lists/like.ts';
import { allOf, anyOf, counted, onDays } from '../lists/narrow.ts';
import { readsTickets } from './whose.ts';

/** By what tickets can be ordered; each has an index in its very order, or is reached by one for each name. */
const number: Key = { of: sql`service_case.number`, as: 'bigint' };
const orders: Record<string, Key[]> = {
  ticket: [number],
  opened: [{ of: sql`service_case.opened_at`, as: 'timestamptz' }, number],
  ended: [{ of: sql`service_case.ended_order`, as: 'timestamptz' }, number],
  requester: [{ of: sql`lower(asker.name)`, as: 'text' }, { of: sql`asker.id`, as: 'uuid' }, number],
};

/** Where a word stands: in the number, the requester's name, the subject, what was asked and said. */
function standing(word: string): WordStands {
  const numbered = Number(/^t?-?(\d{1,12})$/i.exec(word)?.[1]);
  const sought = sql`to_tsquery('simple', ${`'${word.replace(/['\\]/g, ' ')}':*`})`;
  const asked = sql`to_tsvector('simple', left(service_case.words, 100000)) @@ ${sought}`;
  const said = sql`to_tsvector('simple', left(w.text, 100000)) @@ ${sought}`;
  const people = sql`select id from person where lower(name) like ${anywhere(word.toLowerCase())}`;
  const byNumber = (of: SQL) => (Number.isFinite(numbered) ? of : sql``);
  return {
    outside: sql`select id from service_case where kind = 'ticket' and requester_id in (${people})
      ${byNumber(sql`union all select id from service_case where number = ${numbered}`)}`,
    inside: sql`select id from service_case where kind = 'ticket' and ${asked} union all select w.case_id from case_word w where ${said}`,
    isOutside: sql`(service_case.requester_id in (${people}) ${byNumber(sql`or service_case.number = ${numbered}`)})`,
    isInside: sql`(${asked} or exists (select from case_word w where w.case_id = service_case.id and ${said}))`,
  };
}

const states: Record<string, SQL> = {
  open: sql`ticket.ended_at is null`,
  ended: sql`ticket.ended_at is not null`,
  joined: sql`ticket.joined_id is not null`,
};
const promises: Record<string, SQL> = {
  kept: sql`ticket.ended_at <= ticket.due_at`,
  broken: sql`ticket.ended_at > ticket.due_at`,
};
const anyIn = (known: Record<string, SQL>, wanted: string[] | undefined): SQL | undefined => {
  const some = (wanted ?? []).flatMap((w) => (Object.hasOwn(known, w) ? [known[w]!] : []));
  return some.length > 0 ? sql`(${sql.join(some, sql` or `)})` : undefined;
};

const narrowed = async (viewer: Viewer, asked: ListAsked, upTo: number): Promise<(SQL | undefined)[]> => [
  sql`service_case.kind = 'ticket'`,
  anyIn(states, asked.wanted['state']),
  anyIn(promises, asked.wanted['promise']),
  anyOf(sql`ticket.kind_id`, asked.wanted['kind']),
  anyOf(sql`ticket.team_id`, asked.wanted['team']),
  anyOf(sql`ticket.holder_id`, asked.wanted['holder']),
  anyOf(sql`service_case.requester_id`, asked.wanted['requester']),
  asked.wanted['place'] &&
    sql`ticket.place_id in (with recursive within(id) as (select l.id from location l where ${anyOf(sql`l.id`, asked.wanted['place'])}
      union select l.id from location l join within on l.parent_id = within.id) select id from within)`,
  onDays(sql`service_case.opened_at`, asked.days['opened'], viewer.zone),
  onDays(sql`service_case.ended_at`, asked.days['ended'], viewer.zone),
  ...(await casesWithWords(asked.words, standing, sql`true`, upTo)),
];

interface Row {
  number: number;
  subject: string;
  category: string | null;
  kindId: string;
  requester: string;
  place: string | null;
  team: string | null;
  holder: string | null;
  openedAt: Date;
  endedAt: Date | null;
  dueAt: Date | null;
  helped: boolean | null;
  state: unknown;
  sortKeys: string[];
  [key: string]: unknown;
}

/** Tickets as they are asked for, open and ended, a page at a time; undefined for whoever does not read all of them. */
export async function ticketList(viewer: Viewer, asked: ListAsked, size = 50, upTo = rare) {
  if (!readsTickets(viewer)) return undefined;
  const { by } = asked.sort;
  const { after, orderBy, sortKeys } = keyset(orders[by] ?? orders['ticket']!, asked.sort.down, asked.after);
  const { rows } = await db().execute<Row & { number: string; openedAt: string; endedAt: string | null; dueAt: string | null }>(sql`
    select service_case.number, ticket.subject, ticket.category, ticket.kind_id as "kindId", asker.name as requester,
      (select n.name from location n where n.id = ticket.place_id) as place, (select n.name from team n where n.id = ticket.team_id) as team,
      (select n.name from person n where n.id = ticket.holder_id) as holder, service_case.opened_at as "openedAt", ticket.ended_at as "endedAt", ticket.due_at as "dueAt", ticket.helped, ticket.state, ${sortKeys} as "sortKeys"
    from service_case join ticket on ticket.case_id = service_case.id join person asker on asker.id = service_case.requester_id
    where ${allOf([...(await narrowed(viewer, asked, upTo)), after])}
    order by ${orderBy} limit ${sql.raw(String(size + 1))}`);
  const page = pageBy(rows, size);
  const kinds = await kindsOf(
    db(),
    page.rows.map((r) => r.kindId),
  );
  const date = (at: string | null) => (at === null ? null : new Date(at));
  return {
    next: page.next,
    rows: page.rows.map(({ sortKeys: _, state, kindId, ...r }) => {
      const kind = kinds.get(kindId)?.definition;
      const stands = readDocument(ticketFormat, state);
      const [endedAt, dueAt] = [date(r.endedAt), date(r.dueAt)];
      return {
        ...r,
        number: Number(r.number),
        kind: kind?.name ?? '',
        status: (kind && everStatus(kind.map, stands.status)?.name) ?? stands.status,
        clock: (kind && everStatus(kind.map, stands.status)?.clock) ?? ('runs' as const),
        priority: kind ? levelWords(kind.priority.priorities, stands.priority) : stands.priority,
        joined: stands.joined !== undefined,
        openedAt: new Date(r.openedAt),
        endedAt,
        dueAt,
        /** Whether it was done within what was promised; undefined where nothing was, or it goes on. */
        kept: endedAt && dueAt && stands.joined === undefined ? endedAt <= dueAt : undefined,
      };
    }),
  };
}

/** How many tickets that are, counted no further than `countedTo` and one more. */
export async function ticketListCount(viewer: Viewer, asked: ListAsked): Promise<number> {
  if (!readsTickets(viewer)) return 0;
  const { rows } = await db().execute<{ n: number }>(
    counted(sql`select from service_case join ticket on ticket.case_id = service_case.id where ${allOf(await narrowed(viewer, asked, rare))}`),
  );
  return rows[0]!.n;
}
