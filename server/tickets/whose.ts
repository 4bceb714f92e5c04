import { and, eq } from 'drizzle-orm';
import type { Acting, TicketState } from '../../core/tickets/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import type { Reader } from '../db/database.ts';
import { teamMember } from '../db/schema/index.ts';

/** As what somebody acts on a ticket: of the team it is with, as who has it, as who asked. One with no team is everybody's who does work. */
export async function actingOn(
  tx: Reader,
  viewer: Viewer,
  ticket: { requesterId: string; state: Pick<TicketState, 'team' | 'holder'> },
): Promise<Acting> {
  const { team, holder } = ticket.state;
  const inTeam =
    team === undefined
      ? has(viewer, 'teamMember')
      : (await tx.$count(teamMember, and(eq(teamMember.teamId, team), eq(teamMember.personId, viewer.id)))) > 0;
  return {
    team: inTeam || holder === viewer.id || has(viewer, 'administrator'),
    holder: holder === viewer.id,
    requester: ticket.requesterId === viewer.id,
  };
}

/** Who reads every ticket, whoever it is with. */
export const readsTickets = (viewer: Viewer): boolean => has(viewer, 'auditor', 'administrator', 'designer', 'teamMember');
