import { own } from '../boundary/index.ts';
import { branches } from './blocks.ts';
import { partOf, type Catalogue } from './catalogue.ts';
import type { Block, Choose, Plan, Step } from './plan.ts';

/** Whether the end of a block is reached: on some way through it, and on every way. */
export interface Out {
  may: boolean;
  must: boolean;
}

export interface Asked {
  /** A gate lets pass: only its approved way, and what its own blocks lead to, is looked at. */
  granted?: boolean;
  /** The case that is taken, where it is known: a case's id, or `otherwise`. */
  taken?: (step: Choose) => string | undefined;
  /** The steps of a part. */
  part?: (id: string) => Block | undefined;
}

const passes: Out = { may: true, must: true };
const ends: Out = { may: false, must: false };
const any = (outs: Out[]): Out => (outs.length === 0 ? passes : { may: outs.some((o) => o.may), must: outs.every((o) => o.must) });
const each = (outs: Out[]): Out => ({ may: outs.every((o) => o.may), must: outs.every((o) => o.must) });
/** Parts within parts deeper than this would contain themselves. */
const deepest = 8;

/** Where a block leads: the one answer that paths, places, timing and agreements read. */
export const outOfBlock = (block: Block, asked: Asked = {}, depth = 0): Out => each(block.map((step) => outOfStep(step, asked, depth)));

export function outOfStep(step: Step, asked: Asked = {}, depth = 0): Out {
  const of = (block: Block) => outOfBlock(block, asked, depth);
  switch (step.kind) {
    case 'finish':
      return ends;
    case 'gate': {
      const approved = of(step.approved ?? []);
      if (asked.granted) return approved;
      // Without a block for it a declined gate ends the request, and so does one that lapses.
      const lapses = step.deadline === undefined ? [] : [step.lapsed ? of(step.lapsed) : ends];
      return any([approved, step.declined ? of(step.declined) : ends, ...lapses]);
    }
    case 'choose': {
      const taken = asked.taken?.(step);
      if (taken !== undefined) return of(step.cases.find((c) => c.id === taken)?.block ?? step.otherwise ?? []);
      return any([...branches(step).map((b) => of(b.block)), ...(step.otherwise ? [] : [passes])]);
    }
    case 'together': {
      const outs = step.branches.map((b) => of(b.block));
      // A branch that ends the request ends it for all; of several the first that comes out is enough.
      return step.join === 'all' ? each(outs) : { may: outs.some((o) => o.may), must: outs.every((o) => o.must) };
    }
    case 'forEach':
      return { may: true, must: of(step.body).must };
    case 'repeat':
      return of(step.body);
    case 'guard':
      return any([of(step.body), of(step.remedy), ...(step.late ? [of(step.late)] : [])]);
    case 'part': {
      const inside = depth < deepest && step.part !== undefined ? asked.part?.(step.part) : undefined;
      return inside ? outOfBlock(inside, asked, depth + 1) : passes;
    }
    default:
      return passes;
  }
}

/** The steps of a part: as frozen with the plan, else as the catalogue has it. */
export const partSteps =
  (plan: Plan, catalogue?: Catalogue) =>
  (id: string): Block | undefined =>
    own(plan.parts, id)?.steps ?? (catalogue && partOf(catalogue, id))?.steps;
