import { meanMinutes, varianceMinutes } from '../calendar/index.ts';
import { chanceWithin, criticalPath, type NetworkActivity } from './network.ts';
import { roomOf, type Block, type Catalogue, type Step, type Way } from '../steps/index.ts';
import { flowOf } from './blocks.ts';
import type { Plan } from './plan.ts';
import { deepestPart, outOfBlock, partSteps } from './ways.ts';

/** Expected working minutes of a step alone, without the blocks it holds. */
export const minutesOfStep = (step: Step): number => roomOf(step).minutes?.(step) ?? meanMinutes(step.expected);
const ownVariance = (step: Step): number => (roomOf(step).minutes?.(step) === undefined ? varianceMinutes(step.expected) : 0);

/** How long a plan is expected to take. */
export interface TimeAnalysis {
  /** Working minutes of the longest way through. */
  longest: number;
  /** The steps on it, and for every step how much longer it could take without making the whole longer. */
  critical: Set<string>;
  slack: Map<string, number>;
  /** Working minutes from the beginning to each step's earliest start. */
  begins: Map<string, number>;
  /** Expected working minutes, each choice weighed by how often its cases are taken. */
  mean: number;
  variance: number;
  /** Chance to be over within the promised time, by the normal approximation; where a time is promised. */
  chance?: number;
}

/** The ways of a step that lead on to what was asked for: a decline or lapse leads away from it, a remedy is the exception. */
function onward(step: Step): Way[] {
  const flow = flowOf(step);
  if (flow.is === 'one') return flow.ways.filter((w) => !w.aside && !w.ends);
  if (flow.is === 'beside') return flow.ways;
  return flow.is === 'tried' || flow.is === 'rounds' ? [flow.body] : [];
}

/**
 * The plan as a network of activities: steps of a block one after another, branches side by side. The cases of a
 * choice stand side by side too, so that its longest way counts. A for-each and a repeat count one round, a part what is
 * inside it (its steps are named `step/inner`). Of branches of which the first counts only the quickest is there; one that
 * ends the request holds up nothing after it.
 */
export function networkOf(plan: Plan, catalogue?: Catalogue): NetworkActivity[] {
  const activities: NetworkActivity[] = [];
  const part = partSteps(plan, catalogue);
  /** Gives the activities that have to be over before what follows the block can begin; undefined when nothing follows. */
  function block(steps: Block, before: string[], prefix: string, depth: number): string[] | undefined {
    let after = before;
    for (const step of steps) {
      const id = prefix + step.id;
      activities.push({ id, mean: minutesOfStep(step), variance: ownVariance(step), after });
      const flow = flowOf(step);
      if (flow.is === 'ends') return undefined;
      const inside = waysOn(step, part, depth);
      if (inside.length === 0) {
        after = [id];
        continue;
      }
      const within = flow.is === 'inside';
      const ends = inside.map((b) => block(b, [id], within ? `${id}/` : prefix, within ? depth + 1 : depth)).filter((e) => e !== undefined);
      // What may be passed by holds up nothing.
      if (flow.is === 'rounds' && flow.least === 0) ends.push([id]);
      if (ends.length === 0) return undefined;
      after = [...new Set(ends.flat())];
    }
    return after;
  }
  block(plan.steps, [], '', 0);
  return activities;
}

/** The blocks through which a step leads on, those side by side among them. */
function waysOn(step: Step, part: ReturnType<typeof partSteps>, depth: number): Block[] {
  const flow = flowOf(step);
  if (flow.is === 'inside') {
    const inside = flow.part !== undefined && depth < deepestPart ? part(flow.part) : undefined;
    return inside ? [inside] : [];
  }
  const blocks = onward(step).map((w) => w.block);
  if (flow.is !== 'beside' || flow.join !== 'first') return blocks;
  const out = blocks.filter((b) => outOfBlock(b, { part }).may);
  const quickest = out.toSorted((a, b) => expectedBlock(a, part, depth).mean - expectedBlock(b, part, depth).mean)[0];
  return quickest ? [quickest] : blocks;
}

/** Lengths, critical path and slack of a plan; `promised` in working minutes. Parts of a draft are read from the catalogue. */
export function analyseTime(plan: Plan, promised?: number, catalogue?: Catalogue): TimeAnalysis {
  const path = criticalPath(networkOf(plan, catalogue));
  const { mean, variance } = expectedBlock(plan.steps, partSteps(plan, catalogue), 0);
  return {
    longest: path.length,
    critical: new Set(path.path),
    slack: new Map([...path.times].map(([id, t]) => [id, t.slack])),
    begins: new Map([...path.times].map(([id, t]) => [id, t.earliestStart])),
    mean,
    variance,
    ...(promised !== undefined && { chance: chanceWithin(promised, mean, variance) }),
  };
}

/** How long something takes, and how often it comes out at its end: what ends the request on the way goes on no further. */
interface Moments {
  mean: number;
  variance: number;
  on: number;
}
const nothing: Moments = { mean: 0, variance: 0, on: 1 };

/** One after the other: the second only where the first comes out (steps are taken as independent). */
function then(a: Moments, b: Moments): Moments {
  const through = { mean: a.mean + b.mean, variance: a.variance + b.variance, on: b.on };
  return mixture([
    { ...through, share: a.on },
    { ...a, on: 0, share: 1 - a.on },
  ]);
}

type PartSteps = ReturnType<typeof partSteps>;
const expectedBlock = (steps: Block, part: PartSteps, depth: number): Moments =>
  steps.reduce((so, step) => then(so, expectedStep(step, part, depth)), nothing);

function expectedStep(step: Step, part: PartSteps, depth: number): Moments {
  const flow = flowOf(step);
  const own: Moments = { mean: minutesOfStep(step), variance: ownVariance(step), on: flow.is === 'ends' ? 0 : 1 };
  if (flow.is === 'inside') return then(own, waysOn(step, part, depth).map((b) => expectedBlock(b, part, depth + 1))[0] ?? nothing);
  const ways = onward(step).map((w) => ({ share: w.share, ...expectedBlock(w.block, part, depth) }));
  if (ways.length === 0) return own;
  if (ways.some((w) => w.share !== undefined)) return then(own, mixture(ways.map((w) => ({ ...w, share: w.share ?? 0 }))));
  const through = ways.filter((w) => w.on > 0);
  // Branches of which one ends the request: what follows waits for the others alone.
  const waited = through.length > 0 ? through : ways;
  const byMean = waited.toSorted((a, b) => a.mean - b.mean);
  const first = flow.is === 'beside' && flow.join === 'first';
  const { mean, variance, on } = first ? byMean[0]! : byMean.at(-1)!;
  return then(own, { mean, variance, on });
}

/** Mean and variance of one of several ways taken by chance (law of total variance). */
function mixture(ways: (Moments & { share: number })[]): Moments {
  const total = ways.reduce((sum, w) => sum + w.share, 0) || 1;
  const over = (f: (w: Moments) => number) => ways.reduce((sum, w) => sum + (w.share / total) * f(w), 0);
  const mean = over((w) => w.mean);
  return { mean, variance: over((w) => w.variance + (w.mean - mean) ** 2), on: over((w) => w.on) };
}
