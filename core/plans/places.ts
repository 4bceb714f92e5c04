import { conjuncts, impliedByFailing, impliedPresent, type Condition } from '../conditions/index.ts';
import type { Form } from '../forms/index.ts';
import {
  fieldPlace,
  roomOf,
  withCells,
  type Block,
  type Catalogue,
  type Part,
  type Place,
  type Places,
  type Reading,
  type Step,
} from '../steps/index.ts';
import { isReference, rowType } from '../values/index.ts';
import { flowOf, reopens } from './blocks.ts';
import type { Plan } from './plan.ts';

/** The values every request brings with it. */
const requestPlaces: Place[] = [
  { ref: 'request.requester', label: 'Requester', type: 'person', always: true, source: 'Request' },
  { ref: 'request.for', label: 'For whom', type: 'person', always: true, source: 'Request' },
  { ref: 'request.number', label: 'Request number', type: 'text', always: true, source: 'Request' },
  { ref: 'request.opened', label: 'Asked at', type: 'instant', always: true, source: 'Request' },
  { ref: 'request.now', label: 'Now', type: 'instant', always: true, source: 'Request' },
];

/** What the form contributes: optional and conditionally visible fields may have no value. */
export const formPlaces = (form: Form): Place[] => form.fields.map((f) => fieldPlace(f, `form.${f.id}`, 'Form'));
const partPlaces = (part: Part): Place[] =>
  part.inputs.map((i) => ({
    ref: `part.${i.name}`,
    label: i.label,
    type: i.type,
    always: i.required,
    source: 'Given to the part',
    ...(i.table !== undefined && { table: i.table }),
  }));

/** The places a plan begins with. */
export const startPlaces = (form: Form, catalogue: Catalogue): Places => toMap([...requestPlaces, ...formPlaces(form)], catalogue);
/** The places the inside of a part begins with: what every request brings, and what the part is given. */
export const startPlacesOfPart = (part: Part, catalogue: Catalogue): Places => toMap([...requestPlaces, ...partPlaces(part)], catalogue);
const toMap = (places: Place[], catalogue: Catalogue): Places => new Map(places.flatMap((p) => withCells(p, catalogue)).map((p) => [p.ref, p]));

/** The values a step leaves behind once it has ended; of a table row, what stands in its columns is another matter (`withCells`). */
export const outputPlaces = (step: Step, catalogue: Catalogue): Place[] =>
  roomOf(step).outputs?.(step, catalogue, (part) => endOf(part, catalogue)) ?? [];

/** Everything a step reads. */
export const referencesOf = (step: Step, catalogue: Catalogue): Reading[] => roomOf(step).reads?.(step, catalogue) ?? [];

const ends = new WeakMap<Part, Places>();
/** What holds at the end of a part; worked out once for each part. */
export function endOf(part: Part, catalogue: Catalogue): Places {
  if (!ends.has(part)) {
    // Set first: a part that uses itself finds nothing, instead of going on for ever.
    ends.set(part, new Map());
    ends.set(part, analyseAssignment(part.steps, startPlacesOfPart(part, catalogue), catalogue, () => undefined).end ?? new Map());
  }
  return ends.get(part)!;
}

/**
 * `here` is live: it is changed as the walk goes on, so whoever wants to keep it copies it. A repeat is visited a second
 * time, with what is there when its condition is tested.
 */
type Visit = (step: Step, here: Places, when: 'before' | 'test') => void;

/**
 * Definite-assignment analysis over the blocks: walks every step with the places that exist before it. A place is
 * `always` when every path from the beginning to that step has set it. A branch that ends in a finish does not
 * count at the join, since nothing comes out of it. `end` is undefined when the end is never reached; `anywhere`
 * holds every place that exists somewhere, to tell "not yet" from "nowhere".
 *
 * What is known of an answer holds only until approvers may correct it or its form may come back: after such a gate, and
 * beside one in another branch or round, an answer is as certain as the form alone makes it.
 */
export function analyseAssignment(steps: Block, start: Places, catalogue: Catalogue, visit: Visit): { end: Places | undefined; anywhere: Places } {
  const anywhere: Places = new Map(start);
  const know = (places: Place[]) => places.forEach((p) => anywhere.set(p.ref, p));

  /** Inside a branch beside which answers may change: nothing is learned about them. */
  let beside = 0;
  const asAsked = (here: Places): Places => {
    for (const ref of here.keys()) if (ref.startsWith('form.')) here.set(ref, start.get(ref) ?? here.get(ref)!);
    return here;
  };
  const learn = (here: Places, refs: string[]): Places => markCertain(here, beside > 0 ? refs.filter((ref) => !ref.startsWith('form.')) : refs);
  const during = <T>(reopened: boolean, act: () => T): T => {
    if (reopened) beside++;
    try {
      return act();
    } finally {
      if (reopened) beside--;
    }
  };

  /** Works on `here` itself; gives it back, or undefined when the end of the block is never reached. */
  function block(all: Block, here: Places): Places | undefined {
    let reached = true;
    let now = here;
    for (const step of all) {
      visit(step, now, 'before');
      const after = stepAfter(step, now);
      if (after) now = after;
      else reached = false;
    }
    return reached ? now : undefined;
  }
  const copy = (here: Places): Places => new Map(here);

  function stepAfter(step: Step, here: Places): Places | undefined {
    const flow = flowOf(step);
    if (flow.is === 'ends') return undefined;
    const own = outputPlaces(step, catalogue).flatMap((p) => withCells(p, catalogue));
    know(own);
    const withOwn = (places: Places): Places => {
      for (const p of own) places.set(p.ref, p);
      return places;
    };
    switch (flow.is) {
      case 'on':
        if (roomOf(step).reopens?.(step)) asAsked(here);
        return withOwn(here);
      case 'inside':
        return withOwn(here);
      case 'closing': {
        // It is come to from anywhere: nothing is certain but what was so from the start, and answers may have changed since.
        const maybe = () => new Map([...here].map(([ref, p]) => [ref, start.get(ref) ?? { ...p, always: false }] as const));
        for (const way of flow.ways) block(way.block, maybe());
        return withOwn(here);
      }
      case 'one': {
        withOwn(here);
        if (roomOf(step).reopens?.(step)) asAsked(here);
        const [only, ...others] = flow.ways.filter((w) => !w.ends);
        if (only && others.length === 0 && !only.when) return block(only.block, here);
        const failed: string[] = [];
        const outs = flow.ways.map((way) => {
          if (way.ends) return undefined;
          const inside = markCertain(
            copy(here),
            (way.certain ?? []).map((name) => `steps.${step.id}.${name}`),
          );
          learn(inside, [...failed, ...(way.when ? certainUnder(here, way.when) : [])]);
          if (way.when) failed.push(...impliedByFailing(way.when));
          const out = block(way.block, inside);
          return way.never ? undefined : out;
        });
        return join(
          outs.filter((e) => e !== undefined),
          here,
        );
      }
      case 'beside': {
        const reopened = flow.ways.map((w) => reopens(w.block));
        const outs = flow.ways.map((w, i) => {
          const others = reopened.some((r, j) => r && j !== i);
          return during(others, () => block(w.block, others ? asAsked(copy(here)) : copy(here)));
        });
        if (reopened.includes(true)) outs.forEach((o) => o && asAsked(o));
        const reached = outs.filter((e) => e !== undefined);
        if (flow.join === 'first') return join(reached, here);
        return reached.length === outs.length ? union(reached, here) : undefined;
      }
      case 'rounds': {
        const body = flow.body.block;
        const reopened = reopens(body);
        if (reopened) asAsked(here);
        if (flow.rows) {
          const list = flow.rows.list && here.get(flow.rows.list.ref);
          const listed: Place[] = [
            {
              ref: 'row.value',
              label: `Row of ${list?.label ?? 'the list'}`,
              type: (list && rowType(list.type)) ?? 'text',
              always: true,
              source: step.name,
              ...(list?.options && { options: list.options }),
              ...(list?.columns && { columns: list.columns }),
              ...(list?.table !== undefined && { table: list.table }),
            },
            { ref: 'row.number', label: 'Number of the row', type: 'number', always: true, source: step.name },
            ...(list?.columns ?? []).map((c) => ({ ...c, source: step.name })),
          ];
          const rows = listed.flatMap((p) => withCells(p, catalogue));
          know(rows);
          during(reopened && !flow.inOrder, () => block(body, new Map([...here, ...rows.map((p) => [p.ref, p] as const)])));
          return withOwn(here);
        }
        const after = block(body, copy(here));
        if (!after) return undefined;
        visit(step, after, 'test');
        const set = flow.cut ? join([after, copy(here)], here)! : after;
        return withOwn(flow.until ? learn(set, certainUnder(set, flow.until)) : set);
      }
      case 'tried': {
        const body = block(flow.body.block, copy(here));
        const set = body ?? here;
        if (reopens(flow.body.block)) asAsked(here);
        // What is done instead may rely on nothing the body would have set, but it can ask whether it was.
        const maybe = () => new Map([...set].map(([ref, p]) => [ref, here.get(ref) ?? { ...p, always: false }] as const));
        const outs = [body, ...flow.instead.map((w) => block(w.block, maybe()))];
        return join(
          outs.filter((e) => e !== undefined),
          here,
        );
      }
    }
  }

  const end = block(steps, copy(start));
  return { end, anywhere };
}

/** The places before each step; for tests and reports, where every step is looked at. */
export function placesByStep(plan: Plan, form: Form, catalogue: Catalogue): { at: Map<string, Places>; anywhere: Places } {
  const at = new Map<string, Places>();
  const { anywhere } = analyseAssignment(plan.steps, startPlaces(form, catalogue), catalogue, (step, here, when) => {
    if (when === 'before') at.set(step.id, new Map(here));
  });
  return { at, anywhere };
}

/** The places that have a value for certain wherever a condition holds. */
export function certainUnder(places: Places, when: Condition): string[] {
  const found = impliedPresent(when);
  const holding = conjuncts(when);
  const said = new Set(holding.map((c) => JSON.stringify(c)));
  for (const place of places.values())
    if (place.certainWhen && conjuncts(place.certainWhen).every((c) => said.has(JSON.stringify(c)))) found.push(place.ref);
  for (const c of holding) {
    const list = 'compare' in c ? places.get(c.left.ref)?.counts : undefined;
    if (list === undefined || !('compare' in c) || isReference(c.right) || typeof c.right.literal !== 'number') continue;
    const n = c.right.literal;
    if ((c.compare === 'more' && n >= 0) || (c.compare === 'atLeast' && n > 0) || (c.compare === 'is' && n > 0)) found.push(list);
  }
  return found;
}

function markCertain(places: Places, refs: string[]): Places {
  for (const ref of refs) {
    const place = places.get(ref);
    if (!place || place.always) continue;
    places.set(ref, { ...place, always: true });
    if (place.filled) markCertain(places, place.filled);
  }
  return places;
}

/** After branches meet, a place holds for certain only if every branch that comes out has it for certain. */
function join(outs: Places[], before: Places): Places | undefined {
  return outs.length === 0 ? undefined : merged(outs, before, (ref) => outs.every((e) => e.get(ref)?.always));
}
/** After branches that all ran, a place holds for certain if one of them has it for certain. */
const union = (outs: Places[], before: Places): Places => merged(outs, before, (ref) => outs.some((e) => e.get(ref)?.always));

function merged(outs: Places[], before: Places, certain: (ref: string) => boolean): Places {
  const all: Places = new Map(before);
  for (const out of outs) {
    for (const [ref, place] of out) {
      // What a branch narrowed is forgotten again: `before` decides about the words of places that were there already.
      const known = before.get(ref) ?? place;
      const always = certain(ref);
      all.set(ref, known.always === always ? known : { ...known, always });
    }
  }
  return all;
}
