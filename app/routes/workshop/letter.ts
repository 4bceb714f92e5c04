import { letterPreview } from '../../../server/letters/preview.ts';
import { isId, orNotFound, signedIn } from '../session.server';
import type { Route } from './+types/letter';

/** The letter of a draft's step as a PDF, to be looked at. */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const made = orNotFound(isId(params.id) ? await letterPreview(viewer, { item: params.id, step: params.step }) : undefined, 'This letter');
  if (!made.ok) throw new Response(made.sentence, { status: 422 });
  return new Response(new Uint8Array(made.pdf), {
    headers: {
      'content-type': 'application/pdf',
      'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(made.fileName)}`,
      'content-security-policy': "default-src 'none'; sandbox",
    },
  });
}
