import { z } from 'zod';
import { readJson } from '../../../core/boundary/index.ts';
import { namedIn, Value } from '../../../core/values/index.ts';
import { agreementSentences } from '../../../server/requests/agreements.ts';
import { asked, orNotFound, isId, signedIn } from '../session.server';
import type { Route } from './+types/agreements';
import { offeredItem } from '../../../server/items/offered.ts';

const Answers = z.record(z.string(), Value);

/** The sentences about what must be agreed, for answers that are still being typed. */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const item = orNotFound(isId(params.itemId) ? await offeredItem(params.itemId) : undefined, 'This item');
  const given = readJson(asked(request, 'answers', 16_000) || '{}');
  const answers = Answers.safeParse(given.ok ? given.value : {});
  // Only well-formed ids are looked up; a row is told by its table and its key.
  const safe = Object.fromEntries(
    Object.entries(answers.success ? answers.data : {}).filter(([, v]) => namedIn(v).every((n) => n.kind === 'row' || isId(n.id))),
  );
  return { agreed: await agreementSentences(viewer, item.definition, safe) };
}
