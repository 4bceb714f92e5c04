import { z } from 'zod';
import { saveDraft } from '../../../server/items/commands.ts';
import { draftOf } from '../../../server/items/queries.ts';
import { orNotFound, isId, postedJson, signedIn } from '../session.server';
import type { Route } from './+types/draft';

/** Larger than any plan of three hundred steps. */
const largest = 2_000_000;

const Envelope = z.object({ version: z.number().int(), draft: z.unknown() });

/** The draft as JSON: read again after a conflict, saved while editing. */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const item = orNotFound(isId(params.id) ? await draftOf(signedIn(context, request), params.id) : undefined, 'This item');
  return Response.json({ draft: item.draft, version: item.version });
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const posted = Envelope.safeParse(await postedJson(request, largest));
  if (!posted.success)
    return Response.json({ ok: false, code: 'invalid', sentence: 'The draft did not arrive whole and was not saved.' }, { status: 400 });
  const result = await saveDraft(viewer, {
    id: isId(params.id) ? params.id : '00000000-0000-0000-0000-000000000000',
    version: posted.data.version,
    draft: posted.data.draft,
  });
  return Response.json(result.ok ? { ok: true, version: result.version } : result, { status: result.ok ? 200 : 409 });
}
