import { writtenBundle } from '../../../server/bundles/queries.ts';
import { isId, orNotFound, signedIn } from '../session.server';
import type { Route } from './+types/bundle';

/** An item with all that its draft uses, as one file; with the rows of its tables where that is asked for (`?rows`). */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const rows = new URL(request.url).searchParams.has('rows');
  const found = orNotFound(isId(params.id) ? await writtenBundle(signedIn(context, request), params.id, rows) : undefined, 'This item');
  const plain = found.name.replace(/[^A-Za-z0-9]+/g, '-').replace(/^-|-$/g, '') || 'item';
  return new Response(JSON.stringify(found.file, null, 2), {
    headers: {
      'content-type': 'application/json',
      'content-disposition': `attachment; filename="${plain}.json"; filename*=UTF-8''${encodeURIComponent(`${found.name}.json`)}`,
    },
  });
}
