import { dateWords } from '../../core/calendar/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { isId } from '../ids.ts';
import { findHeld } from './held.ts';

const few = 20;

/** What a field of a holding offers: what whoever it is for holds that the action gave, by a part of its name. */
export async function heldChoices(viewer: Viewer, { gave, lent, whom, q }: { gave: string; lent: boolean; whom: string; q: string }) {
  const found = await findHeld(db(), { by: viewer.id, whom: isId(whom) ? whom : viewer.id, gave, lent, q: q.trim(), few });
  return found.map(({ id, name, until }) => ({ id, name, detail: until === null ? '' : `Lent until ${dateWords(until)}` }));
}

/** A holding by its name as typed, without scripts: the one that is called exactly so. */
export async function heldCalled(
  viewerId: string,
  { gave, lent, whom, name }: { gave: string; lent: boolean; whom: string; name: string },
): Promise<string | undefined> {
  const found = await findHeld(db(), { by: viewerId, whom: isId(whom) ? whom : viewerId, gave, lent, q: name.trim(), few });
  const called = found.filter((h) => h.name.toLowerCase() === name.trim().toLowerCase());
  return called.length === 1 ? called[0]!.id : undefined;
}
