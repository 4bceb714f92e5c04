import { sql } from 'drizzle-orm';
import type { Step } from '../core/plans/index.ts';
import type { Tx } from '../server/db/database.ts';
import { directoryClient, enterprise } from '../server/systems/directory/client.ts';
import { publishPlan, type Organisation } from './generated.ts';

/** People get accounts and licences, several times and several at once for one of them, while workers are killed and the directory is moody. */

/** How many people there are to be given accounts; all are called the same. */
const many = 24;

/** Somebody, as an answer of the generated form. */
export const newcomer = (chance: (n: number) => number) => ({ reason: `S-${chance(many)}` });

/** Publishes an item that gives whoever is named by their staff number an account and a licence; gives the item. */
export async function publishAccounts(org: Organisation): Promise<string> {
  const none = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };
  const retries = { times: 2, firstPauseSeconds: 1, factor: 1 };
  const steps = [
    {
      id: 'account',
      kind: 'provision',
      name: 'Make the account',
      expected: none,
      action: 'directory.createAccount',
      inputs: {
        given: { literal: 'Sol' },
        family: { literal: 'Marsten' },
        staffNumber: { ref: 'form.reason' },
        manager: { ref: 'request.requester' },
      },
      retries,
      note: { to: { ref: 'request.requester' }, openFor: 'P3D' },
    },
    {
      id: 'licence',
      kind: 'provision',
      name: 'Give the licence',
      expected: none,
      action: 'directory.addLicence',
      inputs: { person: { ref: 'steps.account.person' }, licence: { literal: 'Plotter' } },
      retries,
    },
    {
      id: 'look',
      kind: 'task',
      name: 'Show them',
      expected: none,
      assignee: { team: 'desk' },
      instructions: [{ text: [[{ text: 'They begin.' }]] }],
      checklist: [],
      fields: [],
    },
    {
      id: 'told',
      kind: 'tell',
      name: 'Tell',
      expected: none,
      to: { ref: 'request.requester' },
      subject: [[{ text: 'Their account' }]],
      body: [{ text: [[{ text: 'It is ' }, { ref: 'steps.account.userName' }, { text: '.' }]] }],
    },
  ] as Step[];
  return publishPlan(org, 'An account', { undoWhen: ['withdrawn', 'failed'], steps });
}

/** Holds the accounts that the directory has against what was asked for; gives what is wrong, in sentences. */
export async function lookAtAccounts(tx: Tx): Promise<string[]> {
  const wrong: string[] = [];
  const users = (await directoryClient.users()).found.filter((u) => u[enterprise]?.employeeNumber !== undefined);
  const numbers = users.map((u) => u[enterprise]!.employeeNumber!);
  for (const n of new Set(numbers)) if (numbers.filter((x) => x === n).length > 1) wrong.push(`${n} has more than one account.`);
  if (numbers.some((n) => !/^S-\d+$/.test(n))) wrong.push('Somebody has an account whom nobody asked one for.');
  const { rows } = await tx.execute<{ held: number; twice: number; claims: number }>(sql`
    select (select count(*)::int from holding where kind = 'account' and ended_at is null) as held,
      (select count(*)::int from (select from holding where kind = 'account' and ended_at is null group by person_id having count(*) > 1) t) as twice,
      (select count(*)::int from account_claim c join call k on k.idempotency_key = c.key where k.closed_at is null) as claims`);
  if (rows[0]!.twice > 0) wrong.push(`${rows[0]!.twice} people hold their account twice.`);
  if (rows[0]!.claims > 0) wrong.push('Somebody is being given an account, though all is calm.');
  const open = users.filter((u) => u.active ?? true).length;
  console.log(`  ${users.length} accounts made, ${open} of them open, ${rows[0]!.held} held`);
  return wrong;
}
