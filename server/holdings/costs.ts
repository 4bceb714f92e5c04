import { sql } from 'drizzle-orm';
import type { Answers } from '../../core/forms/index.ts';
import type { Reader } from '../db/database.ts';
import { definitionOf } from '../items/definitions.ts';
import { runningCosts } from '../requests/price.ts';

/**
 * What these holdings cost as long as they are held, as things are now, in words; those that cost nothing more are left out. What a request
 * costs that did something to one (another size, say) takes the place of what was said of it before.
 */
export async function costsOfHoldings(tx: Reader, ids: string[]): Promise<Map<string, string[]>> {
  if (ids.length === 0) return new Map();
  const priced = sql`exists (select from jsonb_array_elements(coalesce(revision.definition -> 'prices', '[]')) p where p ->> 'per' <> 'once')`;
  const { rows } = await tx.execute<{ id: string; revision: string; answers: Answers }>(sql`
    select h.id, run.revision_id as revision, service_case.answers
    from holding h
      left join lateral (
        select run.id from holding_change c join run on run.id = c.run_id join revision on revision.id = run.revision_id
        where c.holding_id = h.id and ${priced} order by c.at desc, c.id desc limit 1
      ) changed on true
      join run on run.id = coalesce(changed.id, h.run_id)
      join service_case on service_case.id = run.case_id join revision on revision.id = run.revision_id
    where h.id = any(${sql.param(ids)}::uuid[]) and ${priced}`);
  const all = await Promise.all(rows.map(async (r) => ({ id: r.id, definition: await definitionOf(tx, r.revision), answers: r.answers })));
  const costs = await runningCosts(tx, all);
  return new Map(all.flatMap((r, n) => (costs[n]!.length > 0 ? [[r.id, costs[n]!] as const] : [])));
}
