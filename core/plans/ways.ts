import { own } from '../boundary/index.ts';
import { partOf, type Block, type Catalogue, type Step, type Way } from '../steps/index.ts';
import { flowOf } from './blocks.ts';
import type { Plan } from './plan.ts';

/** Whether the end of a block is reached: on some way through it, and on every way. */
export interface Out {
  may: boolean;
  must: boolean;
}

/** What is taken as known when ways are looked at. */
export interface Assumptions {
  /** A gate lets pass: only the way that is agreed to, and what its own blocks lead to, is looked at. */
  granted?: boolean;
  /** The way that is taken, where it is known already. */
  taken?: (step: Step, ways: Way[]) => Way | undefined;
  /** The steps of a part. */
  part?: (id: string) => Block | undefined;
}

const passes: Out = { may: true, must: true };
const ends: Out = { may: false, must: false };
const any = (outs: Out[]): Out => (outs.length === 0 ? passes : { may: outs.some((o) => o.may), must: outs.every((o) => o.must) });
const each = (outs: Out[]): Out => ({ may: outs.every((o) => o.may), must: outs.every((o) => o.must) });
/** Parts within parts deeper than this would contain themselves. */
export const deepestPart = 8;

/** The ways that can be taken as things are set. */
export const openWays = (ways: Way[]): Way[] => ways.filter((w) => !w.never);

/** Where a block leads: the one answer that findings about paths, timing and agreements read. */
export const outOfBlock = (block: Block, asked: Assumptions = {}, depth = 0): Out => each(block.map((step) => outOfStep(step, asked, depth)));

/** The same for one step. */
export function outOfStep(step: Step, asked: Assumptions = {}, depth = 0): Out {
  const of = (block: Block) => outOfBlock(block, asked, depth);
  const flow = flowOf(step);
  switch (flow.is) {
    case 'on':
    case 'closing':
      return passes;
    case 'ends':
      return ends;
    case 'one': {
      const agreed = asked.granted ? flow.ways.find((w) => w.agreed) : undefined;
      const taken = agreed ?? asked.taken?.(step, flow.ways);
      return any((taken ? [taken] : openWays(flow.ways)).map((w) => (w.ends ? ends : of(w.block))));
    }
    case 'tried':
      return any([flow.body, ...flow.instead].map((w) => of(w.block)));
    case 'beside': {
      const outs = flow.ways.map((w) => of(w.block));
      // A branch that ends the request ends it for all; of several the first that comes out is enough.
      return flow.join === 'all' ? each(outs) : { may: outs.some((o) => o.may), must: outs.every((o) => o.must) };
    }
    case 'rounds': {
      const body = of(flow.body.block);
      return flow.least === 0 ? { may: true, must: body.must } : body;
    }
    case 'inside': {
      const inside = depth < deepestPart && flow.part !== undefined ? asked.part?.(flow.part) : undefined;
      return inside ? outOfBlock(inside, asked, depth + 1) : passes;
    }
  }
}

/** The steps of a part: as frozen with the plan, else as the catalogue has it. */
export const partSteps =
  (plan: Plan, catalogue?: Catalogue) =>
  (id: string): Block | undefined =>
    own(plan.parts, id)?.steps ?? (catalogue && partOf(catalogue, id))?.steps;

/** What is followed along the ways of a block, and how several ways come together. */
export interface Followed<F> {
  /** What a step makes of it. `shown`: the step of the plan itself that stands for what is inside a part. */
  at: (step: Step, fact: F, shown: Step) => F;
  /** What comes out where nothing does. */
  nothing: F;
  /** One of several ways was taken. */
  either: (a: F, b: F) => F;
  /** All of several ways were taken. */
  all: (outs: F[]) => F;
  /** A gate has let the request pass. */
  agreed?: (fact: F) => F;
  /** The steps of a part; without it parts are passed by. */
  part?: (id: string) => Block | undefined;
}

/** Follows a fact through a block over every way it can go; gives what holds at its end. */
export function follow<F>(steps: Block, from: F, by: Followed<F>): F {
  const run = (block: Block, fact: F, shown: Step | undefined, depth: number): F => block.reduce((f, step) => after(step, f, shown, depth), fact);
  function after(step: Step, before: F, shown: Step | undefined, depth: number): F {
    const fact = by.at(step, before, shown ?? step);
    const of = (w: Way) => (w.ends ? by.nothing : run(w.block, w.agreed ? (by.agreed?.(fact) ?? fact) : fact, shown, depth));
    const one = (ways: Way[]) => openWays(ways).map(of).reduce(by.either, by.nothing);
    const flow = flowOf(step);
    switch (flow.is) {
      case 'on':
        return fact;
      case 'closing':
        // It comes here from anywhere, so nothing is known; and nothing comes out.
        for (const way of flow.ways) run(way.block, from, shown, depth);
        return fact;
      case 'ends':
        return by.nothing;
      case 'one':
        return one(flow.ways);
      case 'tried':
        // The body may be left at its first step.
        return one([flow.body, ...flow.instead]);
      case 'beside': {
        if (flow.ways.length === 0) return fact;
        const outs = flow.ways.map(of);
        return flow.join === 'all' ? by.all(outs) : outs.reduce(by.either, by.nothing);
      }
      case 'rounds':
        return flow.least === 0 ? by.either(fact, of(flow.body)) : of(flow.body);
      case 'inside': {
        const inside = depth < deepestPart && flow.part !== undefined ? by.part?.(flow.part) : undefined;
        return inside ? run(inside, fact, shown ?? step, depth + 1) : fact;
      }
    }
  }
  return run(steps, from, undefined, 0);
}

/** The part whose steps a step goes through. */
export const partUsed = (step: Step): string | undefined => {
  const flow = flowOf(step);
  return flow.is === 'inside' ? flow.part : undefined;
};
