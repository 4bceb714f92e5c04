import { conditionReferences } from '../conditions/index.ts';
import type { Form } from '../forms/index.ts';
import { isReference, type ValueType } from '../values/index.ts';
import { actionOf, type Catalogue } from './catalogue.ts';
import { placesByStep, readsOf, type Places } from './places.ts';
import { branches, walk, type Block, type Gate, type Plan, type Provision, type Step, type Tell } from './plan.ts';

export type FindingCode =
  | 'unset-setting'
  | 'unknown-reference'
  | 'wrong-type'
  | 'unknown-action'
  | 'unknown-person'
  | 'name-twice'
  | 'may-have-no-value'
  | 'nobody-to-ask'
  | 'own-request'
  | 'no-outcome'
  | 'never-reached'
  | 'untold';

export interface Finding {
  code: FindingCode;
  /** `stops` publishing, or `warns`. */
  severity: 'stops' | 'warns';
  /** Where: a step, a field of the form, or neither for the plan as a whole. */
  step?: string;
  field?: string;
  sentence: string;
  mend: string;
}

/** Everything the check finds in a form and its plan, in reading order. */
export function checkItem(form: Form, plan: Plan, catalogue: Catalogue): Finding[] {
  return [...checkForm(form), ...checkPlan(plan, form, catalogue)];
}

function checkForm(form: Form): Finding[] {
  const found: Finding[] = [];
  const labels = new Set<string>();
  const ids = new Set<string>();
  const above = new Set<string>();
  for (const f of form.fields) {
    const here = { severity: 'stops' as const, field: f.id };
    if (!f.label.trim())
      found.push({ ...here, code: 'unset-setting', sentence: 'A field has no label.', mend: 'Give it the words people will read.' });
    if (ids.has(f.id) || (f.label.trim() && labels.has(f.label.trim().toLowerCase()))) {
      found.push({ ...here, code: 'name-twice', sentence: `Two fields are called “${f.label}”.`, mend: 'Rename one of them.' });
    }
    if (f.kind === 'choice' && (f.options ?? []).filter((o) => o.label.trim()).length < 2) {
      found.push({
        ...here,
        code: 'unset-setting',
        sentence: `“${f.label}” offers fewer than two choices.`,
        mend: 'Add the choices people may pick from.',
      });
    }
    for (const ref of f.visibleWhen ? conditionReferences(f.visibleWhen) : []) {
      if (!above.has(ref)) {
        found.push({
          ...here,
          code: 'unknown-reference',
          sentence: `“${f.label}” is shown depending on a field that does not stand above it.`,
          mend: 'Pick a field above it, or move this one down.',
        });
      }
    }
    ids.add(f.id);
    labels.add(f.label.trim().toLowerCase());
    above.add(`form.${f.id}`);
  }
  return found;
}

function checkPlan(plan: Plan, form: Form, catalogue: Catalogue): Finding[] {
  const { at, anywhere } = placesByStep(plan, form, catalogue);
  const found: Finding[] = [];
  const names = new Map<string, string>();
  if (plan.steps.length === 0) {
    found.push({
      code: 'no-outcome',
      severity: 'stops',
      sentence: 'The plan has no steps, so a request would end without anything done.',
      mend: 'Add the first step.',
    });
  }
  for (const { step, block, index } of walk(plan.steps)) {
    const key = step.name.trim().toLowerCase();
    if (names.has(key))
      found.push({
        code: 'name-twice',
        severity: 'warns',
        step: step.id,
        sentence: `Two steps are called “${step.name}”.`,
        mend: 'Rename one, so that traces and messages tell them apart.',
      });
    names.set(key, step.id);
    if (block[index - 1]?.kind === 'finish') {
      found.push({
        code: 'never-reached',
        severity: 'warns',
        step: step.id,
        sentence: `“${step.name}” stands after a finish and is never reached.`,
        mend: 'Move it before the finish, or remove it.',
      });
    }
    found.push(...checkStep(step, anywhere, catalogue));
    const here = at.get(step.id);
    const seen = new Set<string>();
    for (const read of readsOf(step, catalogue)) {
      if (seen.has(read.ref + read.setting)) continue;
      seen.add(read.ref + read.setting);
      const place = here?.get(read.ref);
      if (!place) {
        const later = anywhere.get(read.ref);
        found.push({
          code: 'unknown-reference',
          severity: 'stops',
          step: step.id,
          sentence: later
            ? `${read.setting} of “${step.name}” uses “${later.label}” of “${later.source}”, which has not happened at this point.`
            : `${read.setting} of “${step.name}” uses a value that does not exist any more (${read.ref}).`,
          mend: 'Pick a value that exists at this point.',
        });
      } else if (read.needed && !place.always) {
        found.push({
          code: 'may-have-no-value',
          severity: step.kind === 'tell' && read.setting !== 'To' ? 'warns' : 'stops',
          step: step.id,
          sentence: `${read.setting} of “${step.name}” uses “${place.label}” of “${place.source}”, which may have no value here.`,
          mend: place.ref.startsWith('form.')
            ? 'Make the field required, or do this only in a case where it has a value.'
            : 'Do this only in a case where it has a value.',
        });
      }
    }
  }
  found.push(...untold(plan));
  return found;
}

function checkStep(step: Step, anywhere: Places, catalogue: Catalogue): Finding[] {
  if (step.kind === 'gate') return checkGate(step, anywhere, catalogue);
  if (step.kind === 'provision') return checkProvision(step, anywhere, catalogue);
  if (step.kind === 'tell') return checkTell(step);
  const unset = unsetAt(step);
  if (step.kind === 'finish') return step.outcome ? [] : [{ ...unset('an outcome'), code: 'no-outcome' }];
  if (step.cases.length === 0) return [unset('any case')];
  return step.cases.flatMap((c) => (c.when ? [] : [unset(`a condition for the case “${c.name}”`)]));
}

const unsetAt =
  (step: Step) =>
  (what: string): Finding => ({
    code: 'unset-setting',
    severity: 'stops',
    step: step.id,
    sentence: `“${step.name}” does not have ${what} yet.`,
    mend: 'Open the step and set it.',
  });

function checkGate(gate: Gate, anywhere: Places, catalogue: Catalogue): Finding[] {
  const found: Finding[] = [];
  const stop = { severity: 'stops' as const, step: gate.id };
  const a = gate.approvers;
  if (!a) found.push(unsetAt(gate)('approvers'));
  const people = [
    ...(a?.from === 'people' ? a.people.map((p) => p.person) : []),
    ...(gate.nobody?.then === 'ask' ? [gate.nobody.person.person] : []),
  ];
  for (const id of people) {
    const person = catalogue.people[id];
    if (!person?.active) {
      found.push({
        ...stop,
        code: 'unknown-person',
        sentence: person ? `“${gate.name}” asks ${person.name}, who has left.` : `“${gate.name}” asks a person who is not known.`,
        mend: 'Pick somebody else.',
      });
    }
  }
  if (!gate.nobody) {
    found.push({
      ...stop,
      code: 'nobody-to-ask',
      sentence: `“${gate.name}” may find nobody to ask, and does not say what happens then.`,
      mend: 'State the answer: ask someone else, let it pass, or fail.',
    });
  }
  if (a?.from === 'people' && gate.rule.rule === 'atLeast' && gate.rule.count > a.people.length) {
    found.push({
      ...stop,
      code: 'nobody-to-ask',
      sentence: `“${gate.name}” wants ${gate.rule.count} approvals and asks ${a.people.length}.`,
      mend: 'Ask more people, or want fewer approvals.',
    });
  }
  if (gate.ownRequest === 'allow') {
    found.push({
      severity: 'warns',
      step: gate.id,
      code: 'own-request',
      sentence: `At “${gate.name}” requesters may approve their own request.`,
      mend: 'Skip them, or ask their manager instead.',
    });
  }
  if (a && a.from !== 'people') {
    const ref = a.from === 'ownersOf' ? a.group.ref : a.person.ref;
    found.push(...typeFinding(gate, 'Approvers', ref, a.from === 'ownersOf' ? 'group' : 'person', anywhere));
  }
  return found;
}

function checkProvision(step: Provision, anywhere: Places, catalogue: Catalogue): Finding[] {
  if (!step.action) return [unsetAt(step)('an action')];
  const action = actionOf(catalogue, step.action);
  if (!action) {
    return [
      {
        code: 'unknown-action',
        severity: 'stops',
        step: step.id,
        sentence: `“${step.name}” uses an action that no registered system offers (${step.action}).`,
        mend: 'Pick an action of a registered system.',
      },
    ];
  }
  return action.inputs.flatMap((input) => {
    const operand = step.inputs[input.name];
    if (!operand) return input.required ? [unsetAt(step)(`“${input.label}”`)] : [];
    return isReference(operand) ? typeFinding(step, input.label, operand.ref, input.type, anywhere) : [];
  });
}

function checkTell(step: Tell): Finding[] {
  const unset = unsetAt(step);
  const empty = (text: Tell['body']) => !text.some((p) => p.some((x) => isReference(x) || x.text.trim() !== ''));
  return [
    ...(step.to ? [] : [unset('anyone to tell')]),
    ...(empty(step.subject) ? [unset('a subject')] : []),
    ...(empty(step.body) ? [unset('a message')] : []),
  ];
}

/** A picked value of the wrong type; a place that exists nowhere is found as an unknown reference instead. */
function typeFinding(step: Step, setting: string, ref: string, want: ValueType, anywhere: Places): Finding[] {
  const have = anywhere.get(ref)?.type;
  if (have === undefined || have === want || (want === 'text' && have === 'choice')) return [];
  return [
    {
      code: 'wrong-type',
      severity: 'stops',
      step: step.id,
      sentence: `${setting} of “${step.name}” needs a ${want} and is given a ${have}.`,
      mend: `Pick a ${want}.`,
    },
  ];
}

/**
 * Paths that end without telling the requester. A decline without a block of its own tells them by itself.
 * Told-ness is a set of two possibilities at each point: some path has told, some path has not.
 */
function untold(plan: Plan): Finding[] {
  const found: Finding[] = [];
  type Told = { yes: boolean; no: boolean };
  const none: Told = { yes: false, no: false };
  const merge = (a: Told, b: Told): Told => ({ yes: a.yes || b.yes, no: a.no || b.no });

  function run(block: Block, before: Told): Told {
    return block.reduce((told, step) => after(step, told), before);
  }
  function after(step: Step, told: Told): Told {
    if (step.kind === 'tell') return step.to?.ref === 'request.requester' ? { yes: told.yes || told.no, no: false } : told;
    if (step.kind === 'finish') {
      if (told.no)
        found.push({
          code: 'untold',
          severity: 'warns',
          step: step.id,
          sentence: `A request can end at “${step.name}” without its requester having been told.`,
          mend: 'Put a Tell to the requester before it.',
        });
      return none;
    }
    if (step.kind === 'gate') {
      const passed = run(step.approved ?? [], told);
      return step.declined ? merge(passed, run(step.declined, told)) : passed;
    }
    if (step.kind === 'choose') {
      const ends = branches(step).map((b) => run(b.block, told));
      return [...ends, ...(step.otherwise ? [] : [told])].reduce(merge, none);
    }
    return told;
  }
  const end = run(plan.steps, { yes: false, no: true });
  if (end.no && plan.steps.length > 0) {
    found.push({
      code: 'untold',
      severity: 'warns',
      ...(plan.steps.at(-1) && { step: plan.steps.at(-1)!.id }),
      sentence: 'A request can reach the end of the plan without its requester having been told.',
      mend: 'Put a Tell to the requester before the end.',
    });
  }
  return found;
}

export const stops = (findings: Finding[]): Finding[] => findings.filter((f) => f.severity === 'stops');
