import { eq } from 'drizzle-orm';
import { isPerson, type Value } from '../../../core/values/index.ts';
import { db } from '../../db/database.ts';
import { person } from '../../db/schema/index.ts';
import { isId } from '../../ids.ts';
import type { Changing } from '../action.ts';
import { PermanentError } from '../errors.ts';
import { directoryClient, type ScimUser } from './client.ts';

export const who = { name: 'person', label: 'Person', type: 'person' as const, required: true };

/** Says that there was nothing to change. */
export const alreadyOutput = (label: string) => ({ name: 'already', label, type: 'boolean' as const, always: true });
/** The words of an input; undefined where there are none. */
export const text = (value: Value | undefined): string | undefined => (typeof value === 'string' && value.trim() !== '' ? value.trim() : undefined);

/** Changes somebody where there is something to change; gives them as they are then. */
export async function changed(user: ScimUser, operations: object[], key: string, changing?: Changing): Promise<ScimUser> {
  if (operations.length === 0) return user;
  await changing?.begin();
  return directoryClient.patchUser(user.id, operations, user.meta?.version, key);
}

/** Whom an action is about, as the directory has them now. */
export async function readPerson(values: Record<string, Value>): Promise<ScimUser> {
  const given = values['person'];
  if (!isPerson(given)) throw new PermanentError('No person was given.');
  return directoryClient.user(await directoryIdOf(given.person, 'The person'));
}

/** What the directory knows somebody by; `what` begins the sentence where it does not. */
export async function directoryIdOf(id: string, what: string): Promise<string> {
  const [row] = isId(id) ? await db().select({ id: person.directoryId, outside: person.outside }).from(person).where(eq(person.id, id)) : [];
  if (!row || row.outside) throw new PermanentError(`${what} is not in the directory.`);
  return row.id;
}
