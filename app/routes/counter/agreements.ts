import { z } from 'zod';
import { idsIn, Value } from '../../../core/values/index.ts';
import { agreementSentences } from '../../../server/queries/agreements.ts';
import { offeredItem } from '../../../server/queries/counter.ts';
import { found, isId, signedIn } from '../session.server';
import type { Route } from './+types/agreements';

const Answers = z.record(z.string(), Value);

/** The sentences about what must be agreed, for answers that are still being typed. */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const item = found(isId(params.itemId) ? await offeredItem(params.itemId) : undefined, 'This item');
  let given: unknown;
  try {
    given = JSON.parse(new URL(request.url).searchParams.get('answers') ?? '{}');
  } catch {
    given = {};
  }
  const answers = Answers.safeParse(given);
  // Only well-formed ids are looked up.
  const safe = Object.fromEntries(Object.entries(answers.success ? answers.data : {}).filter(([, v]) => idsIn(v).every(isId)));
  return { agreed: await agreementSentences(viewer, item.definition, safe) };
}
