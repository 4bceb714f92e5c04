import { conditionReferences } from '../conditions/index.ts';
import { hasOptions, type Form } from '../forms/index.ts';
import type { Finding } from './finding.ts';

/** What is missing or wrong in a form by itself. */
export function checkForm(form: Form): Finding[] {
  const found: Finding[] = [];
  const labels = new Set<string>();
  const ids = new Set<string>();
  const above = new Set<string>();
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
  }
  return found;
}
