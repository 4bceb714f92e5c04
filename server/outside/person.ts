import { sql } from 'drizzle-orm';
import type { Viewer } from '../auth/viewer.ts';
import type { Tx } from '../db/database.ts';

/** Somebody from outside as commands know them: they hold no role. */
export const outsider = ({ id, name, email }: { id: string; name: string; email: string }): Viewer => ({
  id,
  name: calledOutside(name),
  email,
  zone: 'UTC',
  roles: [],
});
/** A name as everybody here reads it, so that nobody from outside passes for somebody here. */
const calledOutside = (name: string): string => `${name} (from outside)`;

/** The person from outside with this mail address, which is theirs; called as they say now. */
export async function personOutside(tx: Tx, { name, email }: { name: string; email: string }): Promise<Viewer> {
  const mail = email.toLowerCase();
  const { rows } = await tx.execute<{ id: string }>(sql`
    insert into person (directory_id, user_name, name, email, active, outside)
    values (${`outside ${crypto.randomUUID()}`}, ${`outside ${mail}`}, ${calledOutside(name)}, ${email}, false, true)
    on conflict (lower(email)) where outside do update set name = excluded.name returning id`);
  return outsider({ id: rows[0]!.id, name, email });
}
