import { myOrder } from '../baskets/queries.ts';
import { and, eq, sql } from 'drizzle-orm';
import { askedOf } from '../../core/lists/index.ts';
import { kindWords, walk } from '../../core/plans/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { drawnKind, isDrawn, item, policy, revision, serviceCase } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { browse } from '../items/offered.ts';
import { findPeople } from '../people/find.ts';
import { ledger } from '../runs/ledger.ts';
import { mayReadLedger } from '../runs/queries.ts';
import { ticketList } from '../tickets/list.ts';
import { ticketCalled } from '../tickets/queries.ts';
import { readsTickets } from '../tickets/whose.ts';
import { requestNumber, ticketNumber } from '../words.ts';
import { anywhere } from './like.ts';
import { destinationsCalled } from './destinations.ts';

const few = 8;

export interface Found {
  section: string;
  label: string;
  detail: string;
  to: string;
}

/**
 * What the viewer may open, by a few words: requests and tickets by number and by what stands in them, items, drafts, policies, people,
 * pages and acts; on an item that is open (`at`, its id) the steps of its plan.
 */
export async function findAnything(viewer: Viewer, q: string, at?: string): Promise<Found[]> {
  const trimmed = q.trim();
  if (trimmed === '') return [];
  const reads = mayReadLedger(viewer);
  const designs = has(viewer, 'designer');
  const open = designs && at !== undefined && isId(at) ? at : undefined;
  // A number, or words long enough to mean something, are looked for within requests.
  const inside = reads && trimmed.length > 2 ? ledger(viewer, { ...askedOf('ledger'), words: trimmed }, few) : undefined;
  const spoken = readsTickets(viewer) && trimmed.length > 2 ? ticketList(viewer, { ...askedOf('tickets'), words: trimmed }, few) : undefined;
  const [numbered, steps, offers, drafts, policies, people, within, tickets] = await Promise.all([
    byNumber(viewer, trimmed),
    open === undefined ? [] : stepsCalled(open, trimmed),
    browse(viewer, trimmed, few),
    designs ? draftsCalled(trimmed) : [],
    designs ? policiesCalled(trimmed) : [],
    reads ? findPeople(trimmed) : [],
    inside,
    spoken,
  ]);
  const seen = new Set(numbered.map((r) => r.label));
  return [
    ...numbered,
    ...steps,
    ...destinationsCalled(viewer, trimmed, open),
    ...offers.map((i) => ({ section: 'Ask for', label: i.name, detail: i.summary, to: `/counter/ask/${i.id}` })),
    ...drafts,
    ...policies,
    ...people.map((p) => ({ section: 'What people asked for', label: p.name, detail: p.detail, to: `/ledger?requester=${p.id}` })),
    ...(within?.rows ?? [])
      .map((r) => ({ section: 'Within requests', label: requestNumber(r.number), detail: `${r.item}, ${r.requester}`, to: `/ledger/${r.number}` }))
      .filter((r) => !seen.has(r.label)),
    ...(tickets?.rows ?? [])
      .map((r) => ({
        section: 'Within tickets',
        label: ticketNumber(r.number),
        detail: `${r.subject}, ${r.requester}`,
        to: `/desk/queue/tickets/${r.number}`,
      }))
      .filter((r) => !seen.has(r.label)),
  ];
}

async function byNumber(viewer: Viewer, typed: string): Promise<Found[]> {
  const number = Number(/^[rt]?-?(\d{1,12})$/i.exec(typed)?.[1]);
  if (!Number.isFinite(number)) return [];
  const [row] = await db()
    .select({ requesterId: serviceCase.requesterId, forId: serviceCase.forId, item: revision.name })
    .from(serviceCase)
    .innerJoin(revision, eq(revision.id, serviceCase.revisionId))
    .where(eq(serviceCase.number, number));
  if (!row) {
    const reported = await ticketCalled(number);
    if (reported) {
      const found = { label: ticketNumber(number), detail: reported.subject };
      if (readsTickets(viewer)) return [{ section: 'Tickets', ...found, to: `/desk/queue/tickets/${number}` }];
      return reported.requesterId === viewer.id ? [{ section: 'My requests', ...found, to: `/counter/tickets/${number}` }] : [];
    }
    const order = await myOrder(viewer, number);
    return order ? [{ section: 'My requests', label: requestNumber(number), detail: 'Order', to: `/counter/orders/${number}` }] : [];
  }
  const found = { label: requestNumber(number), detail: row.item };
  if (row.requesterId === viewer.id || row.forId === viewer.id) return [{ section: 'My requests', ...found, to: `/counter/requests/${number}` }];
  return mayReadLedger(viewer) ? [{ section: 'Ledger', ...found, to: `/ledger/${number}` }] : [];
}

async function stepsCalled(id: string, typed: string): Promise<Found[]> {
  const [row] = await db().select({ draft: item.draft }).from(item).where(eq(item.id, id));
  const sought = typed.toLowerCase();
  return [...walk(row?.draft.plan.steps ?? [])]
    .filter(({ step }) => step.name.toLowerCase().includes(sought) || kindWords[step.kind].verb.toLowerCase().startsWith(sought))
    .slice(0, few)
    .map(({ step }) => ({
      section: 'Steps of this plan',
      label: step.name,
      detail: kindWords[step.kind].verb,
      to: `/workshop/items/${id}/plan?step=${step.id}`,
    }));
}

async function draftsCalled(typed: string): Promise<Found[]> {
  const rows = await db()
    .select({ id: item.id, name: item.name, kind: drawnKind, archived: sql<boolean>`${item.archivedAt} is not null` })
    .from(item)
    .where(and(isDrawn, sql`lower(${item.name}) like ${anywhere(typed.toLowerCase())}`))
    .orderBy(item.name)
    .limit(few);
  return rows.map((d) => ({
    section: 'Workshop',
    label: d.name,
    detail: d.archived ? 'Archived' : d.kind === 'part' ? 'Design this part' : 'Design this item',
    to: `/workshop/items/${d.id}/plan`,
  }));
}

async function policiesCalled(typed: string): Promise<Found[]> {
  const rows = await db()
    .select({ id: policy.id, name: policy.name })
    .from(policy)
    .where(sql`lower(${policy.name}) like ${anywhere(typed.toLowerCase())}`)
    .orderBy(policy.name)
    .limit(few);
  return rows.map((p) => ({ section: 'Approval policies', label: p.name, detail: 'Who must agree', to: `/workshop/policies/${p.id}` }));
}
