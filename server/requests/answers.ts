import type { Answers } from '../../core/forms/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import type { Names } from '../people/names.ts';
import { said, type Said } from '../words.ts';

/** The answers in words, in the form's order, without what was left empty; `asker`: as whoever asked may see them. */
export function answerWords(definition: ItemDefinition, answers: Answers, names: Names, asker = false): ({ label: string } & Said)[] {
  return definition.form.fields.flatMap((f) => {
    if (asker && f.held === 'hidden') return [];
    const answer = said(answers[f.id], names, f);
    return answer.words ? [{ label: f.label, ...answer }] : [];
  });
}

/** What a request asks for, in words to find it by: the item and every answer. */
export const caseWords = (definition: ItemDefinition, answers: Answers, names: Names): string =>
  [definition.name, ...answerWords(definition, answers, names).map((a) => a.words)].join('\n');
