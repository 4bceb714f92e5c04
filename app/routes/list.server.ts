import { askedOf, type ListAsked, type ListName } from '../../core/lists/index.ts';
import { countedTo } from '../../server/lists/narrow.ts';
import { keptViews, namesOfFilters } from '../../server/lists/views.ts';
import type { Viewer } from '../../server/auth/viewer.ts';

/** What a list's page needs: what is asked of it, a page of it, how many there are, the names of its filters, the kept views. */
export async function listFor<Row>(
  viewer: Viewer,
  request: Request,
  name: ListName,
  page: (asked: ListAsked) => Promise<{ rows: Row[]; next: string | undefined } | undefined>,
  count?: (asked: ListAsked) => Promise<number>,
) {
  const asked = askedOf(name, new URL(request.url).searchParams);
  const [list, n, named, views] = await Promise.all([page(asked), count?.(asked), namesOfFilters(name, asked), keptViews(viewer, name)]);
  return (
    list && { asked, list, named, views, count: n === undefined ? undefined : n > countedTo ? `over ${countedTo.toLocaleString('en')}` : String(n) }
  );
}
