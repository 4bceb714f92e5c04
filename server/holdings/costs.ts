import { sql } from 'drizzle-orm';
import type { Answers } from '../../core/forms/index.ts';
import type { Reader } from '../db/database.ts';
import { definitionOf } from '../items/definitions.ts';
import { runningCosts } from '../requests/price.ts';

/** What the requests of these runs cost as long as what they gave is there, as things are now, in words; those that cost nothing more are left out. */
export async function costsOfRuns(tx: Reader, runs: string[]): Promise<Map<string, string[]>> {
  if (runs.length === 0) return new Map();
  const { rows } = await tx.execute<{ id: string; revision: string; answers: Answers }>(sql`
    select run.id, run.revision_id as revision, service_case.answers from run join service_case on service_case.id = run.case_id
      join revision on revision.id = run.revision_id
    where run.id = any(${sql.param(runs)}::uuid[]) and jsonb_array_length(coalesce(revision.definition -> 'prices', '[]')) > 0`);
  const all = await Promise.all(rows.map(async (r) => ({ definition: await definitionOf(tx, r.revision), answers: r.answers })));
  const costs = await runningCosts(tx, all);
  return new Map(rows.flatMap((r, n) => (costs[n]!.length > 0 ? [[r.id, costs[n]!] as const] : [])));
}
