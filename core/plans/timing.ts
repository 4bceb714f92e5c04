import { meanMinutes } from '../calendar/index.ts';
import { branches, type Block, type Plan, type Step } from './plan.ts';

/** Expected working minutes of a step alone, without the blocks it holds. */
export const ownMinutes = (step: Step): number => meanMinutes(step.expected);

/** The longest expected way through a block in working minutes, and the steps on it. */
export interface LongestPath {
  minutes: number;
  steps: Set<string>;
}

/** Longest path over nested blocks: a sum along a block, the longest branch at a choice or gate. */
export function longestPath(plan: Plan): LongestPath {
  const longest = (block: Block): LongestPath => {
    const steps = new Set<string>();
    let minutes = 0;
    for (const step of block) {
      steps.add(step.id);
      minutes += ownMinutes(step);
      // A declined gate leads to the end, never on; it is not part of the way to what was asked for.
      const ways = branches(step)
        .filter((b) => b.id !== 'declined')
        .map((b) => longest(b.block));
      const way = ways.reduce<LongestPath | undefined>((a, b) => (a && a.minutes >= b.minutes ? a : b), undefined);
      if (way) {
        minutes += way.minutes;
        for (const id of way.steps) steps.add(id);
      }
    }
    return { minutes, steps };
  };
  return longest(plan.steps);
}
