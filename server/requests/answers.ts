import type { Answers } from '../../core/forms/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import type { Names } from '../people/names.ts';
import { valueWords } from '../words.ts';

/** The answers in words, in the form's order, without what was left empty. */
export function answerWords(definition: ItemDefinition, answers: Answers, names: Names): { label: string; words: string }[] {
  return definition.form.fields.flatMap((f) => {
    const words = valueWords(answers[f.id], names, f);
    return words ? [{ label: f.label, words }] : [];
  });
}

/** What a request asks for, in words to find it by: the item and every answer. */
export const caseWords = (definition: ItemDefinition, answers: Answers, names: Names): string =>
  [definition.name, ...answerWords(definition, answers, names).map((a) => a.words)].join('\n');
