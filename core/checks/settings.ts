import { walk } from '../plans/index.ts';
import { roomOf, type Finding } from '../steps/index.ts';
import type { Checked } from './family.ts';

/** What is missing or wrong in the settings of each step by itself. */
export const settings = ({ plan, anywhere, catalogue }: Checked): Finding[] =>
  [...walk(plan.steps)].flatMap(({ step }) => roomOf(step).lacks?.(step, anywhere, catalogue) ?? []);
