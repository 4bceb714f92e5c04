import { has, type Viewer } from '../auth/viewer.ts';
import { mayReadLog } from '../changes/queries.ts';
import { readsTickets } from '../tickets/whose.ts';
import { mayReadLedger } from '../runs/queries.ts';
import type { Found } from './find-anything.ts';

interface Place {
  label: string;
  detail: string;
  to: string;
  may: (viewer: Viewer) => boolean;
}
const everybody = () => true;
const designs = (viewer: Viewer) => has(viewer, 'designer');
const mends = (viewer: Viewer) => has(viewer, 'teamMember', 'administrator');

/** The pages there are, by what people call them. */
const pages: Place[] = [
  { label: 'Ask for something', detail: 'Counter, catalog', to: '/counter', may: everybody },
  { label: 'My requests', detail: 'Counter, what I asked for', to: '/counter/requests', may: everybody },
  { label: 'Approvals for me', detail: 'Desk, to decide', to: '/desk/approvals', may: everybody },
  { label: 'Answered by me', detail: 'Desk, approvals decided', to: '/desk/approvals?state=over', may: everybody },
  { label: 'Report a problem', detail: 'Counter, something does not work', to: '/counter/report', may: everybody },
  { label: 'My teams’ queue', detail: 'Desk, tickets and tasks', to: '/desk/queue', may: everybody },
  { label: 'My tickets and tasks', detail: 'Desk, mine', to: '/desk/queue?whose=mine', may: everybody },
  { label: 'Tables I keep', detail: 'Desk, reference tables', to: '/desk/tables', may: everybody },
  { label: 'Stuck steps', detail: 'Desk, failures', to: '/desk/stuck', may: mends },
  { label: 'Set aside', detail: 'Desk, messages and jobs that failed', to: '/desk/set-aside', may: (v) => has(v, 'administrator') },
  { label: 'Catalog items', detail: 'Workshop', to: '/workshop/items', may: designs },
  { label: 'Parts', detail: 'Workshop', to: '/workshop/items?kind=part', may: designs },
  { label: 'Approval policies', detail: 'Workshop', to: '/workshop/policies', may: designs },
  { label: 'Reference tables', detail: 'Workshop', to: '/workshop/tables', may: designs },
  { label: 'Ticket kinds', detail: 'Workshop, statuses and promises', to: '/workshop/kinds', may: designs },
  { label: 'Routing', detail: 'Workshop, who gets a ticket', to: '/workshop/routing', may: designs },
  { label: 'Service hours', detail: 'Workshop', to: '/workshop/hours', may: designs },
  { label: 'Systems', detail: 'Workshop', to: '/workshop/systems', may: (v) => has(v, 'designer', 'administrator') },
  {
    label: 'Equipment',
    detail: 'Workshop, kinds, places and levels of stock',
    to: '/workshop/equipment',
    may: (v) => has(v, 'designer', 'administrator'),
  },
  {
    label: 'Pieces of equipment',
    detail: 'Desk, where each is',
    to: '/desk/equipment/pieces',
    may: (v) => has(v, 'designer', 'auditor', 'administrator'),
  },
  { label: 'Staff feed', detail: 'Workshop, who starts, moves and leaves', to: '/workshop/staff', may: (v) => has(v, 'designer', 'administrator') },
  { label: 'Ledger', detail: 'all requests', to: '/ledger', may: mayReadLedger },
  { label: 'Tickets', detail: 'Ledger, open and ended', to: '/ledger/tickets', may: readsTickets },
  { label: 'Decisions', detail: 'Ledger, who agreed to what, with which words', to: '/ledger/decisions', may: mayReadLog },
  { label: 'Holdings', detail: 'Ledger, who has what', to: '/ledger/holdings', may: mayReadLedger },
  { label: 'Differences', detail: 'Ledger, what systems have otherwise', to: '/ledger/differences', may: mayReadLedger },
  { label: 'My things', detail: 'Counter, what you hold', to: '/counter/things', may: everybody },
  { label: 'Log of changes', detail: 'Ledger, who did what', to: '/ledger/changes', may: mayReadLog },
  { label: 'My account', detail: 'password, sessions', to: '/account', may: everybody },
];

/** What can be done from anywhere, and on an open item. */
const acts: Place[] = [
  { label: 'Begin an item', detail: 'blank', to: '/workshop/items?new', may: designs },
  { label: 'Begin a part', detail: 'blank', to: '/workshop/items?kind=part&new', may: designs },
];
const onItem = (id: string): Place[] => [
  { label: 'Publish', detail: 'this item: check it and offer a revision', to: `/workshop/items/${id}/publish`, may: designs },
  { label: 'Ask', detail: 'the form of this item', to: `/workshop/items/${id}/ask`, may: designs },
  { label: 'Plan', detail: 'the steps of this item', to: `/workshop/items/${id}/plan`, may: designs },
];

/** Pages and acts whose words begin with every typed word; on an item, named by its id, its own acts too. */
export function destinationsCalled(viewer: Viewer, typed: string, item: string | undefined): Found[] {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length === 0) return [];
  const called = (p: Place) => {
    const own = `${p.label} ${p.detail}`.toLowerCase().split(/[\s,:]+/);
    return p.may(viewer) && words.every((w) => own.some((o) => o.startsWith(w)));
  };
  const of = (section: string, all: Place[]): Found[] => all.filter(called).map(({ label, detail, to }) => ({ section, label, detail, to }));
  return [...of('Acts', [...(item === undefined ? [] : onItem(item)), ...acts]), ...of('Pages', pages)];
}
