import { flowOf, follow, newStep, type Plan } from '../plans/index.ts';
import { roomOf, warn, type Finding, type Step, type StepOf } from '../steps/index.ts';
import { sentence } from '../values/index.ts';
import type { Checked } from './family.ts';

/**
 * Paths that end without telling the requester. A decline or lapse without a block of its own tells them by itself.
 * Told-ness is a set of two possibilities at each point: some path has told, some path has not.
 */
export function untold({ plan }: Checked): Finding[] {
  const found: Finding[] = [];
  interface Told {
    yes: boolean;
    no: boolean;
  }
  const either = (a: Told, b: Told): Told => ({ yes: a.yes || b.yes, no: a.no || b.no });
  const end = follow<Told>(
    plan.steps,
    { yes: false, no: true },
    {
      nothing: { yes: false, no: false },
      either,
      // With all branches joined it is enough that one of them tells.
      all: (outs) => (outs.some((o) => o.yes && !o.no) ? { yes: true, no: false } : outs.reduce(either)),
      at: (step, told) => {
        if (roomOf(step).tells?.(step)) return { yes: told.yes || told.no, no: false };
        if (flowOf(step).is === 'ends' && told.no)
          found.push(
            warn(step, {
              ...untoldWords(`end at “${step.name}”`),
              mend: 'Put a Tell to the requester before it.',
              fix: tellFix(plan, { before: step.id }),
            }),
          );
        return told;
      },
    },
  );
  const last = plan.steps.at(-1);
  if (end.no && last)
    found.push(
      warn(last, {
        ...untoldWords('reach the end of the plan'),
        mend: 'Put a Tell to the requester before the end.',
        fix: tellFix(plan, { after: last.id }),
      }),
    );
  return found;
}
const untoldWords = (how: string) => ({ code: 'untold' as const, sentence: `A request can ${how} without its requester having been told.` });
const tellFix = (plan: Plan, at: { before: string } | { after: string }): NonNullable<Finding['fix']> => {
  const tell = newStep(plan, 'tell') as StepOf<'tell'>;
  const insert: Step = {
    ...tell,
    subject: [[{ text: 'Your request ' }, { ref: 'request.number' }]],
    body: [{ text: sentence('Your request has been dealt with.') }],
  };
  return { words: 'Put a Tell there', edit: { insert, at } };
};
