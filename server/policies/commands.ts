import { and, eq, ne, sql } from 'drizzle-orm';
import { checkPolicy, Policy } from '../../core/policies/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { policy, policyVersion } from '../db/schema/index.ts';
import { holdTo, notAllowed, notFound, refuse, type Result } from '../refusal.ts';
import { record } from '../changes/record.ts';

const blank = (name: string): Policy => ({ name, purpose: '', inputs: [], lines: [] });

/** Begins an approval policy, empty. */
export async function createPolicy(viewer: Viewer, input: { name: string }): Promise<Result<{ id: string }>> {
  if (!has(viewer, 'designer')) return notAllowed('keep approval policies');
  const name = Policy.shape.name.safeParse(input.name);
  if (!name.success) return refuse('invalid', 'The policy needs a name.', [{ field: 'name', sentence: 'The policy needs a name.' }]);
  return db().transaction(async (tx): Promise<Result<{ id: string }>> => {
    const definition = blank(name.data);
    const [made] = await tx
      .insert(policy)
      .values({ name: name.data, definition, changedBy: viewer.id })
      .onConflictDoNothing()
      .returning({ id: policy.id });
    if (!made) return taken(name.data);
    await tx.insert(policyVersion).values({ policyId: made.id, version: 1, definition, by: viewer.id, note: 'Begun' });
    await record(tx, { actor: viewer.id, action: 'create', object: 'policy', objectId: made.id, detail: { name: name.data } });
    return { ok: true, id: made.id };
  });
}

/** Changes a policy everywhere, from the next gate on that follows it. The version before is kept. */
export async function changePolicy(
  viewer: Viewer,
  input: { id: string; version: number; definition: unknown; note: string },
): Promise<Result<{ version: number; findings: string[] }>> {
  if (!has(viewer, 'designer')) return notAllowed('keep approval policies');
  const held = holdTo(Policy, input.definition);
  if (!held.ok) return held;
  const definition = held.value;
  return db().transaction(async (tx): Promise<Result<{ version: number; findings: string[] }>> => {
    const [now] = await tx.select({ version: policy.version }).from(policy).where(eq(policy.id, input.id)).for('no key update');
    if (!now) return notFound('This policy');
    if (now.version !== input.version)
      return refuse(
        'changed-meanwhile',
        'Somebody else has changed this policy meanwhile. Nothing of theirs was overwritten; what you typed is still here.',
      );
    const [same] = await tx
      .select({ id: policy.id })
      .from(policy)
      .where(and(eq(sql`lower(${policy.name})`, definition.name.toLowerCase()), ne(policy.id, input.id)));
    if (same) return taken(definition.name);
    const version = now.version + 1;
    await tx
      .update(policy)
      .set({ name: definition.name, definition, version, changedBy: viewer.id, changedAt: new Date() })
      .where(eq(policy.id, input.id));
    await tx.insert(policyVersion).values({ policyId: input.id, version, definition, by: viewer.id, note: input.note.trim().slice(0, 500) });
    await record(tx, { actor: viewer.id, action: 'change', object: 'policy', objectId: input.id, detail: { version, note: input.note.trim() } });
    return { ok: true, version, findings: checkPolicy(definition) };
  });
}

const taken = (name: string) =>
  refuse('taken', `There is a policy called “${name}” already.`, [
    { field: 'name', sentence: `There is a policy called “${name}” already. Choose another name.` },
  ]);
