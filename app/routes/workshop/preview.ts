import { previewFor } from '../../../server/items/preview.ts';
import { answersAsked } from '../counter/answers-asked.server';
import { asked, isId, orNotFound, signedIn } from '../session.server';
import type { Route } from './+types/preview';

/** What the draft begins with for a person, and what their answers would lead to. */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const person = asked(request, 'person') || viewer.id;
  const found = isId(params.id) && isId(person) ? await previewFor(viewer, { id: params.id, person, answers: answersAsked(request) }) : undefined;
  return orNotFound(found, 'This item, or this person,');
}
