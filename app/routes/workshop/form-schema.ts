import { formJsonSchema } from '../../../core/forms/index.ts';
import { draftOf } from '../../../server/items/queries.ts';
import { isId, orNotFound, signedIn } from '../session.server';
import type { Route } from './+types/form-schema';

/** What the draft's form takes, as JSON Schema (2020-12). */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const found = orNotFound(isId(params.id) ? await draftOf(signedIn(context, request), params.id) : undefined, 'This item');
  return new Response(JSON.stringify(formJsonSchema(found.draft.form, found.draft.name), null, 2), {
    headers: { 'content-type': 'application/schema+json', 'content-disposition': 'attachment; filename="form.schema.json"' },
  });
}
