import { kindWords, type Branch, type Flow, type Step } from '../steps/index.ts';
import { branches, flowOf, walk } from './blocks.ts';
import type { SheetFacts } from './facts.ts';
import type { Plan } from './plan.ts';

/** How a block hangs on the step that holds it: one way or another, side by side, or again and again. */
export type Guide = 'single' | 'double' | 'bracket';

interface Common {
  /** Of the line: the step's id, or that of the step and the branch with a slash between. */
  id: string;
  /** `2`, `3a`, `3a.1`: where it stands in the plan. */
  number: string;
  /** The blocks around it, from outside in. */
  guides: Guide[];
  /** The line it hangs on. */
  parent?: string;
  /** How deep it hangs; 1 for the steps of the plan itself. */
  level: number;
  /** Steps within it, blocks within blocks counted. */
  holds: number;
}
/** A step. */
export interface StepLine extends Common {
  is: 'step';
  step: Step;
}
/** The head of a branch: its case in words. */
export interface BranchLine extends Common {
  is: 'branch';
  of: string;
  branch: string;
  /** It leads away from what was asked for. */
  aside: boolean;
}
/** A line of the plan sheet. */
export type Line = StepLine | BranchLine;

/** The id of a branch's line. No step has a slash in its id. */
export const branchLine = (step: string, branch: string): string => `${step}/${branch}`;

/** a to z, then aa, ab and so on. */
const letters = (n: number): string => (n < 26 ? '' : letters(Math.floor(n / 26) - 1)) + String.fromCharCode(97 + (n % 26));

const guideOf = (flow: Flow): Guide => (flow.is === 'beside' ? 'double' : flow.is === 'rounds' ? 'bracket' : 'single');

/** The only way of a step that goes on from it, which needs no head: what is tried, or done again. */
const bodyOf = (flow: Flow): string | undefined => (flow.is === 'tried' || flow.is === 'rounds' ? flow.body.id : undefined);

function asideOf(flow: Flow): Set<string> {
  const ways = flow.is === 'one' || flow.is === 'closing' ? flow.ways : flow.is === 'tried' ? flow.instead : [];
  return new Set(ways.filter((w) => w.aside).map((w) => w.id));
}

const count = (branch: Branch): number => [...walk(branch.block)].length;

/** The plan written downwards, a line a step, the branches indented under the step that holds them. */
export function outlineOf(plan: Plan): Line[] {
  const lines: Line[] = [];
  function write(block: Step[], prefix: string, guides: Guide[], parent: string | undefined, level: number): void {
    block.forEach((step, i) => {
      const number = `${prefix}${i + 1}`;
      const ways = branches(step);
      const holds = ways.reduce((sum, b) => sum + count(b), 0);
      lines.push({ is: 'step', id: step.id, step, number, guides, level, holds, ...(parent !== undefined && { parent }) });
      const flow = flowOf(step);
      const body = bodyOf(flow);
      const aside = asideOf(flow);
      const inside = [...guides, guideOf(flow)];
      let headed = 0;
      for (const b of ways) {
        if (b.id === body && b.block.length > 0) {
          write(b.block, `${number}.`, inside, step.id, level + 1);
          continue;
        }
        // What is done instead of the body stands at the end of the alphabet.
        const own = b.id === body ? number : `${number}${letters((body === undefined ? 0 : 23) + headed++)}`;
        const id = branchLine(step.id, b.id);
        const head = { number: own, guides: inside, parent: step.id, level: level + 1, holds: count(b) };
        lines.push({ is: 'branch', id, of: step.id, branch: b.id, aside: aside.has(b.id), ...head });
        write(b.block, `${own}.`, inside, id, level + 2);
      }
    });
  }
  write(plan.steps, '', [], undefined, 1);
  return lines;
}

/** The lines that are seen while those named are folded. */
export function unfolded(lines: Line[], folded: ReadonlySet<string>): Line[] {
  const hidden = new Set<string>();
  return lines.filter((l) => {
    const out = l.parent !== undefined && (hidden.has(l.parent) || folded.has(l.parent));
    if (out) hidden.add(l.id);
    return !out;
  });
}

/** The lines a line hangs on, from the nearest outwards. */
export function above(lines: Line[], id: string): string[] {
  const parents = new Map(lines.map((l) => [l.id, l.parent]));
  const found: string[] = [];
  for (let at = parents.get(id); at !== undefined; at = parents.get(at)) found.push(at);
  return found;
}

/** The plan as numbered sentences in plain text, for the clipboard and for files. */
export const scriptText = (lines: Line[], facts: SheetFacts): string =>
  lines
    .map((l) => {
      const words =
        l.is === 'step'
          ? `${kindWords[l.step.kind].verb}: ${l.step.name}. ${facts.steps.get(l.id)?.sentence ?? ''}`
          : `${facts.heads.get(l.id) ?? l.branch}:${l.holds === 0 ? ' go on.' : ''}`;
      return `${'   '.repeat(l.guides.length)}${l.number}  ${words}`;
    })
    .join('\n');
