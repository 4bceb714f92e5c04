import { ServiceHours } from '../calendar/index.ts';
import { RunState } from '../engine/index.ts';
import { ItemDefinition } from '../items/index.ts';
import { RoutingTable } from '../routing/index.ts';
import { TicketKind, TicketState } from '../tickets/index.ts';
import { Policy } from '../policies/index.ts';
import { WebSystem } from '../systems/index.ts';
import { TableDefinition } from '../tables/index.ts';
import type { Format } from './document.ts';
import { bounded, inMilliseconds, withOwnKeys, withRichTells } from './lift.ts';

export { keptDocument, readDocument, Unreadable, type Format } from './document.ts';

/** Items and parts: what a draft holds and a revision freezes. */
export const itemFormat: Format<ItemDefinition> = {
  name: 'item',
  version: 2,
  schema: ItemDefinition,
  lifts: { 1: (old) => withOwnKeys(bounded(old)) },
};
/** Approval policies, and the versions they have had. */
export const policyFormat: Format<Policy> = { name: 'approval policy', version: 2, schema: Policy, lifts: { 1: (old) => withOwnKeys(bounded(old)) } };
/** Reference tables; their rows are no documents. */
export const tableFormat: Format<TableDefinition> = { name: 'reference table', version: 1, schema: TableDefinition, lifts: {} };
/** Service hours. */
export const hoursFormat: Format<ServiceHours> = { name: 'service hours', version: 1, schema: ServiceHours, lifts: {} };
/** Registered HTTP systems. */
export const systemFormat: Format<WebSystem> = { name: 'system', version: 3, schema: WebSystem, lifts: { 1: bounded, 2: inMilliseconds } };
/** Kinds of ticket. */
export const kindFormat: Format<TicketKind> = { name: 'ticket kind', version: 2, schema: TicketKind, lifts: { 1: withRichTells } };
/** Routing tables. */
export const routingFormat: Format<RoutingTable> = { name: 'routing table', version: 1, schema: RoutingTable, lifts: {} };
/** Where a ticket stands. */
export const ticketFormat: Format<TicketState> = { name: 'ticket', version: 1, schema: TicketState, lifts: {} };
/** The state of a run. What was added to it since the first version may be left out. */
export const runFormat: Format<RunState> = { name: 'run', version: 1, schema: RunState as unknown as Format<RunState>['schema'], lifts: {} };
