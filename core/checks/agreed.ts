import { follow } from '../plans/index.ts';
import { actionOf, partOf, roomOf, warn, type Finding, type Step } from '../steps/index.ts';
import type { Checked } from './family.ts';

/**
 * Paths on which somebody is given access or equipment and no gate has passed before. What a part gives is told at the
 * step that uses it.
 */
export function ungated({ plan, catalogue }: Checked): Finding[] {
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
