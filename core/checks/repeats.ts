import { secondsOf, spanWords } from '../calendar/index.ts';
import { flowOf, walk } from '../plans/index.ts';
import { actionOf, partOf, roomOf, stop, type Block, type Catalogue, type Finding, type Step } from '../steps/index.ts';
import type { Checked } from './family.ts';

/** A step that asks a system something, as it is shown: what a part does is told at the step that uses it. */
interface Asks {
  shown: Step;
  action: string;
}

/** Everything that steps ask of systems, those of the parts they use among them. */
function asked(block: Block, catalogue: Catalogue, seen: ReadonlySet<string> = new Set(), of?: Step): Asks[] {
  return [...walk(block)].flatMap(({ step }): Asks[] => {
    const [flow, action] = [flowOf(step), roomOf(step).action?.(step)];
    const shown = of ?? step;
    if (flow.is === 'inside' && flow.part !== undefined && !seen.has(flow.part))
      return asked(partOf(catalogue, flow.part)?.steps ?? [], catalogue, new Set([...seen, flow.part]), shown);
    return action === undefined ? [] : [{ shown, action }];
  });
}

/** Repeats whose rounds come sooner one after the other than a system that they ask wants to be asked. */
export function repeats({ plan, catalogue }: Checked): Finding[] {
  const found = new Map<Step, Finding>();
  for (const { step } of walk(plan.steps)) {
    const flow = flowOf(step);
    if (flow.is !== 'rounds' || flow.apart === undefined) continue;
    const waited = flow.body.block.map(flowOf).reduce((sum, f) => sum + (f.is === 'on' ? (f.waits ?? 0) : 0), flow.apart);
    for (const { shown, action } of asked(flow.body.block, catalogue)) {
      const spec = actionOf(catalogue, action);
      if (spec?.apart === undefined || secondsOf(spec.apart) <= waited || found.has(shown)) continue;
      const every = spanWords({ length: spec.apart, counted: 'always' });
      found.set(
        shown,
        stop(shown, {
          code: 'asks-too-often',
          sentence: `“${shown.name}” is done again by “${step.name}” sooner than ${spec.system} wants to be asked (${spec.label.toLowerCase()}: every ${every} at most).`,
          mend: `Let “${step.name}” pause for ${every} between its tries.`,
        }),
      );
    }
  }
  return [...found.values()];
}
