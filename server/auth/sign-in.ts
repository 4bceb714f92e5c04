import { and, eq, lt, ne, or, sql } from 'drizzle-orm';
import { heard, unkeepableIn } from '../../core/boundary/index.ts';
import { record } from '../changes/record.ts';
import { db, type Tx } from '../db/database.ts';
import { person, session } from '../db/schema/index.ts';
import { refuse, type Result } from '../refusal.ts';
import { limits } from './limits.ts';
import { hashPassword, isRight, passwordLength, weakness } from './passwords.ts';
import { hashToken, newToken } from './token.ts';
import { sessionHours, type Viewer } from './viewer.ts';

/** From where and with what somebody comes, for the log and for their own list of sessions. */
export interface From {
  address: string;
  agent: string;
}

/** Signs a person in by user name or mail address; gives the cookie's value. Every try is logged, with where it came from. */
export async function signIn(name: string, password: string, from: From): Promise<Result<{ cookie: string }>> {
  const wrong = refuse('invalid', 'The name or the password is not right.');
  const key = name.trim().toLowerCase();
  if (!key || key.length > 200 || unkeepableIn(key) || !password || password.length > passwordLength.max) return wrong;
  const wait = await limits.signIn(key, from.address);
  if (wait > 0) return refuse('too-many-tries', `Too many tries. Try again in ${wait} seconds.`);
  const [found] = await db()
    .select({ id: person.id, passwordHash: person.passwordHash })
    .from(person)
    .where(and(or(eq(sql`lower(${person.userName})`, key), eq(sql`lower(${person.email})`, key)), eq(person.active, true)))
    .limit(1);
  if (!(await isRight(found?.passwordHash, password)) || !found) {
    await limits.wrongSignIn(key);
    // What was typed as a name may be a password by mistake: only a name that exists is logged.
    await record(db(), {
      actor: null,
      action: 'sign-in-failed',
      object: 'person',
      objectId: found?.id ?? 'unknown',
      detail: { address: from.address },
    });
    return wrong;
  }
  await limits.rightSignIn(key);
  const cookie = newToken();
  await db().transaction(async (tx) => {
    await tx.delete(session).where(lt(session.expiresAt, sql`now()`));
    await tx.insert(session).values({
      idHash: hashToken(cookie),
      personId: found.id,
      expiresAt: new Date(Date.now() + sessionHours * 3_600_000),
      address: from.address,
      agent: heard(from.agent, 200),
    });
    await record(tx, { actor: found.id, action: 'sign-in', object: 'person', objectId: found.id, detail: { address: from.address } });
  });
  return { ok: true, cookie };
}

export async function signOut(cookie: string, address: string): Promise<void> {
  await db().transaction(async (tx) => {
    const [over] = await tx
      .delete(session)
      .where(eq(session.idHash, hashToken(cookie)))
      .returning({ id: session.personId });
    if (over) await record(tx, { actor: over.id, action: 'sign-out', object: 'person', objectId: over.id, detail: { address } });
  });
}

/** Ends the sessions of a person, but for one. */
export const endSessions = (tx: Tx, personId: string, butFor?: string) =>
  tx
    .delete(session)
    .where(and(eq(session.personId, personId), butFor ? ne(session.idHash, hashToken(butFor)) : undefined))
    .returning({ id: session.idHash });

/** People change their own password; their other sessions end. */
export async function changePassword(
  viewer: Viewer,
  input: { now: string; next: string; cookie: string; address: string },
): Promise<Result<{ ended: number }>> {
  const wait = await limits.signIn(`change ${viewer.id}`, input.address);
  if (wait > 0) return refuse('too-many-tries', `Too many tries. Try again in ${wait} seconds.`);
  const [row] = await db()
    .select({ passwordHash: person.passwordHash, userName: person.userName })
    .from(person)
    .where(and(eq(person.id, viewer.id), eq(person.active, true)));
  if (input.now.length > passwordLength.max || !row || !(await isRight(row.passwordHash, input.now))) {
    const sentence = 'This is not your present password.';
    return refuse('invalid', sentence, [{ field: 'now', sentence }]);
  }
  const weak = await weakness(input.next, [viewer.name, viewer.email, row.userName]);
  if (weak) return refuse('invalid', weak, [{ field: 'next', sentence: weak }]);
  const passwordHash = await hashPassword(input.next);
  return db().transaction(async (tx) => {
    await tx.update(person).set({ passwordHash }).where(eq(person.id, viewer.id));
    const ended = await endSessions(tx, viewer.id, input.cookie);
    await record(tx, {
      actor: viewer.id,
      action: 'change-password',
      object: 'person',
      objectId: viewer.id,
      detail: { address: input.address, sessionsEnded: ended.length },
    });
    return { ok: true, ended: ended.length };
  });
}

/** Ends one of one's own sessions, named as the list names it, or all but the present one. */
export async function endOwnSession(viewer: Viewer, which: string, cookie: string): Promise<Result<{ ended: number }>> {
  return db().transaction(async (tx) => {
    const ended =
      which === 'others'
        ? await endSessions(tx, viewer.id, cookie)
        : await tx
            .delete(session)
            .where(and(eq(session.personId, viewer.id), eq(sql`left(${session.idHash}, 16)`, which)))
            .returning({ id: session.idHash });
    await record(tx, { actor: viewer.id, action: 'end-session', object: 'person', objectId: viewer.id, detail: { ended: ended.length } });
    return { ok: true, ended: ended.length };
  });
}
