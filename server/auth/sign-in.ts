import { hash, verify } from '@node-rs/argon2';
import { and, eq, lt, or, sql } from 'drizzle-orm';
import { record } from '../commands/record.ts';
import { db } from '../db/database.ts';
import { person, session } from '../db/schema/index.ts';
import { refuse, type Result } from '../refusal.ts';
import { limits } from './limits.ts';
import { hashToken, newToken } from './token.ts';

/** How long a sign-in lasts, in hours. */
export const sessionHours = 12;

/** Shortest and longest password. Source: NIST SP 800-63B, section 5.1.1.2 (at least 8; at least 64 must be allowed). */
export const passwordLength = { min: 8, max: 128 };

// argon2id is the library's default; the settings are OWASP's first (19 MiB, two passes), from memory.
const hashing = { memoryCost: 19_456, timeCost: 2, parallelism: 1 };
export const hashPassword = (password: string): Promise<string> => hash(password, hashing);
/** Verified against when nobody has that name, so that the time taken tells nothing. */
let nobody: Promise<string> | undefined;

/** Signs a person in by user name or mail address; gives the cookie's value. */
export async function signIn(name: string, password: string, address: string): Promise<Result<{ cookie: string }>> {
  const wrong = refuse('invalid', 'The name or the password is not right.');
  if (!name.trim() || !password || password.length > passwordLength.max) return wrong;
  const wait = await limits.signIn(`${address} ${name.trim().toLowerCase()}`, address);
  if (wait > 0) return refuse('too-many-tries', `Too many tries. Try again in ${wait} seconds.`);
  const key = name.trim().toLowerCase();
  const [found] = await db()
    .select({ id: person.id, passwordHash: person.passwordHash })
    .from(person)
    .where(and(or(eq(sql`lower(${person.userName})`, key), eq(sql`lower(${person.email})`, key)), eq(person.active, true)))
    .limit(1);
  const right = await verify(found?.passwordHash ?? (await (nobody ??= hashPassword(newToken()))), password);
  if (!found?.passwordHash || !right) return wrong;
  const cookie = newToken();
  await db().transaction(async (tx) => {
    await tx.delete(session).where(lt(session.expiresAt, sql`now()`));
    await tx.insert(session).values({ idHash: hashToken(cookie), personId: found.id, expiresAt: new Date(Date.now() + sessionHours * 3_600_000) });
    await record(tx, { actor: found.id, action: 'sign-in', object: 'person', objectId: found.id });
  });
  return { ok: true, cookie };
}

export async function signOut(cookie: string): Promise<void> {
  await db()
    .delete(session)
    .where(eq(session.idHash, hashToken(cookie)));
}
