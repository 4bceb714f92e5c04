import { own } from '../boundary/index.ts';
import { analyseCoverage, conditionReferences, type Condition, mismatches } from '../conditions/index.ts';
import { compileHours, type Calendar } from '../calendar/index.ts';
import {
  countsWorkingDays,
  factFits,
  fieldType,
  hasColumns,
  hasHoldings,
  hasOptions,
  hasTable,
  isSilent,
  mayBeUnique,
  outcomeOf,
  shapeProblem,
  validateAnswers,
  type Column,
  type Field,
  type Form,
  type FormRule,
  type FormTest,
} from '../forms/index.ts';
import { fitsFor, isEmpty, typeWords } from '../values/index.ts';
import { domainOf } from './conditions.ts';
import { actionOf, saysWhether, slotsOf, type Catalogue, type Finding, type Places } from '../steps/index.ts';
import { formPlaces } from '../plans/index.ts';

/**
 * What is missing or wrong in a form by itself. Without `catalogue` it is not known which tables there are; `opened` are the fields
 * that steps open to others than whoever asks.
 */
export function checkForm(form: Form, catalogue?: Catalogue, opened: ReadonlySet<string> = new Set()): Finding[] {
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
    for (const wrong of wrongHoldings(f, catalogue)) tell(...wrong);
    const columns = f.columns ?? [];
    if (hasColumns(f.kind) && columns.length === 0) tell('unset-setting', `“${f.label}” has no columns, so no line says anything.`, 'Add a column.');
    for (const [i, c] of columns.entries()) {
      const name = c.label.trim().toLowerCase();
      if (!name) tell('unset-setting', `Column ${i + 1} of “${f.label}” has no label.`, 'Give it the words people will read.');
      else if (columns.findIndex((x) => x.label.trim().toLowerCase() === name) < i)
        tell('name-twice', `Two columns of “${f.label}” are called “${c.label}”.`, 'Rename one of them.');
      for (const wrong of wrongIn(c, `“${c.label}” in “${f.label}”`)) tell(...wrong);
    }
    if (
      !isEmpty(f.default) &&
      validateAnswers({ fields: [{ ...f, visibleWhen: undefined, requiredWhen: undefined, held: undefined }] }, { [f.id]: f.default }).ok === false
    )
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
    for (const wrong of [...wrongBeginning(form, f, catalogue, opened), ...wrongUnique(f, catalogue)]) tell(...wrong);
    const misshapen = f.shape && shapeProblem(f.shape);
    if (misshapen) tell('unset-setting', `“${f.label}” ${misshapen}, so no answer fits.`, 'Say what it is made of, or take the form away.');
    if (f.requiredWhen && f.required)
      tell('always-holds', `“${f.label}” is always required, so when it is required says nothing.`, 'Leave one of them.');
    ids.add(f.id);
    labels.add(label);
    above.add(`form.${f.id}`);
    for (const place of formPlaces({ fields: [f] })) known.set(place.ref, place);
  }
  for (const f of form.fields) found.push(...wrongUse(form, known, f.requiredWhen, f.id, `“${f.label}” is required under a condition that`));
  for (const [i, rule] of (form.rules ?? []).entries()) found.push(...checkRule(form, known, rule, i + 1));
  for (const s of form.sections ?? [])
    if (isSilent(s))
      found.push({
        code: 'unset-setting',
        severity: 'stops',
        section: s.id,
        sentence: 'A section has neither a title nor a note.',
        mend: 'Give it one of them, or remove it.',
      });
  const desk = form.tests && countsWorkingDays(form) && catalogue?.hours ? compileHours(catalogue.hours) : undefined;
  for (const test of form.tests ?? []) found.push(...failing(form, test, desk));
  return found;
}

/** Whether a test of the form still comes out as it says. */
function failing(form: Form, test: FormTest, desk: Calendar | undefined): Finding[] {
  const { id, name, refused } = test;
  const { first, expected, asSaid } = outcomeOf(form, test, desk);
  if (asSaid) return [];
  const label = form.fields.find((f) => f.id === refused?.field)?.label;
  const sentence = !refused
    ? `expects that its answers are taken. They are refused: ${first?.sentence ?? ''}`
    : label === undefined
      ? 'expects a refusal at a field that the form does not ask any more.'
      : expected
        ? `expects “${refused.sentence}” It is told “${expected.sentence}”`
        : `expects a refusal at “${label}”. ${first ? `It comes elsewhere: ${first.sentence}` : 'Its answers are taken.'}`;
  return [
    {
      code: 'form-test',
      severity: 'stops',
      test: id,
      sentence: `The test “${name}” ${sentence}`,
      mend: 'Mend the form, or say anew what the test expects.',
    },
  ];
}

type Wrong = [Finding['code'], string, string];

/** What is wrong with what a field begins with, and with one that whoever asks does not fill in. */
function wrongBeginning(form: Form, f: Field, catalogue: Catalogue | undefined, opened: ReadonlySet<string>): Wrong[] {
  const wrong: Wrong[] = [];
  const { prefill } = f;
  const type = fieldType(f.kind);
  if (prefill && 'ofAsker' in prefill && !factFits(prefill.ofAsker, type))
    wrong.push(['wrong-type', `“${f.label}” begins with something that is no ${typeWords[type]}.`, 'Pick what it begins with anew.']);
  if (prefill && 'row' in prefill) {
    const from = form.fields.find((x) => x.id === prefill.row);
    const columns = from?.table === undefined ? undefined : own(catalogue?.tables, from.table)?.columns;
    const column = columns?.find((c) => c.id === prefill.column);
    if (!from || from === f || !hasTable(from.kind))
      wrong.push([
        'unknown-reference',
        `“${f.label}” begins with a column of a row that the form does not ask for.`,
        'Pick what it begins with anew.',
      ]);
    else if (columns && !column)
      wrong.push(['unknown-reference', `“${f.label}” begins with a column that “${from.label}” does not have.`, 'Pick another column.']);
    else if (column && !fitsFor(type).includes(fieldType(column.kind)))
      wrong.push(['wrong-type', `“${f.label}” begins with “${column.label}”, which is no ${typeWords[type]}.`, 'Pick another column.']);
  }
  if (prefill && 'holding' in prefill) {
    const from = form.fields.find((x) => x.id === prefill.holding);
    const action = catalogue && actionOf(catalogue, from?.gave);
    const slot = action && slotsOf(action).find((s) => s.name === prefill.slot);
    if (!from || from === f || !hasHoldings(from.kind))
      wrong.push([
        'unknown-reference',
        `“${f.label}” begins with something of a holding that the form does not ask for.`,
        'Pick what it begins with anew.',
      ]);
    else if (f.held && f.required && (!from.required || from.visibleWhen))
      wrong.push([
        'may-have-no-value',
        `“${f.label}” is required and begins with something of “${from.label}”, which need not be picked.`,
        `Require “${from.label}”, and show it always, or do not require “${f.label}”.`,
      ]);
    else if (action && !slot)
      wrong.push([
        'unknown-reference',
        `“${f.label}” begins with something of “${from.label}” that “${action.label}” neither takes nor answers.`,
        'Pick another.',
      ]);
    else if (slot && !fitsFor(type).includes(slot.type))
      wrong.push(['wrong-type', `“${f.label}” begins with “${slot.label}”, which is no ${typeWords[type]}.`, 'Pick another.']);
  }
  if (f.held && !prefill && isEmpty(f.default) && !opened.has(f.id))
    wrong.push([
      'unset-setting',
      `“${f.label}” is ${f.held === 'locked' ? 'locked' : 'hidden'} and nothing gives it a value.`,
      'Say what it begins with, or open it at a gate or a task.',
    ]);
  return wrong;
}

/** What is wrong with which holdings a field offers: those that an action gives. */
function wrongHoldings({ label, kind, gave }: Field, catalogue: Catalogue | undefined): Wrong[] {
  if (!hasHoldings(kind)) return [];
  if (gave === undefined) return [['unset-setting', `“${label}” offers what nothing gave.`, 'Choose the action whose things it offers.']];
  const action = catalogue && actionOf(catalogue, gave);
  if (catalogue && !action)
    return [['unknown-action', `“${label}” offers what an action gave that no registered system offers any more.`, 'Choose another action.']];
  return action && !action.gives
    ? [['wrong-type', `“${label}” offers what “${action.label}” gave; nobody holds anything after that.`, 'Choose another action.']]
    : [];
}

/** What is wrong with among what an answer must be the only one. */
function wrongUnique({ label, kind, unique }: Field, catalogue: Catalogue | undefined): Wrong[] {
  if (!unique) return [];
  if (!mayBeUnique(kind))
    return [
      ['wrong-type', `“${label}” cannot be the only one of its kind: its answers are not told apart.`, 'Ask for a text, a number or one thing.'],
    ];
  if (unique.among === 'system') {
    if (unique.action === undefined) return [['unset-setting', `“${label}” must be the only one in no system.`, 'Choose what the system is asked.']];
    const action = catalogue && actionOf(catalogue, unique.action);
    if (catalogue && !action)
      return [['unknown-action', `“${label}” must be the only one in a system that offers no such action any more.`, 'Choose another.']];
    return action && !saysWhether(action)
      ? [
          [
            'wrong-type',
            `“${label}”: “${action.label}” does not say of one text whether there is such a one.`,
            'Choose an action that only reads, wants one text and answers yes or no.',
          ],
        ]
      : [];
  }
  if (unique.among !== 'rows') return [];
  if (unique.table === undefined || unique.column === undefined)
    return [['unset-setting', `“${label}” must be the only one among the rows of no table.`, 'Choose the table and its column.']];
  const table = catalogue && own(catalogue.tables, unique.table);
  if (catalogue && !table) return [['unknown-table', `“${label}” must be the only one in a table that does not exist.`, 'Choose another table.']];
  return table && !table.columns.some((c) => c.id === unique.column)
    ? [['unknown-reference', `“${label}” must be the only one in a column that “${table.name}” does not have.`, 'Choose another column.']]
    : [];
}

/** What is wrong with a rule between fields. */
function checkRule(form: Form, known: Places, rule: FormRule, n: number): Finding[] {
  const tell = (code: Finding['code'], sentence: string, mend: string): Finding => ({ code, severity: 'stops', rule: rule.id, sentence, mend });
  const at = form.fields.find((f) => f.id === rule.field);
  return [
    ...(rule.holds || rule.apart ? [] : [tell('unset-setting', `Rule ${n} says nothing that must hold.`, 'Say what must hold, or remove it.')]),
    ...(rule.sentence.trim()
      ? []
      : [tell('unset-setting', `Rule ${n} has no sentence for whoever breaks it.`, 'Write what is wrong and what to do.')]),
    ...(at
      ? []
      : [
          tell(
            rule.field === undefined ? 'unset-setting' : 'unknown-reference',
            `Rule ${n} names no field to stand at.`,
            'Choose the field where its sentence is shown.',
          ),
        ]),
    ...wrongUse(form, known, rule.holds, undefined, `Rule ${n} wants something that`).map((f) => ({ ...f, rule: rule.id })),
    ...useless(form, rule, n),
    ...[rule.apart?.date, rule.apart?.after].flatMap((ref, i) => {
      if (!rule.apart || (ref === undefined && i === 1)) return [];
      const place = ref && known.get(ref.ref);
      if (place?.type === 'date') return [];
      const what = place ? `counts days at “${place.label}”, which is no date` : ref ? 'counts days at a field that is not there' : 'names no date';
      return [
        tell(ref && !place ? 'unknown-reference' : ref ? 'wrong-type' : 'unset-setting', `Rule ${n} ${what}.`, 'Choose a field that asks a date.'),
      ];
    }),
  ];
}

/** A rule that every answer breaks, or that none can: within the bounds of the form, as far as that can be looked through. */
function useless(form: Form, rule: FormRule, n: number): Finding[] {
  const places: Places = new Map(formPlaces(form).map((p) => [p.ref, p]));
  if (!rule.holds || conditionReferences(rule.holds).some((ref) => !places.has(ref)) || mismatches(rule.holds, places).length > 0) return [];
  // Broken is only what is false: what cannot be told, as the order of a date that is not given, breaks nothing.
  const broken = analyseCoverage([{ not: rule.holds }], domainOf(places), []);
  if (!broken || (broken.possible[0] && !broken.always[0])) return [];
  const [code, severity, sentence] = broken.possible[0]
    ? (['never-holds', 'stops', `Rule ${n} can never hold, so that no request would be taken.`] as const)
    : (['always-holds', 'warns', `Rule ${n} always holds, so it never says anything.`] as const);
  return [{ code, severity, rule: rule.id, sentence, mend: 'Correct the condition, or take the rule away.' }];
}

/** What is wrong with a condition over the fields of a form, of a field or a rule. */
function wrongUse(form: Form, known: Places, condition: Condition | undefined, field: string | undefined, what: string): Finding[] {
  if (!condition) return [];
  const tell = (code: Finding['code'], sentence: string, mend: string): Finding => ({
    code,
    severity: 'stops',
    ...(field !== undefined && { field }),
    sentence,
    mend,
  });
  const gone = conditionReferences(condition).filter((ref) => !known.has(ref));
  const name = (ref: string) => form.wereCalled?.find((f) => `form.${f.id}` === ref)?.name;
  return [
    ...gone.map((ref) =>
      tell(
        'unknown-reference',
        `${what} reads ${name(ref) === undefined ? 'a field' : `“${name(ref)}”`}, which the form does not ask any more.`,
        'Pick another field.',
      ),
    ),
    ...(gone.length > 0
      ? []
      : mismatches(condition, known).map((wrong) => tell('wrong-type', `${what} ${wrong}.`, 'Compare it with a value of its own kind.'))),
  ];
}

/** What is wrong with choices, bounds and a currency, of a field or a column that sentences name so. */
function wrongIn(f: Field | Column, name: string): Wrong[] {
  const wrong: Wrong[] = [];
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
