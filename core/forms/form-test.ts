import type { Calendar } from '../calendar/index.ts';
import { validateAnswers, type FieldProblem } from './answers.ts';
import { nothingKnown, withHeld } from './begun.ts';
import type { Form, FormTest } from './form.ts';

/** How a test of a form comes out now: what refuses its answers first, and at the field where it expects that; whether it is as it says. */
export interface Outcome {
  first: FieldProblem | undefined;
  expected: FieldProblem | undefined;
  asSaid: boolean;
}

/** Tries a test of a form. Nothing is known of whoever would ask, nor of what stands elsewhere: working days are those of everybody (`desk`), else Monday to Friday. */
export function outcomeOf(form: Form, { answers, on, refused }: FormTest, desk?: Calendar): Outcome {
  const held = validateAnswers(form, withHeld(form, answers, nothingKnown), undefined, undefined, { today: on, desk });
  const problems = held.ok ? [] : held.problems;
  const expected = refused && problems.find((p) => p.field === refused.field);
  const asSaid = refused ? expected !== undefined && (refused.sentence.trim() === '' || expected.sentence === refused.sentence) : held.ok;
  return { first: problems[0], expected, asSaid };
}
