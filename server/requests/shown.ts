import { visibleFields, type Answers, type Form } from '../../core/forms/index.ts';

/** What the form does not show is not sent either. */
export const shownOf = (form: Form, answers: Answers): Answers =>
  Object.fromEntries(visibleFields(form, answers).flatMap((f) => (answers[f.id] === undefined ? [] : [[f.id, answers[f.id]!]])));
