import { z } from 'zod';
import { readJson } from '../../../core/boundary/index.ts';
import type { Answers } from '../../../core/forms/index.ts';
import { namedIn, Value } from '../../../core/values/index.ts';
import { asked, isId } from '../session.server';

const Sent = z.record(z.string(), Value);

/** Answers that are still being typed, as an address brings them (`?answers=`); what is not well-formed is left out. */
export function answersAsked(request: Request): Answers {
  const given = readJson(asked(request, 'answers', 16_000) || '{}');
  const answers = Sent.safeParse(given.ok ? given.value : {});
  // Only well-formed ids are looked up; a row is told by its table and its key.
  const safe = Object.entries(answers.success ? answers.data : {}).filter(([, v]) => namedIn(v).every((n) => n.kind === 'row' || isId(n.id)));
  return Object.fromEntries(safe);
}
