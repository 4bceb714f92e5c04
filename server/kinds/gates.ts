import { gatesDefinition, type TicketKind } from '../../core/tickets/index.ts';
import type { Catalogue } from '../../core/plans/index.ts';
import type { Reader } from '../db/database.ts';
import { catalogueFor } from '../items/catalogue.ts';

/** What the gates of a kind can name: teams, policies, and the people and groups that they name now. */
export async function gatesCatalogue(tx: Reader, kind: TicketKind): Promise<Catalogue> {
  const { people, teams, policies, stated } = await catalogueFor(tx, gatesDefinition(kind));
  return { actions: [], tables: {}, people, teams, ...(policies && { policies }), ...(stated && { stated }) };
}
