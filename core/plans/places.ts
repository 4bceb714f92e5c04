import { conditionReferences, impliedPresent, type Condition } from '../conditions/index.ts';
import { fieldType, type Form } from '../forms/index.ts';
import type { ValueType } from '../values/index.ts';
import { actionOf, type Catalogue } from './catalogue.ts';
import { branches, type Block, type Plan, type Step } from './plan.ts';

/** A place whose value can be picked. */
export interface Place {
  ref: string;
  label: string;
  type: ValueType;
  /** False: on some path, or for some answers, there is no value here. */
  always: boolean;
  /** Where it comes from, as a heading in a list. */
  source: string;
  options?: { value: string; label: string }[];
}
export type Places = Map<string, Place>;

/** The values every request brings with it. */
const requestPlaces: Place[] = [
  { ref: 'request.requester', label: 'Requester', type: 'person', always: true, source: 'Request' },
  { ref: 'request.number', label: 'Request number', type: 'text', always: true, source: 'Request' },
  { ref: 'request.opened', label: 'Asked at', type: 'instant', always: true, source: 'Request' },
];

/** What the form contributes: optional and conditionally visible fields may have no value. */
export function formPlaces(form: Form): Place[] {
  return form.fields.map((f) => ({
    ref: `form.${f.id}`,
    label: f.label,
    type: fieldType(f.kind),
    always: f.required && !f.visibleWhen,
    source: 'Form',
    ...(f.options && { options: f.options }),
  }));
}

/** The values a step leaves behind once it has ended. */
export function outputPlaces(step: Step, catalogue: Catalogue): Place[] {
  const place = (name: string, label: string, type: ValueType, always: boolean): Place => ({
    ref: `steps.${step.id}.${name}`,
    label,
    type,
    always,
    source: step.name,
  });
  if (step.kind === 'gate') {
    return [
      { ...place('outcome', 'Decision', 'choice', true), options: gateOutcomes },
      place('decidedBy', 'Decided by', 'person', false),
      place('comment', 'Comment', 'text', false),
    ];
  }
  if (step.kind === 'provision') {
    return (actionOf(catalogue, step.action)?.outputs ?? []).map((o) => place(o.name, o.label, o.type, o.always));
  }
  return [];
}
const gateOutcomes = [
  { value: 'approved', label: 'Approved' },
  { value: 'declined', label: 'Declined' },
];

/** What places exist before each step of a plan, by step id; the heart of "may have no value". */
export interface PlacesByStep {
  at: Map<string, Places>;
  /** Places that can exist somewhere, in reading order; to tell "not yet" from "nowhere". */
  anywhere: Places;
}

/**
 * Definite-assignment analysis over the blocks. A place is `always` at a step when every path from the beginning
 * to that step has set it. A branch that ends in a finish does not count at the join, since nothing comes out of it.
 */
export function placesByStep(plan: Plan, form: Form, catalogue: Catalogue): PlacesByStep {
  const at = new Map<string, Places>();
  const start: Places = new Map([...requestPlaces, ...formPlaces(form)].map((p) => [p.ref, p]));
  const anywhere: Places = new Map(start);

  /** Returns what holds after the block, or undefined when its end is never reached. */
  function block(steps: Block, before: Places): Places | undefined {
    let now: Places | undefined = before;
    for (const step of steps) {
      const here: Places = now ?? before;
      at.set(step.id, here);
      const after: Places | undefined = stepAfter(step, here);
      now = now === undefined ? undefined : after;
    }
    return now;
  }

  function stepAfter(step: Step, here: Places): Places | undefined {
    if (step.kind === 'finish') return undefined;
    const own = outputPlaces(step, catalogue);
    for (const p of own) anywhere.set(p.ref, p);
    const withOwn = new Map([...here, ...own.map((p) => [p.ref, p] as const)]);
    if (step.kind === 'gate') {
      // Without a declined block the run ends there, so what follows is the approved path.
      if (step.declined) block(step.declined, decided(withOwn, step.id));
      return step.approved ? block(step.approved, withOwn) : withOwn;
    }
    if (step.kind === 'choose') {
      const ends = branches(step).map(({ id, block: b }) => {
        const when = step.cases.find((c) => c.id === id)?.when;
        return block(b, when ? narrowed(withOwn, when) : withOwn);
      });
      if (!step.otherwise) ends.push(withOwn);
      return join(
        ends.filter((e) => e !== undefined),
        withOwn,
      );
    }
    return withOwn;
  }

  block(plan.steps, start);
  return { at, anywhere };
}

/** A decline always has somebody behind it, and a reason: nobody may decline without one. */
function decided(places: Places, gate: string): Places {
  return narrowTo(places, [`steps.${gate}.decidedBy`, `steps.${gate}.comment`]);
}
const narrowed = (places: Places, when: Condition): Places => narrowTo(places, impliedPresent(when));

function narrowTo(places: Places, refs: string[]): Places {
  const next = new Map(places);
  for (const ref of refs) {
    const place = next.get(ref);
    if (place) next.set(ref, { ...place, always: true });
  }
  return next;
}

/** After branches meet, a place holds for certain only if every branch that comes out has it for certain. */
function join(ends: Places[], before: Places): Places | undefined {
  if (ends.length === 0) return undefined;
  const all = new Map<string, Place>();
  for (const end of ends) for (const [ref, place] of end) all.set(ref, place);
  for (const [ref, place] of all) {
    const certain = ends.every((e) => e.get(ref)?.always);
    // What a branch narrowed is forgotten again: `before` decides for places that were there already.
    all.set(ref, { ...(before.get(ref) ?? place), always: certain });
  }
  return all;
}

/** The places a step reads, each with the setting that reads it. */
export function readsOf(step: Step, catalogue: Catalogue): { ref: string; setting: string; needed: boolean }[] {
  if (step.kind === 'gate') {
    const a = step.approvers;
    if (!a || a.from === 'people') return [];
    return [{ ref: a.from === 'ownersOf' ? a.group.ref : a.person.ref, setting: 'Approvers', needed: true }];
  }
  if (step.kind === 'provision') {
    const inputs = actionOf(catalogue, step.action)?.inputs;
    const label = (name: string) => inputs?.find((i) => i.name === name)?.label ?? name;
    return Object.entries(step.inputs).flatMap(([name, o]) => ('ref' in o ? [{ ref: o.ref, setting: label(name), needed: true }] : []));
  }
  if (step.kind === 'tell') {
    const inText = (text: typeof step.body, setting: string) =>
      text.flatMap((p) => p.flatMap((x) => ('ref' in x ? [{ ref: x.ref, setting, needed: true }] : [])));
    return [
      ...(step.to ? [{ ref: step.to.ref, setting: 'To', needed: true }] : []),
      ...inText(step.subject, 'Subject'),
      ...inText(step.body, 'Message'),
    ];
  }
  if (step.kind === 'choose') {
    return step.cases.flatMap((c) => (c.when ? conditionReferences(c.when).map((ref) => ({ ref, setting: `Case “${c.name}”`, needed: false })) : []));
  }
  return [];
}
