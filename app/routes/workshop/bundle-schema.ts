import { bundleJsonSchema } from '../../../core/bundle/index.ts';
import { signedIn } from '../session.server';
import type { Route } from './+types/bundle-schema';

/** What a file of an item has to look like, as JSON Schema (2020-12). */
export function loader({ context, request }: Route.LoaderArgs) {
  signedIn(context, request);
  return new Response(JSON.stringify(bundleJsonSchema(), null, 2), {
    headers: { 'content-type': 'application/schema+json', 'content-disposition': 'attachment; filename="item-file.schema.json"' },
  });
}
