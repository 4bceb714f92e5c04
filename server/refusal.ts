import type { z } from 'zod';
import type { FieldProblem } from '../core/forms/index.ts';
import { problemsOf } from '../core/posts/index.ts';

/** A refusal is a value: what is wrong, where, and what to do. Never thrown by a command for what a person did. */
export interface Refusal {
  ok: false;
  code:
    | 'not-allowed'
    | 'not-found'
    | 'invalid'
    | 'taken'
    | 'changed-meanwhile'
    | 'already-decided'
    | 'ended'
    | 'has-findings'
    | 'awaits-consent'
    | 'too-many-tries';
  sentence: string;
  problems?: FieldProblem[];
}
export type Result<T extends object = object> = ({ ok: true } & T) | Refusal;

export const refuse = (code: Refusal['code'], sentence: string, problems?: FieldProblem[]): Refusal => ({
  ok: false,
  code,
  sentence,
  ...(problems && { problems }),
});

/** What somebody posted, held against its schema: its values, or what is wrong at which field. */
export function holdTo<S extends z.ZodType>(schema: S, given: unknown): Result<{ value: z.output<S> }> {
  const read = schema.safeParse(given);
  if (read.success) return { ok: true, value: read.data };
  const problems = problemsOf(read.error);
  return refuse('invalid', problems[0]?.sentence ?? 'This does not fit.', problems);
}

/** Too much at once; what was sent is still on its page. `wait`: in words. */
export const tooMuch = (wait: string) => refuse('too-many-tries', `That is a lot at once. What you wrote is still here; send it in ${wait}.`);
export const notFound = (what: string) => refuse('not-found', `${what} does not exist, or you may not see it.`);
export const notAllowed = (what: string) => refuse('not-allowed', `You may not ${what}.`);
export const answersRefused = (problems: FieldProblem[]) =>
  refuse('invalid', problems.length === 1 ? 'One answer needs another look.' : `${problems.length} answers need another look.`, problems);
