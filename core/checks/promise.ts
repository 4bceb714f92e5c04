import { minutesWords, workingMinutes } from '../calendar/index.ts';
import { analyseTime, walk, type Plan } from '../plans/index.ts';
import { roomOf, warn, type Catalogue, type Finding } from '../steps/index.ts';

/** Where the plan is expected to take longer than is promised (ISO 8601 working time), and by how much. */
export function checkPromise(plan: Plan, promise: string | undefined, catalogue: Catalogue): Finding[] {
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
