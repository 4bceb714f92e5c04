import { and, eq, inArray, ne } from 'drizzle-orm';
import { ConsentDecision } from '../../core/posts/index.ts';
import { actionOf, roomOf, walk, type ActionSpec, type Catalogue, type Plan } from '../../core/plans/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db, type Tx } from '../db/database.ts';
import { consent, person, systemOwner, webSystem } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { holdTo, notAllowed, notFound, refuse, type Result } from '../refusal.ts';
import { record } from '../changes/record.ts';
import type { Actor } from '../people/commands.ts';
import { ownSystems } from '../systems/own.ts';
import { systemOf } from '../systems/whose.ts';
import { mayConsent } from './whose.ts';

/** Names who answers for a system; only an administrator does. */
export async function setSystemOwners(actor: Actor, input: { system: string; people: string[] }): Promise<Result> {
  if (actor !== 'host' && !has(actor, 'administrator')) return notAllowed('name the owners of systems');
  const people = [...new Set(input.people)].filter(isId).slice(0, 50);
  return db().transaction(async (tx): Promise<Result> => {
    const [known] = ownSystems.has(input.system)
      ? [true]
      : isId(input.system)
        ? await tx.select({ id: webSystem.id }).from(webSystem).where(eq(webSystem.id, input.system))
        : [];
    if (!known) return notFound('This system');
    const there = people.length
      ? await tx
          .select({ id: person.id })
          .from(person)
          .where(and(inArray(person.id, people), eq(person.active, true)))
      : [];
    if (there.length !== input.people.length)
      return refuse('invalid', 'Somebody named is not known, or does not work here any more. Nothing was changed.');
    await tx.delete(systemOwner).where(eq(systemOwner.system, input.system));
    if (there.length) await tx.insert(systemOwner).values(there.map((p) => ({ system: input.system, personId: p.id })));
    await record(tx, {
      actor: actor === 'host' ? null : actor.id,
      action: 'set-owners',
      object: 'system',
      objectId: input.system,
      detail: { people },
    });
    return { ok: true };
  });
}

/** The actions by which a plan, and the parts frozen with it, give somebody something. */
export function grantsIn(plan: Plan, catalogue: Catalogue): ActionSpec[] {
  const blocks = [plan.steps, ...Object.values(plan.parts ?? {}).map((p) => p.steps)];
  const used = blocks.flatMap((b) => [...walk(b)].flatMap(({ step }) => actionOf(catalogue, roomOf(step).action?.(step)) ?? []));
  return [...new Map(used.filter((a) => a.grants).map((a) => [a.id, a])).values()];
}

/**
 * What an item still wants consent for before this person may publish it. Asks whoever has not been asked: once for an item
 * and action, anew where it was declined, or given by the one who now publishes. Undefined: nothing.
 */
export async function wantedConsents(tx: Tx, viewer: Viewer, itemId: string, grants: ActionSpec[]): Promise<string | undefined> {
  if (grants.length === 0) return undefined;
  const [answers, owners] = await Promise.all([
    tx.select({ action: consent.action, status: consent.status, by: consent.decidedBy }).from(consent).where(eq(consent.itemId, itemId)),
    tx
      .select({ system: systemOwner.system, name: person.name })
      .from(systemOwner)
      .innerJoin(person, and(eq(person.id, systemOwner.personId), eq(person.active, true)))
      .where(
        and(
          inArray(
            systemOwner.system,
            grants.map((a) => systemOf(a.id)),
          ),
          ne(person.id, viewer.id),
        ),
      )
      .orderBy(person.name),
  ]);
  const given = new Map(answers.map((a) => [a.action, a]));
  const agreed = (action: ActionSpec) => given.get(action.id)?.status === 'approved' && given.get(action.id)?.by !== viewer.id;
  const missing = grants
    .filter((action) => !agreed(action))
    .map((action) => ({ action, owners: owners.filter((o) => o.system === systemOf(action.id)).map((o) => o.name) }));
  const toAsk = missing.flatMap((m) => (m.owners.length > 0 && given.get(m.action.id)?.status !== 'waiting' ? [m.action] : []));
  if (toAsk.length > 0) {
    const asked = { askedBy: viewer.id, askedAt: new Date(), status: 'waiting' as const, decidedBy: null, decidedAt: null, comment: '' };
    await tx
      .insert(consent)
      .values(toAsk.map((a) => ({ itemId, system: systemOf(a.id), action: a.id, label: `${a.system}: ${a.label}`, ...asked })))
      .onConflictDoUpdate({ target: [consent.itemId, consent.action], set: asked });
    await record(
      tx,
      ...toAsk.map((a) => ({ actor: viewer.id, action: 'ask-consent', object: 'item' as const, objectId: itemId, detail: { action: a.id } })),
    );
  }
  if (missing.length === 0) return undefined;
  return missing
    .map(({ action, owners }) =>
      owners.length
        ? `“${action.label}” gives something of ${action.system}: ${owners.length > 3 ? `one of its ${owners.length} owners` : owners.join(' or ')} has to consent first, and is asked at the Desk. Publish again after that.`
        : `“${action.label}” gives something of ${action.system}, and nobody but you could consent to that. An administrator names its owners under Systems.`,
    )
    .join(' ');
}

/** An owner of the system consents to an item's giving something of it, or does not. Whoever asked does not answer. */
export async function decideConsent(viewer: Viewer, input: { id: string; decision: 'approve' | 'decline'; comment: string }): Promise<Result> {
  const held = holdTo(ConsentDecision, input);
  if (!held.ok) return held;
  const { comment } = held.value;
  return db().transaction(async (tx): Promise<Result> => {
    const [row] = isId(input.id)
      ? await tx
          .select()
          .from(consent)
          .where(and(eq(consent.id, input.id), mayConsent(viewer)))
          .for('no key update')
      : [];
    if (!row) return notFound('This consent');
    if (row.askedBy === viewer.id) return refuse('not-allowed', 'You want to publish it yourself; another owner has to consent.');
    if (row.status !== 'waiting') return refuse('already-decided', `Already ${row.status}. Your answer changes nothing.`);
    const status = input.decision === 'approve' ? ('approved' as const) : ('declined' as const);
    await tx.update(consent).set({ status, decidedBy: viewer.id, decidedAt: new Date(), comment }).where(eq(consent.id, row.id));
    await record(tx, { actor: viewer.id, action: `consent-${status}`, object: 'item', objectId: row.itemId, detail: { action: row.action } });
    return { ok: true };
  });
}
