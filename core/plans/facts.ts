import type { Naming } from '../conditions/index.ts';
import { roomOf, type Catalogue } from '../steps/index.ts';
import { branches, walk } from './blocks.ts';
import { branchLine } from './outline.ts';
import { referencesOf } from './places.ts';
import type { Plan } from './plan.ts';
import { analyseTime, minutesOfStep } from './timing.ts';
import { branchWords, partyWords, stepSentence } from './words.ts';

/** What the sheet says of a step. */
export interface StepFacts {
  sentence: string;
  /** Who acts; empty where nobody in particular does. */
  party: string;
  /** What stands beside it in a word or two: until when it waits, after which time it is late. */
  brief?: string;
  /** Expected working minutes of its own. */
  minutes: number;
  /** Expected working minutes from the request's opening to its earliest beginning; none off the way to what was asked for. */
  begins?: number;
  /** On the longest way. */
  critical: boolean;
  /** The values of other steps that it reads: whose, and what the value is called. */
  takes: { from: string; label: string }[];
}

/** What the sheet says beyond the steps themselves. Whatever is keyed by a step's id is a Map: somebody chose the name. */
export interface SheetFacts {
  steps: Map<string, StepFacts>;
  /** The words at the head of a branch, by the id of its line. */
  heads: Map<string, string>;
  /** Those who act, in the order of their first appearance. */
  parties: string[];
  /** Working minutes of the longest way through. */
  longest: number;
  /** Chance to keep the promise, where a time is promised. */
  chance?: number;
}

/** Works out what the plan sheet says; `promised` in working minutes. */
export function sheetFacts(plan: Plan, naming: Naming, catalogue: Catalogue, promised?: number): SheetFacts {
  const time = analyseTime(plan, promised, catalogue);
  const steps = new Map<string, StepFacts>();
  const heads = new Map<string, string>();
  const parties = new Set<string>();
  for (const { step } of walk(plan.steps)) {
    const party = partyWords(step, naming, catalogue);
    if (party) parties.add(party);
    const brief = roomOf(step).brief?.(step, naming);
    const begins = time.begins.get(step.id);
    const takes = new Map<string, { from: string; label: string }>();
    for (const { ref } of referencesOf(step, catalogue)) {
      const [head, from] = ref.split('.');
      if (head === 'steps' && from !== undefined) takes.set(ref, { from, label: naming.place(ref) });
    }
    steps.set(step.id, {
      sentence: stepSentence(step, naming, catalogue),
      party,
      ...(brief !== undefined && { brief }),
      minutes: minutesOfStep(step),
      ...(begins !== undefined && { begins }),
      critical: time.critical.has(step.id),
      takes: [...takes.values()],
    });
    for (const b of branches(step)) heads.set(branchLine(step.id, b.id), branchWords(step, b.id, naming));
  }
  return { steps, heads, parties: [...parties], longest: time.longest, ...(time.chance !== undefined && { chance: time.chance }) };
}
