import { compile, conditionReferences } from '../conditions/index.ts';
import type { Answers } from '../forms/index.ts';
import type { Block, Gate, Plan, Step } from './plan.ts';

/** A gate that the present answers will raise. */
export interface Agreement {
  gate: Gate;
  /** False: whether it is raised depends on something that is known only later. */
  certain: boolean;
}

/**
 * The gates a request with these answers would meet, in order. Choices that read only the form are decided;
 * of the others every case is looked into, and its gates are not certain. What follows a certain end is not raised.
 */
export function agreements(plan: Plan, answers: Answers): Agreement[] {
  const read = (ref: string) => (ref.startsWith('form.') ? answers[ref.slice(5)] : undefined);
  const found: Agreement[] = [];
  let depth = 0;
  /** True: every way through the block ends the request. */
  const visit = (block: Block, certain: boolean): boolean => {
    for (const step of block) if (enter(step, certain)) return true;
    return false;
  };
  const enter = (step: Step, certain: boolean): boolean => {
    switch (step.kind) {
      case 'finish':
        return true;
      case 'gate':
        found.push({ gate: step, certain });
        return step.approved ? visit(step.approved, certain) : false;
      case 'choose': {
        const ends: boolean[] = [];
        let sure = certain;
        for (const c of step.cases) {
          if (!c.when) continue;
          const known = conditionReferences(c.when).every((ref) => ref.startsWith('form.'));
          if (known && !compile(c.when)(read)) continue;
          if (!known) sure = false;
          ends.push(visit(c.block, sure));
          if (known) return ends.every(Boolean);
        }
        ends.push(step.otherwise ? visit(step.otherwise, sure) : false);
        return ends.every(Boolean);
      }
      case 'together':
        return step.branches.map((b) => visit(b.block, certain && step.join === 'all')).some((e) => e && step.join === 'all');
      case 'forEach':
        visit(step.body, false);
        return false;
      case 'repeat':
        return visit(step.body, certain);
      case 'guard': {
        const ends = [visit(step.body, certain), visit(step.remedy, false), step.late ? visit(step.late, false) : true];
        return ends.every(Boolean);
      }
      case 'part': {
        if (depth >= 8) return false;
        depth++;
        const ends = visit(plan.parts?.[step.part ?? '']?.steps ?? [], certain);
        depth--;
        return ends;
      }
      default:
        return false;
    }
  };
  visit(plan.steps, true);
  return found;
}
