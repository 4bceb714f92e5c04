import { actionOf, partOf, roomOf, warn, type Catalogue, type Finding, type Step, type StepOf } from '../steps/index.ts';
import { sentence } from '../values/index.ts';
import { flowOf } from './blocks.ts';
import { newStep } from './edit.ts';
import type { Plan } from './plan.ts';
import { follow } from './ways.ts';

/**
 * Paths that end without telling the requester. A decline or lapse without a block of its own tells them by itself.
 * Told-ness is a set of two possibilities at each point: some path has told, some path has not.
 */
export function untold(plan: Plan): Finding[] {
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

/**
 * Paths on which somebody is given access or equipment and no gate has passed before. What a part gives is told at the
 * step that uses it.
 */
export function ungated(plan: Plan, catalogue: Catalogue): Finding[] {
  const found = new Map<Step, Finding>();
  // Whether, on some path to here, no gate has let the request pass.
  follow<boolean>(plan.steps, true, {
    nothing: false,
    either: (a, b) => a || b,
    all: (outs) => outs.every(Boolean),
    agreed: () => false,
    part: (id) => partOf(catalogue, id)?.steps,
    at: (step, bare, shown) => {
      const action = actionOf(catalogue, roomOf(step).action?.(step));
      if (bare && action?.grants && !found.has(shown))
        found.set(
          shown,
          warn(shown, {
            code: 'ungated',
            sentence: `“${shown.name}” gives somebody something (${action.label.toLowerCase()}) on a way on which nobody has agreed before.`,
            mend: 'Put a gate before it, or leave it so if nobody need agree.',
          }),
        );
      return bare;
    },
  });
  return [...found.values()];
}
