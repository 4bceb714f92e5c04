import { sql } from 'drizzle-orm';
import { keepApart } from '../server/apart/commands.ts';
import { db } from '../server/db/database.ts';
import type { Result } from '../server/refusal.ts';
import { directoryClient } from '../server/systems/directory/client.ts';
import { viewerFor } from '../server/testing/parties.ts';
import { good, type Organisation } from './generated.ts';

/** Two groups that are not to meet in anybody, wanted by several hands at once; nobody can make an exception. */
export async function keepTwoApart(org: Organisation): Promise<void> {
  const [one, other] = [org.groups['survey-1']!, org.groups['survey-2']!];
  good(await keepApart(viewerFor(org.people['dan']!, 'designer'), { one, other, why: 'They are not to meet', excepters: [] }));
}

let refused = 0;
/** Whether a request was refused because of that. */
export function refusedApart(made: Result): boolean {
  const its = !made.ok && made.problems !== undefined && made.problems.every((p) => p.sentence.includes(' kept apart from '));
  if (its) refused++;
  return its;
}

/** Whether the directory has somebody in both all the same; gives what is wrong, in sentences. */
export async function lookApart(org: Organisation): Promise<string[]> {
  const members = async (group: string) => (await directoryClient.group(org.scimGroups[group]!)).members.map((m) => m.value);
  const [one, other] = [await members('survey-1'), new Set(await members('survey-2'))];
  const { rows } = await db().execute<{ n: number }>(
    sql`select count(distinct call_id)::int as n from call_try where said like 'The directory was not asked. % kept apart from %'`,
  );
  console.log(`  ${one.length} and ${other.size} in two groups kept apart; ${refused} requests refused for that, ${rows[0]!.n} calls stopped`);
  return one.filter((m) => other.has(m)).map((m) => `${m} is in two groups that are kept apart.`);
}
