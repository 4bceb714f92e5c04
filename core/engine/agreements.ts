import { own } from '../boundary/index.ts';
import { compile, conditionReferences, type Condition } from '../conditions/index.ts';
import type { Answers } from '../forms/index.ts';
import { deepestPart, flowOf, openWays, outOfBlock, partSteps, reopens, type Plan } from '../plans/index.ts';
import { roomOf, type Block, type Flow, type Gate, type Step, type Wanted, type Way } from '../steps/index.ts';
import { basePlace, isReference, isRow, type Row, type Value } from '../values/index.ts';

/** A gate that the present answers will raise. */
export interface Agreement {
  gate: Gate;
  /** False: whether it is raised depends on something that is known only later. */
  certain: boolean;
  /** Whom it looks up; undefined when that is known only later. `nobody`: what it reads leads to nobody. */
  wanted: Wanted | 'nobody' | undefined;
  /** What of the present answers leads to it: the conditions of the cases on the way, outermost first. */
  because: Condition[];
}

/** Something that the present answers will have a system do. */
export interface ForeseenAct {
  action: string;
  /** False: whether it is done, or with what, depends on something that is known only later. */
  certain: boolean;
  /** With what, as far as that is known now, and where that is picked from. */
  inputs: Readonly<Record<string, Value | undefined>>;
  from: Readonly<Record<string, string>>;
}

/** More rows of a list than this are not looked at one by one. */
const mostRows = 20;

/** How a block or step is left, when all who are asked agree. */
interface Left {
  /** Whether what stands after it is reached. */
  on: 'sure' | 'maybe' | 'no';
  /** Whether something in it may fail: the innermost guard around it takes that. */
  fails: boolean;
  /** Whether it may be under way for a time, so that the deadline of any guard around it may cut it. */
  waits: boolean;
}
interface Here {
  certain: boolean;
  because: readonly Condition[];
  /** Whether any guard around it has a deadline; undefined: there is no guard. */
  guard?: { deadline: boolean } | undefined;
  row?: Value | undefined;
  part?: Record<string, Value | undefined> | undefined;
}

/**
 * The gates a request with these answers would meet while all agree, in order. Whom they ask, they look up as the run
 * will. A choice that reads only what is known now is decided; of the others every case is looked into, and its gates are
 * not certain. What follows a certain end is not raised, nor what a closing does. `cells` gives what stands in the columns of a table row now; undefined
 * where there is no such row. `open`: fields that still want an answer; what reads one is known only when it has that. `forWhom`: where it is asked for somebody else.
 */
export const agreements = (...of: Parameters<typeof foreseenIn>): Agreement[] => foreseenIn(...of).agreements;

/** The same with what systems are asked to do on the way, in order. */
export function foreseenIn(
  plan: Plan,
  answers: Answers,
  requester: string,
  cells: (row: Row) => Readonly<Record<string, Value>> | undefined,
  open: ReadonlySet<string> = new Set(),
  forWhom = requester,
): { agreements: Agreement[]; acts: ForeseenAct[] } {
  const found: Agreement[] = [];
  const acts: ForeseenAct[] = [];
  const part = partSteps(plan);
  /** From here on approvers may correct the answers, or the form may come back. */
  let loose = false;
  let depth = 0;

  const isKnown = (whole: string, here: Here, settled: boolean): boolean => {
    const ref = basePlace(whole);
    return (
      ref === 'request.requester' ||
      ref === 'request.for' ||
      (ref.startsWith('form.') && !open.has(ref.slice(5)) && !(settled && loose)) ||
      (ref === 'row.value' && here.row !== undefined) ||
      (ref.startsWith('part.') && here.part !== undefined && own(here.part, ref.slice(5)) !== undefined)
    );
  };
  const read =
    (here: Here) =>
    (ref: string): Value | undefined => {
      const base = basePlace(ref);
      if (base !== ref) {
        const row = read(here)(base);
        return isRow(row) ? own(cells(row), ref.slice(base.length + 1)) : undefined;
      }
      if (ref === 'request.requester') return { person: requester };
      if (ref === 'request.for') return { person: forWhom };
      if (ref.startsWith('form.')) return own(answers, ref.slice(5));
      if (ref === 'row.value') return here.row;
      return ref.startsWith('part.') ? own(here.part, ref.slice(5)) : undefined;
    };
  const isDecidable = (way: Way, here: Here): boolean => conditionReferences(way.when!).every((ref) => isKnown(ref, here, true));
  /** The ways that can be taken: none whose condition is known not to hold, and none behind one that is known to. */
  function possible(ways: Way[], here: Here): { ways: Way[]; decided: boolean } {
    const can: Way[] = [];
    let decided = true;
    for (const way of openWays(ways)) {
      if (way.when && !isDecidable(way, here)) decided = false;
      else if (way.when && !compile(way.when)(read(here))) continue;
      else {
        can.push(way);
        break;
      }
      can.push(way);
    }
    return { ways: can, decided };
  }

  function visit(block: Block, here: Here): Left {
    let certain = here.certain;
    const left: Left = { on: 'sure', fails: false, waits: false };
    for (const step of block) {
      const one = enter(step, { ...here, certain });
      left.fails ||= one.fails;
      left.waits ||= one.waits;
      if (one.on === 'no') return { ...left, on: 'no' };
      if (one.on === 'maybe') left.on = 'maybe';
      if (one.on === 'maybe' || isCut(one, here)) certain = false;
    }
    return left;
  }

  /** Whether a guard around it may leave it before its end. */
  const isCut = (one: Left, here: Here): boolean => here.guard !== undefined && (one.fails || (here.guard.deadline && one.waits));

  /** Of several ways one is taken. */
  const eitherOf = (ways: Left[]): Left => ({
    on: ways.every((w) => w.on === 'no') ? 'no' : ways.every((w) => w.on === 'sure') ? 'sure' : 'maybe',
    fails: ways.some((w) => w.fails),
    waits: ways.some((w) => w.waits),
  });

  function enter(step: Step, here: Here): Left {
    const flow = flowOf(step);
    switch (flow.is) {
      case 'closing':
        return { on: 'sure', fails: false, waits: false };
      case 'on':
        if (roomOf(step).reopens?.(step)) loose = true;
        acted(step, here);
        // Whatever waits may be cut by the deadline of a guard around it; whatever acts may fail in it.
        return { on: 'sure', fails: !roomOf(step).isSure?.(step), waits: !roomOf(step).isSure?.(step) };
      case 'ends':
        return { on: 'no', fails: false, waits: false };
      case 'one': {
        const agreed = flow.ways.find((w) => w.agreed);
        if (agreed) return asked(step, agreed, here);
        const { ways, decided } = possible(flow.ways, here);
        if (decided) {
          const taken = ways[0];
          const others = flow.ways.flatMap((w) => (w.when ? [{ not: w.when }] : []));
          return visit(taken?.block ?? [], { ...here, because: [...here.because, ...(taken?.when ? [taken.when] : others)] });
        }
        return eitherOf(ways.map((w) => visit(w.block, { ...here, certain: false })));
      }
      case 'beside':
        return beside(flow, here);
      case 'rounds': {
        if (flow.rows) return forEach(flow.body.block, flow.rows.list?.ref, here);
        if (reopens(flow.body.block)) loose = true;
        const { on } = visit(flow.body.block, here);
        // Cut before its end, and then taken over by hand, it goes on though its body never does.
        return { on: on === 'no' && flow.cut ? 'maybe' : on, fails: true, waits: true };
      }
      case 'tried': {
        const body = visit(flow.body.block, { ...here, guard: { deadline: flow.deadline || here.guard?.deadline === true } });
        // It takes what fails in it, and is late by its own deadline only: one further out cuts it all the same.
        const passed = { ...body, fails: false };
        if (!body.fails && !(flow.deadline && body.waits)) return passed;
        const others = flow.instead.map((w) => visit(w.block, { ...here, certain: false }));
        return eitherOf([passed, ...others]);
      }
      case 'inside': {
        const steps = flow.part === undefined || depth >= deepestPart ? undefined : part(flow.part);
        if (!steps) return { on: 'sure', fails: true, waits: true };
        const given = 'inputs' in step ? Object.entries(step.inputs) : [];
        const inputs = given.map(([name, o]): [string, Value | undefined] => [
          name,
          isReference(o) ? (isKnown(o.ref, here, false) ? (read(here)(o.ref) ?? null) : undefined) : o.literal,
        ]);
        depth++;
        const left = visit(steps, { certain: here.certain, because: here.because, guard: here.guard, part: Object.fromEntries(inputs) });
        depth--;
        return left;
      }
    }
  }

  /** A system does something here. */
  function acted(step: Step, here: Here): void {
    const action = roomOf(step).action?.(step);
    if (action === undefined || !('inputs' in step)) return;
    const refs = Object.entries(step.inputs).flatMap(([name, o]) => (isReference(o) ? [[name, o.ref] as const] : []));
    const known = (ref: string) => isKnown(ref, here, true);
    acts.push({
      action,
      certain: here.certain && refs.every(([, ref]) => known(ref)),
      inputs: Object.fromEntries(
        Object.entries(step.inputs).map(([name, o]) => [name, isReference(o) ? (known(o.ref) ? read(here)(o.ref) : undefined) : o.literal]),
      ),
      from: Object.fromEntries(refs),
    });
  }

  /** Somebody is asked here, and agrees. */
  function asked(step: Step, agreed: Way, here: Here): Left {
    const room = roomOf(step);
    const known = (room.asks?.(step).refs ?? []).every((ref) => isKnown(ref, here, false));
    found.push({
      gate: step as Gate,
      certain: here.certain,
      wanted: known ? (room.asks?.(step).wanted(read(here)) ?? 'nobody') : undefined,
      because: [...here.because],
    });
    if (room.reopens?.(step)) loose = true;
    const approved = visit(agreed.block, here.guard ? { ...here, certain: false } : here);
    return { on: approved.on, fails: true, waits: true };
  }

  function beside(flow: Extract<Flow, { is: 'beside' }>, here: Here): Left {
    if (flow.ways.some((w) => reopens(w.block))) loose = true;
    const taken = (_: Step, ways: Way[]) => {
      const can = possible(ways, here);
      return can.decided && ways.some((w) => w.when) ? can.ways[0] : undefined;
    };
    const outs = flow.ways.map((w) => outOfBlock(w.block, { granted: true, taken, part }));
    const lefts = flow.ways.map((w, i) =>
      visit(w.block, { ...here, certain: here.certain && flow.join === 'all' && outs.every((o, j) => j === i || o.must) }),
    );
    const either = eitherOf(lefts);
    if (flow.join === 'first') return either;
    // One that ends the request ends it for all.
    return { ...either, on: lefts.some((l) => l.on === 'no') ? 'no' : lefts.every((l) => l.on === 'sure') ? 'sure' : 'maybe' };
  }

  function forEach(body: Block, ref: string | undefined, here: Here): Left {
    if (reopens(body)) loose = true;
    const known = ref !== undefined && isKnown(ref, here, true);
    const list = known ? read(here)(ref) : undefined;
    const rows = !known ? [undefined] : Array.isArray(list) ? list : list === undefined || list === null || list === '' ? [] : [list];
    let certain = here.certain && known;
    const left: Left = { on: 'sure', fails: !known, waits: !known };
    for (const row of rows.slice(0, mostRows)) {
      const one = visit(body, { ...here, certain, row });
      left.fails ||= one.fails;
      left.waits ||= one.waits;
      if (one.on !== 'sure' || isCut(one, here)) certain = false;
      if (one.on === 'no' && known) return { ...left, on: 'no' };
      if (one.on !== 'sure') left.on = 'maybe';
    }
    return left;
  }

  visit(plan.steps, { certain: true, because: [] });
  return { agreements: found, acts };
}
