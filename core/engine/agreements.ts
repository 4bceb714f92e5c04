import { own } from '../boundary/index.ts';
import { compile, conditionReferences } from '../conditions/index.ts';
import type { Answers } from '../forms/index.ts';
import { outOfBlock, partSteps, walk, type Block, type Choose, type Gate, type Plan, type Step, type StepOf } from '../plans/index.ts';
import { isReference, type Value } from '../values/index.ts';
import type { Wanted } from './effect.ts';
import { approversWanted } from './gate.ts';

/** A gate that the present answers will raise. */
export interface Agreement {
  gate: Gate;
  /** False: whether it is raised depends on something that is known only later. */
  certain: boolean;
  /** Whom it looks up; undefined when that is known only later. `nobody`: what it reads leads to nobody. */
  wanted: Wanted | 'nobody' | undefined;
}

/** More rows of a list than this are not looked at one by one. */
const mostRows = 20;

/** How a block or step is left, when all who are asked agree. */
interface Left {
  /** Whether what stands after it is reached. */
  on: 'sure' | 'maybe' | 'no';
  /** Inside a guard: whether it may be left before its end, by a failure or because its time is up. */
  breaks: boolean;
}
interface Here {
  certain: boolean;
  /** The innermost guard around it has a deadline; undefined: there is none around it. */
  guard?: { deadline: boolean } | undefined;
  row?: Value | undefined;
  part?: Record<string, Value | undefined> | undefined;
}

/**
 * The gates a request with these answers would meet while all agree, in order. Whom they ask, they look up as the run
 * will. A choice that reads only what is known now is decided; of the others every case is looked into, and its gates are
 * not certain. What follows a certain end is not raised.
 */
export function agreements(plan: Plan, answers: Answers, requester: string): Agreement[] {
  const found: Agreement[] = [];
  const part = partSteps(plan);
  /** From here on approvers may correct the answers, or the form may come back. */
  let loose = false;
  let depth = 0;

  const isKnown = (ref: string, here: Here, settled: boolean): boolean =>
    ref === 'request.requester' ||
    (ref.startsWith('form.') && !(settled && loose)) ||
    (ref === 'row.value' && here.row !== undefined) ||
    (ref.startsWith('part.') && here.part !== undefined && own(here.part, ref.slice(5)) !== undefined);
  const read =
    (here: Here) =>
    (ref: string): Value | undefined => {
      if (ref === 'request.requester') return { person: requester };
      if (ref.startsWith('form.')) return own(answers, ref.slice(5));
      if (ref === 'row.value') return here.row;
      return ref.startsWith('part.') ? own(here.part, ref.slice(5)) : undefined;
    };
  /** The case taken, where it is decided by what is known now. */
  const taken =
    (here: Here) =>
    (step: Choose): string | undefined => {
      for (const c of step.cases) {
        if (!c.when) continue;
        if (!conditionReferences(c.when).every((ref) => isKnown(ref, here, true))) return undefined;
        if (compile(c.when)(read(here))) return c.id;
      }
      return 'otherwise';
    };

  /** The cases that can be taken, where it is not decided yet: none that does not hold, and none behind one that does. */
  function possible(step: Choose, here: Here): string[] {
    const ids: string[] = [];
    for (const c of step.cases) {
      if (!c.when) continue;
      const known = conditionReferences(c.when).every((ref) => isKnown(ref, here, true));
      const holds = known && compile(c.when)(read(here));
      if (known && !holds) continue;
      ids.push(c.id);
      if (holds) return ids;
    }
    return [...ids, 'otherwise'];
  }

  function visit(block: Block, here: Here): Left {
    let certain = here.certain;
    const left: Left = { on: 'sure', breaks: false };
    for (const step of block) {
      const one = enter(step, { ...here, certain });
      if (one.on === 'no') return { ...one, breaks: left.breaks || one.breaks };
      if (one.on === 'maybe') left.on = 'maybe';
      left.breaks ||= one.breaks;
      if (one.on === 'maybe' || (here.guard && one.breaks)) certain = false;
    }
    return left;
  }

  /** Of several ways one is taken. */
  const eitherOf = (ways: Left[]): Left => ({
    on: ways.every((w) => w.on === 'no') ? 'no' : ways.every((w) => w.on === 'sure') ? 'sure' : 'maybe',
    breaks: ways.some((w) => w.breaks),
  });

  function enter(step: Step, here: Here): Left {
    // Whatever waits may be cut by the deadline of a guard around it; whatever acts may fail in it.
    const fragile: Left = { on: 'sure', breaks: true };
    switch (step.kind) {
      case 'finish':
        return { on: 'no', breaks: false };
      case 'mark':
        return { on: 'sure', breaks: false };
      case 'tell':
        return step.to?.ref === 'request.requester' ? { on: 'sure', breaks: false } : fragile;
      case 'gate':
        return gate(step, here);
      case 'choose': {
        const id = taken(here)(step);
        const block = (c: string) => (c === 'otherwise' ? (step.otherwise ?? []) : step.cases.find((x) => x.id === c)!.block);
        if (id !== undefined) return visit(block(id), here);
        return eitherOf(possible(step, here).map((c) => visit(block(c), { ...here, certain: false })));
      }
      case 'together':
        return together(step, here);
      case 'forEach':
        return forEach(step, here);
      case 'repeat': {
        if (reopens(step.body)) loose = true;
        const body = visit(step.body, here);
        return { on: body.on, breaks: true };
      }
      case 'guard': {
        const body = visit(step.body, { ...here, guard: { deadline: step.deadline !== undefined } });
        if (!body.breaks) return body;
        const others = [step.remedy, ...(step.late ? [step.late] : [])].map((b) => visit(b, { ...here, certain: false }));
        return eitherOf([{ ...body, breaks: false }, ...others]);
      }
      case 'part': {
        const inside = step.part === undefined || depth >= 8 ? undefined : part(step.part);
        if (!inside) return fragile;
        const inputs = Object.entries(step.inputs).map(([name, o]): [string, Value | undefined] => [
          name,
          isReference(o) ? (isKnown(o.ref, here, false) ? (read(here)(o.ref) ?? null) : undefined) : o.literal,
        ]);
        depth++;
        const left = visit(inside, { certain: here.certain, guard: here.guard, part: Object.fromEntries(inputs) });
        depth--;
        return left;
      }
      default:
        return fragile;
    }
  }

  function gate(step: Gate, here: Here): Left {
    const refs = step.approvers ? approverReferences(step.approvers) : [];
    const known = refs.every((ref) => isKnown(ref, here, false));
    found.push({
      gate: step,
      certain: here.certain,
      wanted: known ? ((step.approvers && approversWanted(step.approvers, read(here))) ?? 'nobody') : undefined,
    });
    if ((step.corrects?.length ?? 0) > 0 || step.sendBack) loose = true;
    const approved = visit(step.approved ?? [], here.guard ? { ...here, certain: false } : here);
    return { on: approved.on, breaks: true };
  }

  function together(step: StepOf<'together'>, here: Here): Left {
    if (step.branches.some((b) => reopens(b.block))) loose = true;
    const outs = step.branches.map((b) => outOfBlock(b.block, { granted: true, taken: taken(here), part }));
    const lefts = step.branches.map((b, i) =>
      visit(b.block, { ...here, certain: here.certain && step.join === 'all' && outs.every((o, j) => j === i || o.must) }),
    );
    const breaks = lefts.some((l) => l.breaks);
    if (step.join === 'first') return { ...eitherOf(lefts), breaks };
    // One that ends the request ends it for all.
    return { on: lefts.some((l) => l.on === 'no') ? 'no' : lefts.every((l) => l.on === 'sure') ? 'sure' : 'maybe', breaks };
  }

  function forEach(step: StepOf<'forEach'>, here: Here): Left {
    if (reopens(step.body)) loose = true;
    const known = step.list !== undefined && isKnown(step.list.ref, here, true);
    const list = known ? read(here)(step.list!.ref) : undefined;
    const rows = !known ? [undefined] : Array.isArray(list) ? list : list === undefined || list === null || list === '' ? [] : [list];
    let certain = here.certain && known;
    const left: Left = { on: 'sure', breaks: !known };
    for (const row of rows.slice(0, mostRows)) {
      const one = visit(step.body, { ...here, certain, row });
      left.breaks ||= one.breaks;
      if (one.on !== 'sure' || (here.guard && one.breaks)) certain = false;
      if (one.on === 'no' && known) return { on: 'no', breaks: left.breaks };
      if (one.on !== 'sure') left.on = 'maybe';
    }
    return left;
  }

  visit(plan.steps, { certain: true });
  return found;
}

const reopens = (block: Block): boolean =>
  [...walk(block)].some(({ step }) => step.kind === 'gate' && ((step.corrects?.length ?? 0) > 0 || step.sendBack === true));

/** What a gate reads to know whom to ask. */
function approverReferences(a: NonNullable<Gate['approvers']>): string[] {
  switch (a.from) {
    case 'people':
    case 'team':
      return [];
    case 'ownersOf':
      return [a.group.ref];
    case 'policy':
      return Object.values(a.inputs).flatMap((o) => (isReference(o) ? [o.ref] : []));
    case 'chain':
      return [a.person.ref, ...(a.amount ? [a.amount.ref] : [])];
    default:
      return [a.person.ref];
  }
}
