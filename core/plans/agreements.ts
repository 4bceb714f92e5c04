import { compile, conditionReferences } from '../conditions/index.ts';
import type { Answers } from '../forms/index.ts';
import type { Block, Gate, Plan } from './plan.ts';

/** A gate that the present answers will raise. */
export interface Agreement {
  gate: Gate;
  /** False: whether it is raised depends on something that is known only later. */
  certain: boolean;
}

/**
 * The gates a request with these answers would meet, in order. Choices that read only the form are decided;
 * of the others every case is looked into, and its gates are not certain.
 */
export function agreements(plan: Plan, answers: Answers): Agreement[] {
  const read = (ref: string) => (ref.startsWith('form.') ? answers[ref.slice(5)] : undefined);
  const found: Agreement[] = [];
  let depth = 0;
  const visit = (block: Block, certain: boolean) => {
    for (const step of block) {
      if (step.kind === 'gate') {
        found.push({ gate: step, certain });
        if (step.approved) visit(step.approved, certain);
      }
      if (step.kind === 'choose') {
        let open = true;
        for (const c of step.cases) {
          if (!open || !c.when) continue;
          const known = conditionReferences(c.when).every((ref) => ref.startsWith('form.'));
          if (!known) visit(c.block, false);
          else if (compile(c.when)(read)) {
            visit(c.block, certain);
            open = false;
          }
        }
        if (open && step.otherwise)
          visit(step.otherwise, certain && step.cases.every((c) => !c.when || conditionReferences(c.when).every((ref) => ref.startsWith('form.'))));
      }
      if (step.kind === 'together') for (const b of step.branches) visit(b.block, certain && step.join === 'all');
      if (step.kind === 'forEach') visit(step.body, false);
      if (step.kind === 'repeat' || step.kind === 'guard') visit(step.body, certain);
      if (step.kind === 'guard') visit(step.remedy, false);
      if (step.kind === 'part' && depth < 8) {
        depth++;
        visit(plan.parts?.[step.part ?? '']?.steps ?? [], certain);
        depth--;
      }
      if (step.kind === 'finish') return;
    }
  };
  visit(plan.steps, true);
  return found;
}
