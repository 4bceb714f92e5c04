import { heldChoices } from '../../server/holdings/choices.ts';
import { finders, isFound } from '../../server/people/find.ts';
import { findRows } from '../../server/tables/queries.ts';
import type { Route } from './+types/find';
import { asked, signedIn } from './session.server';
import { findAnything } from '../../server/lists/find-anything.ts';

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const q = asked(request, 'q', 100);
  const kind = asked(request, 'kind');
  // As it was asked, so that whoever asked can tell an answer from the one before.
  const of = new URL(request.url).searchParams.get('q') ?? '';
  if (isFound(kind)) return { q: of, choices: await finders[kind](q, viewer) };
  if (kind === 'row') return { q: of, choices: await findRows(viewer, asked(request, 'table', 40), q) };
  if (kind === 'holding')
    return {
      q: of,
      choices: await heldChoices(viewer, {
        gave: asked(request, 'gave', 200),
        lent: asked(request, 'lent') !== '',
        whom: asked(request, 'whom', 100),
        q,
      }),
    };
  return { q: of, anything: await findAnything(viewer, q, asked(request, 'at', 40) || undefined) };
}
