import { askedOf } from '../../../core/lists/index.ts';
import { decisionsOnPaper } from '../../../server/evidence/paper.ts';
import { pdfResponse } from '../pdf.server';
import { orNotFound, signedIn } from '../session.server';
import type { Route } from './+types/decisions-pdf';

/** The decisions that are asked for, as a PDF. */
export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  return pdfResponse(orNotFound(await decisionsOnPaper(viewer, askedOf('decisions', new URL(request.url).searchParams)), 'This list'));
}
