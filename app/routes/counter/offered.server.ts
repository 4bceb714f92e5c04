import { data } from 'react-router';
import type { Viewer } from '../../../server/auth/viewer.ts';
import { db } from '../../../server/db/database.ts';
import { whyNotAsk } from '../../../server/items/audience.ts';
import { offeredItem } from '../../../server/items/offered.ts';
import { isId, orNotFound } from '../session.server';

/** The item of an address, where the viewer may ask for it; why not, where it is offered to others. */
export async function offered(viewer: Viewer, id: string) {
  const item = isId(id) ? await offeredItem(viewer, id) : undefined;
  const others = !item && isId(id) ? await whyNotAsk(db(), viewer, id) : undefined;
  if (others !== undefined) throw data(others, { status: 403 });
  return orNotFound(item, 'This item');
}
