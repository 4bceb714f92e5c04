import { eq, sql } from 'drizzle-orm';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { item, revision, serviceCase } from '../db/schema/index.ts';
import { browse } from '../items/offered.ts';
import { mayReadLedger } from '../runs/queries.ts';
import { anywhere } from './like.ts';

const few = 8;

/** Items, requests and drafts the viewer may open, for the find-anything box. */
export async function findAnything(viewer: Viewer, q: string): Promise<{ label: string; detail: string; to: string; section: string }[]> {
  const trimmed = q.trim();
  const number = Number(/^r?-?(\d{1,12})$/i.exec(trimmed)?.[1]);
  const [offers, found, designed] = await Promise.all([
    browse(trimmed, few),
    Number.isFinite(number)
      ? db()
          .select({ number: serviceCase.number, requesterId: serviceCase.requesterId, item: revision.name })
          .from(serviceCase)
          .innerJoin(revision, eq(revision.id, serviceCase.revisionId))
          .where(eq(serviceCase.number, number))
      : [],
    has(viewer, 'designer')
      ? db()
          .select({ id: item.id, name: item.name })
          .from(item)
          .where(sql`lower(${item.name}) like ${anywhere(trimmed.toLowerCase())}`)
          .orderBy(item.name)
          .limit(few)
      : [],
  ]);
  const offered = offers.map((i) => ({ section: 'Ask for', label: i.name, detail: i.summary, to: `/counter/ask/${i.id}` }));
  const requests = found.flatMap((r) =>
    r.requesterId === viewer.id
      ? [{ section: 'My requests', label: `R-${r.number}`, detail: r.item, to: `/counter/requests/${r.number}` }]
      : mayReadLedger(viewer)
        ? [{ section: 'Ledger', label: `R-${r.number}`, detail: r.item, to: `/ledger/${r.number}` }]
        : [],
  );
  return [
    ...requests,
    ...offered,
    ...designed.map((d) => ({ section: 'Workshop', label: d.name, detail: 'Design this item', to: `/workshop/items/${d.id}/plan` })),
  ];
}
