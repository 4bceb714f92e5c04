import { desc, eq, sql } from 'drizzle-orm';
import { checkPolicy } from '../../core/policies/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { item, person, policy, policyVersion, team } from '../db/schema/index.ts';
import { namesFor, shortNames } from '../people/names.ts';

/** One policy with its versions and the items that follow it, in the draft or as offered. */
export async function policyOf(viewer: Viewer, id: string) {
  if (!has(viewer, 'designer')) return undefined;
  const [row] = await db().select().from(policy).where(eq(policy.id, id));
  if (!row) return undefined;
  const needle = `%"policy": "${id}"%`;
  const [versions, usedBy, teams] = await Promise.all([
    db()
      .select({
        version: policyVersion.version,
        at: policyVersion.at,
        by: person.name,
        note: policyVersion.note,
        definition: policyVersion.definition,
      })
      .from(policyVersion)
      .innerJoin(person, eq(person.id, policyVersion.by))
      .where(eq(policyVersion.policyId, id))
      .orderBy(desc(policyVersion.version))
      .limit(50),
    db()
      .select({ id: item.id, name: item.name, published: item.publishedRevision })
      .from(item)
      .where(
        sql`${item.draft}::text like ${needle} or exists (select from revision r where r.item_id = ${item.id} and r.number = ${item.publishedRevision} and r.definition::text like ${needle})`,
      )
      .orderBy(item.name),
    db().select({ id: team.id, name: team.name }).from(team).orderBy(team.name),
  ]);
  const people = row.definition.lines.flatMap((l) => (l.approvers.from === 'people' ? l.approvers.people : []));
  return {
    id: row.id,
    version: row.version,
    definition: row.definition,
    findings: checkPolicy(row.definition),
    versions,
    usedBy,
    teams,
    names: shortNames(await namesFor(db(), people)),
  };
}
