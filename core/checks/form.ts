import { conditionReferences } from '../conditions/index.ts';
import { hasOptions, validateAnswers, type Form } from '../forms/index.ts';
import { isEmpty } from '../values/index.ts';
import { mismatches } from './conditions.ts';
import type { Finding, Places } from '../steps/index.ts';
import { formPlaces } from '../plans/index.ts';

/** What is missing or wrong in a form by itself. */
export function checkForm(form: Form): Finding[] {
  const found: Finding[] = [];
  const labels = new Set<string>();
  const ids = new Set<string>();
  const above = new Set<string>();
  const known: Places = new Map();
  for (const f of form.fields) {
    const tell = (code: Finding['code'], sentence: string, mend: string) => found.push({ code, severity: 'stops', field: f.id, sentence, mend });
    const label = f.label.trim().toLowerCase();
    if (!label) tell('unset-setting', 'A field has no label.', 'Give it the words people will read.');
    if (ids.has(f.id) || (label && labels.has(label))) tell('name-twice', `Two fields are called “${f.label}”.`, 'Rename one of them.');
    if (hasOptions(f.kind) && (f.options ?? []).filter((o) => o.label.trim()).length < 2) {
      tell('unset-setting', `“${f.label}” offers fewer than two choices.`, 'Add the choices people may pick from.');
    }
    if (f.min !== undefined && f.max !== undefined && f.min > f.max) {
      tell('never-holds', `“${f.label}” must be at least ${f.min} and at most ${f.max}, so no answer fits.`, 'Swap the bounds.');
    }
    if (f.kind === 'money' && f.unit !== undefined && !/^[A-Z]{3}$/.test(f.unit))
      tell(
        'wrong-type',
        `“${f.label}” states the currency “${f.unit}”, which is none, so no answer fits.`,
        'Write its three letters, or leave it to whoever asks.',
      );
    const choices = (f.options ?? []).map((o) => o.label.trim().toLowerCase()).filter(Boolean);
    if (new Set(choices).size < choices.length || new Set((f.options ?? []).map((o) => o.value)).size < (f.options ?? []).length)
      tell('name-twice', `“${f.label}” offers the same choice twice.`, 'Rename or remove one.');
    if (!isEmpty(f.default) && validateAnswers({ fields: [{ ...f, visibleWhen: undefined }] }, { [f.id]: f.default }).ok === false)
      tell('wrong-type', `“${f.label}” begins with an answer that it would not take.`, 'Correct what it begins with.');
    for (const wrong of f.visibleWhen ? mismatches(f.visibleWhen, known) : [])
      tell('wrong-type', `“${f.label}” is shown under a condition that ${wrong}.`, 'Compare it with a value of its own kind.');
    for (const ref of f.visibleWhen ? conditionReferences(f.visibleWhen) : []) {
      if (!above.has(ref)) {
        tell(
          'unknown-reference',
          `“${f.label}” is shown depending on a field that does not stand above it.`,
          'Pick a field above it, or move this one down.',
        );
      }
    }
    ids.add(f.id);
    labels.add(label);
    above.add(`form.${f.id}`);
    for (const place of formPlaces({ fields: [f] })) known.set(place.ref, place);
  }
  return found;
}
