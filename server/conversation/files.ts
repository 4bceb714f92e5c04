import type { Viewer } from '../auth/viewer.ts';
import type { Tx } from '../db/database.ts';
import { ownersOf } from '../files/whose.ts';
import { refuse, type Refusal } from '../refusal.ts';

/** Files that somebody brought and has not sent with anything yet; a refusal where one of them is none of theirs. */
export async function looseFiles(tx: Tx, viewer: Viewer, ids: string[]): Promise<{ ok: true; files: string[] } | Refusal> {
  const owned = await ownersOf(tx, ids);
  return ids.every((id) => owned.get(id)?.by === viewer.id && owned.get(id)?.caseId === null)
    ? { ok: true, files: ids }
    : refuse('invalid', 'A file was sent already, or is not yours. Attach it anew.');
}
