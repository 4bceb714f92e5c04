import { forgetView, keepView } from '../../server/lists/views.ts';
import { posted, signedIn } from './session.server';
import type { Route } from './+types/views';

/** Keeps a view of a list, or forgets one. */
export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request, 10_000);
  const kept = form.get('act') !== 'forget';
  const result = !kept
    ? await forgetView(viewer, form.get('id'))
    : await keepView(viewer, { list: form.get('list'), asked: form.get('asked'), name: form.get('name') });
  return result.ok ? { ok: true as const, kept, name: result.name } : { ok: false as const, refusal: result };
}
