import { saveDraft } from '../../../server/commands/items.ts';
import { draftOf } from '../../../server/queries/workshop.ts';
import { found, isId, signedIn } from '../session.server';
import type { Route } from './+types/draft';

/** Larger than any plan of three hundred steps. */
const largest = 2_000_000;

/** The draft as JSON: read again after a conflict, saved while editing. */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const item = found(isId(params.id) ? await draftOf(signedIn(context, request), params.id) : undefined, 'This item');
  return Response.json({ draft: item.draft, version: item.version });
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const body = await request.text();
  if (body.length > largest)
    return Response.json({ ok: false, code: 'invalid', sentence: 'The draft is larger than 2 MB and was not saved.' }, { status: 413 });
  let posted: { version?: unknown; draft?: unknown };
  try {
    posted = JSON.parse(body) as typeof posted;
  } catch {
    return Response.json({ ok: false, code: 'invalid', sentence: 'The draft did not arrive whole and was not saved.' }, { status: 400 });
  }
  const result = await saveDraft(viewer, {
    id: isId(params.id) ? params.id : '00000000-0000-0000-0000-000000000000',
    version: Number(posted?.version),
    draft: posted?.draft,
  });
  return Response.json(result.ok ? { ok: true, version: result.version } : result, { status: result.ok ? 200 : 409 });
}
