import { letterPreview } from '../../../server/letters/preview.ts';
import { pdfResponse } from '../pdf.server';
import { isId, orNotFound, signedIn } from '../session.server';
import type { Route } from './+types/letter';

/** The letter of a draft's step as a PDF, to be looked at. */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  return pdfResponse(orNotFound(isId(params.id) ? await letterPreview(viewer, { item: params.id, step: params.step }) : undefined, 'This letter'));
}
