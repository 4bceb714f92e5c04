import type { Naming } from '../conditions/index.ts';
import { roomOf, type Catalogue, type Step } from '../steps/index.ts';

/** Who does a step, as the name of its party on the sheet; empty where nobody in particular does. */
export const partyWords = (step: Step, naming: Naming, catalogue: Catalogue): string => roomOf(step).party(step, naming, catalogue);

/** A step as one sentence, the way the script reads it. */
export const stepSentence = (step: Step, naming: Naming, catalogue: Catalogue): string => roomOf(step).sentence(step, naming, catalogue);

/** The words at the head of a branch. */
export const branchWords = (step: Step, branch: string, naming: Naming): string => roomOf(step).head?.(step, branch, naming) ?? branch;
