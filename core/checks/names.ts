import { freeName, walk } from '../plans/index.ts';
import { warn, type Finding } from '../steps/index.ts';
import type { Checked } from './family.ts';

/** Names that are given twice. */
export function names({ plan }: Checked): Finding[] {
  const found: Finding[] = [];
  const all = new Set([...walk(plan.steps)].map((w) => w.step.name));
  const seen = new Set<string>();
  for (const { step } of walk(plan.steps)) {
    const key = step.name.trim().toLowerCase();
    if (seen.has(key)) {
      const name = freeName(step.name, all);
      found.push(
        warn(step, {
          code: 'name-twice',
          sentence: `Two steps are called “${step.name}”.`,
          mend: 'Rename one, so that traces and messages tell them apart.',
          fix: { words: `Call it “${name}”`, edit: { replace: { ...step, name } } },
        }),
      );
    }
    seen.add(key);
  }
  return found;
}
