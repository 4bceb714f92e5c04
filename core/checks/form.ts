import { own } from '../boundary/index.ts';
import { conditionReferences } from '../conditions/index.ts';
import { hasColumns, hasOptions, hasTable, validateAnswers, type Column, type Field, type Form } from '../forms/index.ts';
import { isEmpty } from '../values/index.ts';
import { mismatches } from './conditions.ts';
import type { Catalogue, Finding, Places } from '../steps/index.ts';
import { formPlaces } from '../plans/index.ts';

/** What is missing or wrong in a form by itself. Without `catalogue` it is not known which tables there are. */
export function checkForm(form: Form, catalogue?: Catalogue): Finding[] {
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
    for (const wrong of wrongIn(f, `“${f.label}”`)) tell(...wrong);
    if (hasTable(f.kind) && f.table === undefined) tell('unset-setting', `“${f.label}” offers the rows of no table.`, 'Choose the reference table.');
    else if (f.table !== undefined && catalogue && !own(catalogue.tables, f.table))
      tell('unknown-table', `“${f.label}” offers the rows of a table that does not exist.`, 'Choose another reference table.');
    const columns = f.columns ?? [];
    if (hasColumns(f.kind) && columns.length === 0) tell('unset-setting', `“${f.label}” has no columns, so no line says anything.`, 'Add a column.');
    for (const [i, c] of columns.entries()) {
      const name = c.label.trim().toLowerCase();
      if (!name) tell('unset-setting', `Column ${i + 1} of “${f.label}” has no label.`, 'Give it the words people will read.');
      else if (columns.findIndex((x) => x.label.trim().toLowerCase() === name) < i)
        tell('name-twice', `Two columns of “${f.label}” are called “${c.label}”.`, 'Rename one of them.');
      for (const wrong of wrongIn(c, `“${c.label}” in “${f.label}”`)) tell(...wrong);
    }
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

/** What is wrong with choices, bounds and a currency, of a field or a column that sentences name so. */
function wrongIn(f: Field | Column, name: string): [Finding['code'], string, string][] {
  const wrong: [Finding['code'], string, string][] = [];
  const options = f.options ?? [];
  if (hasOptions(f.kind) && options.filter((o) => o.label.trim()).length < 2)
    wrong.push(['unset-setting', `${name} offers fewer than two choices.`, 'Add the choices people may pick from.']);
  if (f.min !== undefined && f.max !== undefined && f.min > f.max)
    wrong.push(['never-holds', `${name} must be at least ${f.min} and at most ${f.max}, so no answer fits.`, 'Swap the bounds.']);
  if (f.kind === 'money' && f.unit !== undefined && !/^[A-Z]{3}$/.test(f.unit))
    wrong.push([
      'wrong-type',
      `${name} states the currency “${f.unit}”, which is none, so no answer fits.`,
      'Write its three letters, or leave it to whoever asks.',
    ]);
  const choices = options.map((o) => o.label.trim().toLowerCase()).filter(Boolean);
  if (new Set(choices).size < choices.length || new Set(options.map((o) => o.value)).size < options.length)
    wrong.push(['name-twice', `${name} offers the same choice twice.`, 'Rename or remove one.']);
  return wrong;
}
