import { sentence } from '../values/index.ts';
import { branches } from './blocks.ts';
import { actionOf, partOf, type Catalogue } from './catalogue.ts';
import { newStep } from './edit.ts';
import { warn, type Finding } from './finding.ts';
import type { Block, Plan, Step, StepOf } from './plan.ts';

/**
 * Paths that end without telling the requester. A decline or lapse without a block of its own tells them by itself.
 * Told-ness is a set of two possibilities at each point: some path has told, some path has not.
 */
export function untold(plan: Plan): Finding[] {
  const found: Finding[] = [];
  type Told = { yes: boolean; no: boolean };
  const none: Told = { yes: false, no: false };
  const merge = (a: Told, b: Told): Told => ({ yes: a.yes || b.yes, no: a.no || b.no });

  const run = (block: Block, before: Told): Told => block.reduce((told, step) => after(step, told), before);
  function after(step: Step, told: Told): Told {
    switch (step.kind) {
      case 'tell':
        return step.to?.ref === 'request.requester' ? { yes: told.yes || told.no, no: false } : told;
      case 'finish':
        if (told.no)
          found.push(
            warn(step, {
              ...untoldWords(`end at “${step.name}”`),
              mend: 'Put a Tell to the requester before it.',
              fix: tellFix(plan, { before: step.id }),
            }),
          );
        return none;
      case 'gate': {
        const ways = [run(step.approved ?? [], told), ...[step.declined, step.lapsed].flatMap((b) => (b ? [run(b, told)] : []))];
        return ways.reduce(merge);
      }
      case 'choose':
        return [...branches(step).map((b) => run(b.block, told)), ...(step.otherwise ? [] : [told])].reduce(merge, none);
      case 'together': {
        const outs = step.branches.map((b) => run(b.block, told));
        if (outs.length === 0) return told;
        // With all branches joined it is enough that one of them tells.
        return step.join === 'all' && outs.some((o) => o.yes && !o.no) ? { yes: true, no: false } : outs.reduce(merge, none);
      }
      case 'forEach':
        return merge(told, run(step.body, told));
      case 'repeat':
        return run(step.body, told);
      case 'guard':
        return [run(step.body, told), run(step.remedy, told), ...(step.late ? [run(step.late, told)] : [])].reduce(merge, none);
      default:
        return told;
    }
  }
  const end = run(plan.steps, { yes: false, no: true });
  const last = plan.steps.at(-1);
  if (end.no && last)
    found.push(
      warn(last, {
        ...untoldWords('reach the end of the plan'),
        mend: 'Put a Tell to the requester before the end.',
        fix: tellFix(plan, { after: last.id }),
      }),
    );
  return found;
}
const untoldWords = (how: string) => ({ code: 'untold' as const, sentence: `A request can ${how} without its requester having been told.` });
const tellFix = (plan: Plan, at: { before: string } | { after: string }): NonNullable<Finding['fix']> => {
  const tell = newStep(plan, 'tell') as StepOf<'tell'>;
  const insert: Step = {
    ...tell,
    subject: [[{ text: 'Your request ' }, { ref: 'request.number' }]],
    body: [{ text: sentence('Your request has been dealt with.') }],
  };
  return { words: 'Put a Tell there', edit: { insert, at } };
};

/**
 * Paths on which somebody is given access or equipment and no gate has passed before. What a part gives is told at the
 * step that uses it.
 */
export function ungated(plan: Plan, catalogue: Catalogue): Finding[] {
  const found = new Map<Step, Finding>();
  /** Whether, on some path to here, no gate has let the request pass; `shown`: the step of the plan itself that stands for what is inside a part. */
  const run = (block: Block, bare: boolean, shown: Step | undefined, depth: number): boolean =>
    block.reduce((b, step) => after(step, b, shown, depth), bare);
  function after(step: Step, bare: boolean, shown: Step | undefined, depth: number): boolean {
    const within = (b: Block, from = bare) => run(b, from, shown, depth);
    switch (step.kind) {
      case 'provision': {
        const action = actionOf(catalogue, step.action);
        if (bare && action?.grants) {
          const at = shown ?? step;
          if (!found.has(at))
            found.set(
              at,
              warn(at, {
                code: 'ungated',
                sentence: `“${at.name}” gives somebody something (${action.label.toLowerCase()}) on a way on which nobody has agreed before.`,
                mend: 'Put a gate before it, or leave it so if nobody need agree.',
              }),
            );
        }
        return bare;
      }
      case 'gate':
        return [
          within(step.approved ?? [], false),
          ...(step.declined ? [within(step.declined)] : []),
          ...(step.lapsed ? [within(step.lapsed)] : []),
        ].includes(true);
      case 'choose':
        return [...branches(step).map((b) => within(b.block)), ...(step.otherwise ? [] : [bare])].includes(true);
      case 'together': {
        const outs = step.branches.map((b) => within(b.block));
        return step.join === 'all' ? outs.every(Boolean) && bare : outs.includes(true);
      }
      case 'forEach':
        return within(step.body) || bare;
      case 'repeat':
        return within(step.body);
      case 'guard':
        // The body may fail at its first step.
        return [within(step.body), within(step.remedy), ...(step.late ? [within(step.late)] : [])].includes(true);
      case 'finish':
        return false;
      case 'part': {
        const part = partOf(catalogue, step.part);
        return part && depth < 8 ? run(part.steps, bare, shown ?? step, depth + 1) : bare;
      }
      default:
        return bare;
    }
  }
  run(plan.steps, true, undefined, 0);
  return [...found.values()];
}
