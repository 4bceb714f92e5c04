import { createHash } from 'node:crypto';
import canonicalize from 'canonicalize';
import { eq } from 'drizzle-orm';
import type { ItemDefinition } from '../../core/items/index.ts';
import { freeze, type Catalogue } from '../../core/plans/index.ts';
import type { Reader } from '../db/database.ts';
import { revision } from '../db/schema/index.ts';

/** Revisions never change, so a process may keep the ones it has read. */
const kept = new Map<string, ItemDefinition>();
const most = 500;

export async function definitionOf(tx: Reader, revisionId: string): Promise<ItemDefinition> {
  const known = kept.get(revisionId);
  if (known) return known;
  const [row] = await tx.select({ definition: revision.definition }).from(revision).where(eq(revision.id, revisionId));
  if (!row) throw new Error(`Revision ${revisionId} is missing.`);
  if (kept.size >= most) kept.delete(kept.keys().next().value!);
  kept.set(revisionId, row.definition);
  return row.definition;
}

/** A draft as a revision keeps it: parts and undoing actions are written into it, so that what runs needs nothing that may change later. */
export const frozen = (draft: ItemDefinition, catalogue: Catalogue): ItemDefinition => ({ ...draft, plan: freeze(draft.plan, catalogue) });

/** SHA-256 over the RFC 8785 canonical form: the same content has the same hash everywhere. */
export const hashOf = (value: object): string =>
  createHash('sha256')
    .update(canonicalize(value) ?? '')
    .digest('hex');
