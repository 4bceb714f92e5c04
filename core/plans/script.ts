import type { Naming } from '../conditions/index.ts';
import { branches } from './blocks.ts';
import { kindWords, type Block, type Catalogue, type Step } from '../steps/index.ts';
import type { Plan } from './plan.ts';
import { branchWords, stepSentence } from './words.ts';

/** A line of the script: a step with its number and sentence, or the head of a branch. */
export type ScriptLine = { depth: number } & (
  { step: Step; number: string; sentence: string } | { head: string; of: string; branch: string; empty: boolean }
);

/** a to z, then aa, ab and so on. */
const letters = (n: number): string => (n < 26 ? '' : letters(Math.floor(n / 26) - 1)) + String.fromCharCode(97 + (n % 26));

/** The plan written out: numbered sentences, the branches indented under the step that holds them. */
export function scriptOf(plan: Plan, naming: Naming, catalogue: Catalogue): ScriptLine[] {
  const lines: ScriptLine[] = [];
  const write = (block: Block, prefix: string, depth: number) => {
    block.forEach((step, i) => {
      const number = `${prefix}${i + 1}`;
      lines.push({ depth, step, number, sentence: stepSentence(step, naming, catalogue) });
      const ways = branches(step);
      ways.forEach((b, at) => {
        lines.push({ depth: depth + 1, head: branchWords(step, b.id, naming), of: step.id, branch: b.id, empty: b.block.length === 0 });
        write(b.block, `${number}${ways.length > 1 ? letters(at) : ''}.`, depth + 1);
      });
    });
  };
  write(plan.steps, '', 0);
  return lines;
}

/** The script as plain text, for the clipboard and for files. */
export const scriptText = (lines: ScriptLine[]): string =>
  lines
    .map(
      (l) =>
        `${'   '.repeat(l.depth)}${'step' in l ? `${l.number}  ${kindWords[l.step.kind].verb}: ${l.step.name}. ${l.sentence}` : `${l.head}:${l.empty ? ' go on.' : ''}`}`,
    )
    .join('\n');
