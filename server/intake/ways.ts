import { and, eq, sql } from 'drizzle-orm';
import { addressOf, type IntakeWay } from '../../core/intake/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { config } from '../config.ts';
import { db, type Reader } from '../db/database.ts';
import { intakeWay, person, serviceCase, ticket, ticketKind } from '../db/schema/index.ts';

/** A way in as it is kept. */
export interface Way {
  id: string;
  version: number;
  definition: IntakeWay;
}

const columns = {
  id: intakeWay.id,
  version: intakeWay.version,
  via: intakeWay.via,
  name: intakeWay.name,
  kind: intakeWay.kindId,
  category: intakeWay.category,
  unknown: intakeWay.unknown,
  automatic: intakeWay.automatic,
};

function wayOf(
  row: Pick<typeof intakeWay.$inferSelect, 'id' | 'version' | 'via' | 'name' | 'category' | 'unknown' | 'automatic'> & { kind: string },
): Way {
  const { id, version, via, name, kind, category } = row;
  const opens = { name, kind, category };
  return {
    id,
    version,
    definition: via === 'chat' ? { via, ...opens } : { via, ...opens, unknown: row.unknown ?? 'refuse', automatic: row.automatic ?? 'leave' },
  };
}

/** All ways in of a sort; there are a few. */
export const waysBy = async (tx: Reader, via: 'mail' | 'chat'): Promise<Way[]> =>
  (await tx.select(columns).from(intakeWay).where(eq(intakeWay.via, via)).orderBy(intakeWay.name)).map(wayOf);

/** The way in that is called so. */
export async function wayCalled(tx: Reader, via: 'mail' | 'chat', name: string): Promise<Way | undefined> {
  const [row] = await tx
    .select(columns)
    .from(intakeWay)
    .where(and(eq(intakeWay.via, via), sql`lower(${intakeWay.name}) = ${name.toLowerCase()}`));
  return row && wayOf(row);
}

/** Whether what is mailed about tickets and requests can be answered by mail. */
export const answersByMail = async (tx: Reader): Promise<boolean> =>
  config().MAIL_IN_PORT !== undefined && (await tx.select({ id: intakeWay.id }).from(intakeWay).where(eq(intakeWay.via, 'mail')).limit(1)).length > 0;

/** Where answers to a mail about a case go: its sub-address at the way in of its kind, else at any; undefined where no mail comes in. */
export async function answersTo(caseId: string): Promise<string | undefined> {
  if (config().MAIL_IN_PORT === undefined) return undefined;
  const [row] = await db()
    .select({ number: serviceCase.number, is: serviceCase.kind, name: intakeWay.name })
    .from(serviceCase)
    .leftJoin(ticket, eq(ticket.caseId, serviceCase.id))
    .innerJoin(intakeWay, eq(intakeWay.via, 'mail'))
    .where(eq(serviceCase.id, caseId))
    .orderBy(sql`(${intakeWay.kindId} is not distinct from ${ticket.kindId}) desc`, intakeWay.name)
    .limit(1);
  return row && addressOf(row.name, row, config().MAIL_DOMAIN);
}

/** The ways in as designers list them. */
export async function waysListed(viewer: Viewer) {
  if (!has(viewer, 'designer')) return undefined;
  const rows = await db()
    .select({ ...columns, kindName: ticketKind.name, changedAt: intakeWay.changedAt, changedBy: person.name })
    .from(intakeWay)
    .innerJoin(ticketKind, eq(ticketKind.id, intakeWay.kindId))
    .leftJoin(person, eq(person.id, intakeWay.changedBy))
    .orderBy(intakeWay.via, sql`lower(${intakeWay.name})`);
  return {
    domain: config().MAIL_DOMAIN,
    mail: config().MAIL_IN_PORT !== undefined,
    chat: config().CHAT_URL !== undefined,
    ways: rows.map((r) => ({ ...wayOf(r), kind: r.kindName, changedAt: r.changedAt, changedBy: r.changedBy })),
  };
}
