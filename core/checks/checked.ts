import { conditionReferences, type Known } from '../conditions/index.ts';
import { branches, flowOf, referencesOf, reopens, certainUnder, analyseAssignment, type Plan } from '../plans/index.ts';
import { namingOf, type Block, type Catalogue, type Places, type Step, type Way } from '../steps/index.ts';
import { conditionsOf } from './conditions.ts';
import type { Checked } from './family.ts';

/** Walks a plan once, for all families of findings. */
export function walked(plan: Plan, start: Places, catalogue: Catalogue): Checked {
  const doubtful: Checked['doubtful'] = [];
  const tested: Checked['tested'] = [];
  const given = givenConditions(plan);
  const { anywhere } = analyseAssignment(plan.steps, start, catalogue, (step, here, when) => {
    // What a repeat reads, it reads when its body is over.
    if (testsAfterRound(step) !== (when === 'test')) return;
    const seen = new Set<string>();
    for (const read of referencesOf(step, catalogue)) {
      const place = here.get(read.ref);
      const certain = place?.always || (read.under !== undefined && certainUnder(here, read.under).includes(read.ref));
      if (place && !place.secret && (!read.needed || certain)) continue;
      if (seen.has(read.ref + read.setting)) continue;
      seen.add(read.ref + read.setting);
      doubtful.push({ step, read, place });
    }
    const conditions = conditionsOf(step);
    if (conditions.length === 0) return;
    const known = given.get(step.id) ?? [];
    const refs = new Set([...conditions.map((c) => c.when), ...known.map((k) => k.when)].flatMap(conditionReferences));
    // Only what the conditions read is kept for later: copying all places for every step would cost.
    const kept = new Map([...refs].flatMap((ref) => (here.has(ref) ? [[ref, here.get(ref)!] as const] : [])));
    tested.push({ step, here: kept });
  });
  return { plan, catalogue, anywhere, naming: namingOf(anywhere, catalogue), doubtful, tested, given };
}

/** What a step tests, it tests when a round of its body is over. */
const testsAfterRound = (step: Step): boolean => {
  const flow = flowOf(step);
  return flow.is === 'rounds' && flow.rows === undefined;
};

/** For each step the conditions that hold wherever it is reached: the case it stands in, and none of those above it. */
function givenConditions(plan: Plan): Map<string, Known[]> {
  const all = new Map<string, Known[]>();
  // Where approvers may correct answers, what held at the choice need not hold later.
  if (reopens(plan.steps)) return all;
  const visit = (block: Block, given: Known[]) => {
    for (const step of block) {
      if (given.length) all.set(step.id, given);
      const flow = flowOf(step);
      const ways = flow.is === 'one' ? flow.ways : branches(step);
      const above: Known[] = [];
      for (const way of ways) {
        const when = (way as Way).when;
        visit(way.block, [...given, ...above, ...(when ? [{ when, holds: true }] : [])]);
        if (when) above.push({ when, holds: false });
      }
    }
  };
  visit(plan.steps, []);
  return all;
}
