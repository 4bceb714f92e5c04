import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { passages, type Plan, type TaskAssignee } from '../../core/plans/index.ts';
import { askedOf } from '../../core/lists/index.ts';
import { step, tell } from '../../core/testing/samples.ts';
import type { RoutingRow } from '../../core/routing/index.ts';
import { queueFor } from '../queue/list.ts';
import { ticketKit } from '../testing/tickets.ts';
import { world, type World } from '../testing/world.ts';
import { changeRouting, createRouting, routeTicketsBy } from './commands.ts';
import { routingOf } from './queries.ts';

// Tasks of requests that go to whoever a routing table names.

let w: World;
let table: string;
let version = 1;
beforeAll(async () => {
  w = await world();
  const made = await createRouting(w.viewer('dan', 'designer'), { name: 'Who prepares it', team: w.teamId, for: 'tasks' });
  if (!made.ok) throw new Error(made.sentence);
  table = made.id;
});
afterAll(() => w.close());

const rows = async (some: Omit<RoutingRow, 'id'>[], fallback = { team: w.teamId, how: 'pickUp' as const }) => {
  const done = await changeRouting(w.viewer('dan', 'designer'), {
    id: table,
    version,
    definition: {
      name: 'Who prepares it',
      chooses: 'first',
      columns: [
        { id: 'item', fact: 'item' },
        { id: 'place', fact: 'place' },
        { id: 'department', fact: 'department' },
        { id: 'cores', fact: 'answer', field: 'cores' },
      ],
      rows: some.map((r, i) => ({ id: `r${i}`, ...r })),
      fallback,
    },
  });
  if (!done.ok) throw new Error(done.sentence);
  version = done.version;
};
const plan = (assignee: TaskAssignee): Plan => ({
  steps: [step('task', 'do', { assignee, instructions: passages('Do it'), checklist: [], fields: [] }), tell('end', 'End')],
});
const taskOf = async (runId: string) =>
  (
    await w.query<{ team_id: string | null; person_id: string | null; taken_by: string | null }>(
      'select team_id, person_id, taken_by from task where run_id = $1',
      [runId],
    )
  )[0];

describe('a task of whoever a routing table names', () => {
  it('goes by the answers, the place and the department of the requester, as the table says when it begins', async () => {
    const routed = plan({ routed: table });
    await rows([]);
    expect(await taskOf((await w.askPlan(routed)).id)).toEqual({ team_id: w.teamId, person_id: null, taken_by: null });
    // The answer is two processors.
    await rows([{ cells: { cores: { is: 'between', from: 2 }, department: { is: 'oneOf', values: ['Charts'] } }, answer: { person: w.id('olav') } }]);
    const made = await w.askPlan(routed);
    expect(await taskOf(made.id)).toEqual({ team_id: null, person_id: w.id('olav'), taken_by: null });
    await w.work();
    expect((await w.mails('olav')).some((m) => m.subject.includes('task do'))).toBe(true);
    await rows([{ cells: { cores: { is: 'between', from: 3 } }, answer: { person: w.id('olav') } }]);
    expect(await taskOf((await w.askPlan(routed)).id)).toMatchObject({ team_id: w.teamId });
  });

  it('is theirs whose turn it is in the team, who are told and find it in their queue', async () => {
    await rows([{ cells: {}, answer: { team: w.teamId, how: 'inTurn' } }]);
    const holders: (string | null | undefined)[] = [];
    for (let i = 0; i < 4; i++) holders.push((await taskOf((await w.askPlan(plan({ routed: table }))).id))?.taken_by);
    expect(new Set(holders)).toEqual(new Set([w.id('runa'), w.id('dan')]));
    expect([holders[0], holders[1]]).toEqual([holders[2], holders[3]]);
    const mine = await queueFor(w.viewer('runa', 'teamMember'), askedOf('queue', new URLSearchParams('whose=mine'))!);
    expect(mine.rows.filter((r) => r.what === 'task').length).toBeGreaterThanOrEqual(2);
    await w.work();
    expect((await w.mails('runa')).filter((m) => m.subject.includes('task do')).length).toBeGreaterThanOrEqual(2);
  });

  it('is stuck where the table names nobody who works here', async () => {
    await rows([{ cells: {}, answer: { person: w.id('olav') } }]);
    await w.query('update person set active = false where id = $1', [w.id('olav')]);
    const made = await w.askPlan(plan({ routed: table }));
    expect(await taskOf(made.id)).toBeUndefined();
    expect(await w.query('select stuck_cause from run_step where run_id = $1 and stuck_cause is not null', [made.id])).toEqual([
      { stuck_cause: '“task do” has nobody to do it.' },
    ]);
    await w.query('update person set active = true where id = $1', [w.id('olav')]);
  });

  it('offers its designer the items, which a table that routes tickets does not know; and tickets can be given to it', async () => {
    const designer = w.viewer('dan', 'designer');
    await ticketKit(w);
    const known = (await routingOf(designer, table))!;
    expect(known.ticketsBy).toBe('Who gets a ticket');
    expect(known.known.items.length).toBeGreaterThan(0);
    expect(await routeTicketsBy(designer, table)).toEqual({ ok: true });
    expect(await routeTicketsBy(designer, table)).toEqual({ ok: true });
    const now = (await routingOf(designer, table))!;
    expect([now.forTickets, now.ticketsBy, now.known.items]).toEqual([true, 'Who prepares it', []]);
    expect(await w.query('select name from routing_table where for_tickets')).toEqual([{ name: 'Who prepares it' }]);
  });
});
