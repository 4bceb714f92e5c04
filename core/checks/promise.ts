import { minutesWords, workingMinutes } from '../calendar/index.ts';
import { analyseTime, walk, type Plan } from '../plans/index.ts';
import { roomOf, warn, type Catalogue, type Finding } from '../steps/index.ts';

/** Where the plan is expected to take longer than is promised (ISO 8601 working time), and by how much: as a whole, and to its milestones. */
export function checkPromise(plan: Plan, promise: string | undefined, catalogue: Catalogue): Finding[] {
  return [...milestonesLate(plan, promise, catalogue), ...wholeLate(plan, promise, catalogue)];
}

/** Milestones that are promised before they are expected, or after the whole. */
function milestonesLate(plan: Plan, whole: string | undefined, catalogue: Catalogue): Finding[] {
  const promised = [...walk(plan.steps)].flatMap(({ step }) => {
    const within = roomOf(step).promisedIn?.(step);
    return within === undefined ? [] : [{ step, within: workingMinutes(within) }];
  });
  if (promised.length === 0) return [];
  const { begins } = analyseTime(plan, undefined, catalogue);
  return promised.flatMap(({ step, within }) => {
    const begin = begins.get(step.id) ?? 0;
    if (begin > within)
      return [
        warn(step, {
          code: 'promise',
          sentence: `“${step.name}” is expected ${minutesWords(begin)} after asking; promised are ${minutesWords(within)}, ${minutesWords(begin - within)} less.`,
          mend: 'Promise it later, or make the steps before it shorter.',
        }),
      ];
    if (whole === undefined || within <= workingMinutes(whole)) return [];
    return [
      warn(step, {
        code: 'promise',
        sentence: `“${step.name}” is promised within ${minutesWords(within)}, and the whole request within ${minutesWords(workingMinutes(whole))}.`,
        mend: 'Promise the milestone earlier, or the whole later.',
      }),
    ];
  });
}

function wholeLate(plan: Plan, promise: string | undefined, catalogue: Catalogue): Finding[] {
  if (promise === undefined) return [];
  const promised = workingMinutes(promise);
  const time = analyseTime(plan, promised, catalogue);
  const found: Finding[] = [];
  if (time.longest > promised) {
    found.push({
      code: 'promise',
      severity: 'warns',
      sentence: `The longest way is expected to take ${minutesWords(time.longest)}; promised are ${minutesWords(promised)}, ${minutesWords(time.longest - promised)} less.`,
      mend: 'Promise more, or make the steps on the longest way shorter.',
    });
  }
  for (const { step } of walk(plan.steps)) {
    const lapses = roomOf(step).lapsesAfter?.(step);
    if (lapses === undefined || workingMinutes(lapses) <= promised) continue;
    const over = workingMinutes(lapses) - promised;
    found.push(
      warn(step, {
        code: 'promise',
        sentence: `“${step.name}” waits up to ${minutesWords(workingMinutes(lapses))} before it lapses, ${minutesWords(over)} longer than the whole request is promised.`,
        mend: 'Let it lapse earlier, or promise more.',
      }),
    );
  }
  return found;
}
