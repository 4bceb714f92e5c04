import type { RoutingRow, RoutingTable } from '../../core/routing/index.ts';
import { shippedKinds, type TicketKind } from '../../core/tickets/index.ts';
import { stopClock } from '../clock.ts';
import { changeKind, createKind } from '../kinds/commands.ts';
import { changeRouting, createRouting } from '../routing/commands.ts';
import { reportTicket, type Reported } from '../tickets/report.ts';
import { readTicket } from '../tickets/happen.ts';
import { db } from '../db/database.ts';
import type { World } from './world.ts';

/** Stops the clock of this process at a moment. */
export const itIs = (iso: string): void => stopClock(new Date(iso));

/** The kind Incident with categories, and a routing table by which all goes to the team; for tests of tickets. */
export async function ticketKit(w: World, more: Partial<TicketKind> = {}) {
  const designer = w.viewer('dan', 'designer');
  const begun = await createKind(designer, { name: 'Incident' });
  if (!begun.ok) throw new Error(begun.sentence);
  let version = 1;
  const definition: TicketKind = { ...shippedKinds[0]!, categories: ['Access', 'Charts'], ...more };
  const change = async (next: TicketKind, goes?: Record<string, string>) => {
    const kept = await changeKind(designer, { id: begun.id, version, definition: next, ...(goes && { goes }) });
    if (kept.ok) version = kept.version;
    return kept;
  };
  const kept = await change(definition);
  if (!kept.ok) throw new Error(kept.sentence);
  const table = await createRouting(designer, { name: 'Who gets a ticket', team: w.teamId });
  if (!table.ok) throw new Error(table.sentence);
  let tableVersion = 1;
  const reported = (more: Partial<Reported> = {}): Reported => ({
    kindId: begun.id,
    subject: 'Tablet does not charge',
    words: 'It says it charges, but the number falls.',
    answers: {},
    idempotencyKey: `key-${Math.random()}`,
    ...more,
  });
  return {
    kindId: begun.id,
    definition,
    change,
    reported,
    report: async (who: string, more: Partial<Reported> = {}) => {
      const made = await reportTicket(w.viewer(who), reported(more));
      if (!made.ok) throw new Error(made.sentence);
      return made.number;
    },
    state: async (number: number) => (await readTicket(db(), number))!.state,
    route: async (rows: Omit<RoutingRow, 'id'>[], fallback?: RoutingTable['fallback']) => {
      const done = await changeRouting(designer, {
        id: table.id,
        version: tableVersion,
        definition: {
          name: 'Who gets a ticket',
          chooses: 'nearest',
          columns: (['kind', 'category', 'place', 'priority', 'department', 'group'] as const).map((fact) => ({ id: fact, fact })),
          rows: rows.map((r, i) => ({ id: `r${i}`, ...r })),
          fallback: fallback ?? { team: w.teamId, how: 'pickUp' },
        },
      });
      if (done.ok) tableVersion = done.version;
      return done;
    },
  };
}
