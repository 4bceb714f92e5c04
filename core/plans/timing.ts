import { meanMinutes, varianceMinutes, workingMinutes } from '../calendar/index.ts';
import { branches } from './blocks.ts';
import { chanceWithin, criticalPath, type NetworkActivity } from './network.ts';
import type { Block, Plan, Step } from './plan.ts';

/** Expected working minutes of a step alone, without the blocks it holds. */
export const ownMinutes = (step: Step): number => {
  if (step.kind === 'pause' && step.until && 'span' in step.until && step.until.span.counted === 'working')
    return workingMinutes(step.until.span.length);
  return meanMinutes(step.expected);
};
const ownVariance = (step: Step): number => (step.kind === 'pause' && step.until && 'span' in step.until ? 0 : varianceMinutes(step.expected));

export interface TimeAnalysis {
  /** Working minutes of the longest way through. */
  longest: number;
  /** The steps on it, and for every step how much longer it could take without making the whole longer. */
  critical: Set<string>;
  slack: Map<string, number>;
  /** Expected working minutes, each choice weighed by how often its cases are taken. */
  mean: number;
  variance: number;
  /** Chance to be over within the promised time, by the normal approximation; where a time is promised. */
  chance?: number;
}

/** The ways of a step that lead on to what was asked for: a decline or lapse leads away from it, a remedy is the exception. */
const onward = (step: Step) => branches(step).filter((b) => !['declined', 'lapsed', 'remedy', 'late'].includes(b.id));

/**
 * The plan as a network of activities: steps of a block one after another, branches side by side. The cases of a
 * choice stand side by side too, so that its longest way counts. A for-each and a repeat count one round.
 */
export function networkOf(plan: Plan): NetworkActivity[] {
  const activities: NetworkActivity[] = [];
  /** Gives the activities that have to be over before what follows the block can begin. */
  function block(steps: Block, before: string[]): string[] {
    return steps.reduce((after, step) => {
      activities.push({ id: step.id, mean: ownMinutes(step), variance: ownVariance(step), after });
      const ways = onward(step);
      if (ways.length === 0) return [step.id];
      const ends = ways.flatMap((b) => block(b.block, [step.id]));
      return [...new Set(ends)];
    }, before);
  }
  block(plan.steps, []);
  return activities;
}

/** Lengths, critical path and slack of a plan; `promised` in working minutes. */
export function analyseTime(plan: Plan, promised?: number): TimeAnalysis {
  const path = criticalPath(networkOf(plan));
  const { mean, variance } = expectedBlock(plan.steps);
  return {
    longest: path.length,
    critical: new Set(path.path),
    slack: new Map([...path.times].map(([id, t]) => [id, t.slack])),
    mean,
    variance,
    ...(promised !== undefined && { chance: chanceWithin(promised, mean, variance) }),
  };
}

interface Moments {
  mean: number;
  variance: number;
}

/** Sums of means and variances along a block (steps are taken as independent). */
function expectedBlock(steps: Block): Moments {
  return steps.map(expectedStep).reduce((a, b) => ({ mean: a.mean + b.mean, variance: a.variance + b.variance }), { mean: 0, variance: 0 });
}

function expectedStep(step: Step): Moments {
  const own = { mean: ownMinutes(step), variance: ownVariance(step) };
  const plus = (m: Moments | undefined): Moments => (m ? { mean: own.mean + m.mean, variance: own.variance + m.variance } : own);
  const ways = onward(step).map((b) => ({ id: b.id, ...expectedBlock(b.block) }));
  if (step.kind === 'choose') {
    if (!step.otherwise) ways.push({ id: 'otherwise', mean: 0, variance: 0 });
    return plus(mixture(ways, sharesOf(step)));
  }
  if (step.kind === 'together' && step.join === 'first') return plus(ways.toSorted((a, b) => a.mean - b.mean)[0]);
  return plus(ways.toSorted((a, b) => b.mean - a.mean)[0]);
}

/** How often each case is taken: as stated; what is not stated shares the rest evenly. */
function sharesOf(step: Extract<Step, { kind: 'choose' }>): Map<string, number> {
  const stated = step.cases.reduce((sum, c) => sum + (c.share ?? 0), 0);
  const open = step.cases.filter((c) => c.share === undefined).length + 1;
  const rest = Math.max(0, 100 - stated) / open;
  const shares = new Map(step.cases.map((c) => [c.id, c.share ?? rest]));
  return shares.set('otherwise', rest);
}

/** Mean and variance of one of several ways taken by chance (law of total variance). */
function mixture(ways: ({ id: string } & Moments)[], shares: Map<string, number>): Moments {
  const total = ways.reduce((sum, w) => sum + (shares.get(w.id) ?? 0), 0) || 1;
  const p = (id: string) => (shares.get(id) ?? 0) / total;
  const mean = ways.reduce((sum, w) => sum + p(w.id) * w.mean, 0);
  return { mean, variance: ways.reduce((sum, w) => sum + p(w.id) * (w.variance + (w.mean - mean) ** 2), 0) };
}
