import type { Known, Naming } from '../conditions/index.ts';
import type { Plan } from '../plans/index.ts';
import type { Catalogue, Finding, Place, Places, Reading, Step } from '../steps/index.ts';

/** What every family of findings is given: a plan, walked once. */
export interface Checked {
  plan: Plan;
  catalogue: Catalogue;
  /** Every place that exists somewhere in it. */
  anywhere: Places;
  naming: Naming;
  /** The places steps read where those are missing, secret, or may have no value. */
  doubtful: { step: Step; read: Reading; place: Place | undefined }[];
  /** The steps that test something, with the places that their conditions read, as they are there. */
  tested: { step: Step; here: Places }[];
  /** For each step the conditions that hold wherever it is reached. */
  given: Map<string, Known[]>;
}

/** One family of findings about a plan. */
export type Family = (checked: Checked) => Finding[];
