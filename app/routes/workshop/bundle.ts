import { writtenBundle } from '../../../server/bundles/queries.ts';
import { attached } from '../attached.server';
import { isId, orNotFound, signedIn } from '../session.server';
import type { Route } from './+types/bundle';

/** An item with all that its draft uses, as one file; with the rows of its tables where that is asked for (`?rows`). */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const rows = new URL(request.url).searchParams.has('rows');
  const found = orNotFound(isId(params.id) ? await writtenBundle(signedIn(context, request), params.id, rows) : undefined, 'This item');
  return new Response(JSON.stringify(found.file, null, 2), {
    headers: {
      'content-type': 'application/json',
      'content-disposition': attached(`${found.name}.json`),
    },
  });
}
