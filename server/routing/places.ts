import type { PlaceTree } from '../../core/routing/index.ts';
import { db, type Reader } from '../db/database.ts';
import { location } from '../db/schema/index.ts';

const read = new WeakMap<Reader, Promise<PlaceTree>>();

/** The tree of places as a transaction, or a page, sees it; read once. */
export function placeTree(tx: Reader): Promise<PlaceTree> {
  const known = read.get(tx);
  if (known) return known;
  const tree = tx
    .select({ id: location.id, parentId: location.parentId })
    .from(location)
    .then((rows) => new Map(rows.map((r) => [r.id, r.parentId])));
  // Outside a transaction there is nothing that would end what was read.
  if (tx !== db()) read.set(tx, tree);
  return tree;
}
