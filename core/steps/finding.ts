import type { Catalogue } from './catalogue.ts';
import type { Step } from './step.ts';

/** What a finding is about; docs/plans.md says what each means. */
export type FindingCode =
  | 'unset-setting'
  | 'unknown-reference'
  | 'wrong-type'
  | 'unknown-action'
  | 'unknown-person'
  | 'unknown-team'
  | 'unknown-group'
  | 'unknown-policy'
  | 'unknown-part'
  | 'unknown-table'
  | 'unknown-routing'
  | 'wrong-expression'
  | 'name-twice'
  | 'may-have-no-value'
  | 'nobody-to-ask'
  | 'own-request'
  | 'no-outcome'
  | 'never-reached'
  | 'closing-inside'
  | 'never-holds'
  | 'always-holds'
  | 'overlap'
  | 'gap'
  | 'no-row'
  | 'does-not-end'
  | 'circle'
  | 'untold'
  | 'not-taken-back'
  | 'nothing-mirrored'
  | 'ungated'
  | 'secret'
  | 'secret-for-nobody'
  | 'beyond-allowed'
  | 'not-known-there'
  | 'asks-too-often'
  | 'nobody-consents'
  | 'form-test'
  | 'not-for-outside'
  | 'promise';

/** Where a step can be put: beside another, or at the beginning of a branch or of the plan. */
export type Position = { after: string } | { before: string } | { into: string; branch: string } | 'start';

/** A change of the plan that mends a finding by itself. */
export type PlanEdit = { replace: Step } | { remove: string } | { insert: Step; at: Position } | { move: string; to: Position };

/** Something that is missing, wrong or worth a look in an item. */
export interface Finding {
  code: FindingCode;
  /** `stops` publishing, or `warns`. */
  severity: 'stops' | 'warns';
  /** Where: a step; a field, a section, a rule or a test of the form; a line of the price; or none of them for the plan as a whole. */
  step?: string;
  field?: string;
  section?: string;
  rule?: string;
  test?: string;
  price?: string;
  sentence: string;
  mend: string;
  /** Where the mend is mechanical: what the button says, and what it does. */
  fix?: { words: string; edit: PlanEdit };
}

type Told = Omit<Finding, 'severity' | 'step'>;
/** A finding of a step that stops publishing. */
export const stop = (step: Step, told: Told): Finding => ({ severity: 'stops', step: step.id, ...told });
/** A finding of a step that is worth a look. */
export const warn = (step: Step, told: Told): Finding => ({ severity: 'warns', step: step.id, ...told });

/** A required setting that is not set. */
export const unset = (step: Step, what: string): Finding =>
  stop(step, { code: 'unset-setting', sentence: `“${step.name}” does not have ${what} yet.`, mend: 'Open the step and set it.' });

/** A place that is nowhere, as sentences name it: by what it was called as long as it was there. */
export function goneWords(ref: string, catalogue: Catalogue): string {
  const called = catalogue.gone?.get(ref.split('.').slice(0, 2).join('.'));
  if (called === undefined) return `a value that does not exist any more (${ref})`;
  return ref.startsWith('form.') ? `“${called}”, which the form does not ask any more` : `a value of “${called}”, a step that is not there any more`;
}
