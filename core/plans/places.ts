import { conditionReferences, conjuncts, impliedByFailing, impliedPresent, type Condition } from '../conditions/index.ts';
import { own } from '../boundary/index.ts';
import { readExpression } from '../expressions/index.ts';
import { fieldType, type Field, type Form } from '../forms/index.ts';
import { isReference, piecesOf, rowType, type Operand, type RichText, type ValueType } from '../values/index.ts';
import { branches, walk } from './blocks.ts';
import { actionOf, partOf, type Catalogue } from './catalogue.ts';
import type { Block, Part, Plan, Step } from './plan.ts';
import type { Passage } from './settings.ts';

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
  /** Bounds of a number, for the ranges a condition can meet. */
  min?: number;
  max?: number;
  /** May go into a sealed note only. */
  secret?: boolean;
  /** Wherever this holds, there is a value: a field that is required wherever it is shown. */
  certainWhen?: Condition;
  /** Of the number of rows of a look-up: the list it counts, which has a value when it is not 0. */
  counts?: string;
}
export type Places = Map<string, Place>;

/** The values every request brings with it. */
const requestPlaces: Place[] = [
  { ref: 'request.requester', label: 'Requester', type: 'person', always: true, source: 'Request' },
  { ref: 'request.number', label: 'Request number', type: 'text', always: true, source: 'Request' },
  { ref: 'request.opened', label: 'Asked at', type: 'instant', always: true, source: 'Request' },
  { ref: 'request.now', label: 'Now', type: 'instant', always: true, source: 'Request' },
];

const fieldPlace = (f: Field, ref: string, source: string): Place => ({
  ref,
  label: f.label,
  type: fieldType(f.kind),
  always: f.required && !f.visibleWhen,
  source,
  ...(f.options && { options: f.options }),
  ...(f.min !== undefined && { min: f.min }),
  ...(f.max !== undefined && { max: f.max }),
  ...(f.required && f.visibleWhen && { certainWhen: f.visibleWhen }),
});

/** What the form contributes: optional and conditionally visible fields may have no value. */
export const formPlaces = (form: Form): Place[] => form.fields.map((f) => fieldPlace(f, `form.${f.id}`, 'Form'));
const partPlaces = (part: Part): Place[] =>
  part.inputs.map((i) => ({ ref: `part.${i.name}`, label: i.label, type: i.type, always: i.required, source: 'Given to the part' }));

/** The places a plan, or the inside of a part, begins with. */
export const startPlaces = (form: Form): Places => toMap([...requestPlaces, ...formPlaces(form)]);
export const startPlacesOfPart = (part: Part): Places => toMap([...requestPlaces, ...partPlaces(part)]);
const toMap = (places: Place[]): Places => new Map(places.map((p) => [p.ref, p]));

/** The values a step leaves behind once it has ended. */
export function outputPlaces(step: Step, catalogue: Catalogue): Place[] {
  const place = (name: string, label: string, type: ValueType, always: boolean): Place => ({
    ref: `steps.${step.id}.${name}`,
    label,
    type,
    always,
    source: step.name,
  });
  switch (step.kind) {
    case 'gate':
      return [
        { ...place('outcome', 'Decision', 'choice', true), options: gateOutcomes },
        place('decidedBy', 'Decided by', 'person', false),
        place('comment', 'Comment', 'text', false),
      ];
    case 'task':
      return [
        ...step.fields.map((f) => fieldPlace(f, `steps.${step.id}.${f.id}`, step.name)),
        place('doneBy', 'Done by', 'person', true),
        place('doneAt', 'Done at', 'instant', true),
      ];
    case 'askBack':
      return step.fields.map((f) => fieldPlace(f, `steps.${step.id}.${f.id}`, step.name));
    case 'provision':
      return (actionOf(catalogue, step.action)?.outputs ?? []).map((o) => ({
        ...place(o.name, o.label, o.type, o.always),
        ...(o.secret && { secret: true }),
      }));
    case 'find':
      return step.lookup?.find === 'managerOf'
        ? [place('person', 'The one found', 'person', false)]
        : // Nobody may be found: the list is there, and empty.
          [
            place('people', 'Those found', 'people', false),
            { ...place('count', 'How many were found', 'number', true), counts: `steps.${step.id}.people` },
          ];
    case 'workOut':
      return [place('value', 'Result', step.type, true)];
    case 'forEach':
      return [place('count', 'Number of rows', 'number', true)];
    case 'repeat':
      return [place('tries', 'Number of tries', 'number', true)];
    case 'part': {
      const part = partOf(catalogue, step.part);
      return (part?.outputs ?? []).map((o) => {
        const inside = endOf(part!, catalogue).get(o.from.ref);
        return { ...place(o.name, o.label, o.type, inside?.always ?? false), ...(inside?.secret && { secret: true }) };
      });
    }
    default:
      return [];
  }
}
const gateOutcomes = [
  { value: 'approved', label: 'Approved' },
  { value: 'declined', label: 'Declined' },
  { value: 'lapsed', label: 'Lapsed' },
];

const ends = new WeakMap<Part, Places>();
/** What holds at the end of a part; worked out once for each part. */
export function endOf(part: Part, catalogue: Catalogue): Places {
  if (!ends.has(part)) {
    // Set first: a part that uses itself finds nothing, instead of going on for ever.
    ends.set(part, new Map());
    ends.set(part, walkPlaces(part.steps, startPlacesOfPart(part), catalogue, () => undefined).end ?? new Map());
  }
  return ends.get(part)!;
}

/**
 * `here` is live: it is changed as the walk goes on, so whoever wants to keep it copies it. A repeat is visited a second
 * time, with what is there when its condition is tested.
 */
type Visit = (step: Step, here: Places, when: 'before' | 'test') => void;

/** Whether approvers may correct answers somewhere in a block, or send the form back. */
const reopens = (block: Block): boolean =>
  [...walk(block)].some(({ step }) => step.kind === 'gate' && ((step.corrects?.length ?? 0) > 0 || step.sendBack === true));

/**
 * Definite-assignment analysis over the blocks: walks every step with the places that exist before it. A place is
 * `always` when every path from the beginning to that step has set it. A branch that ends in a finish does not
 * count at the join, since nothing comes out of it. `end` is undefined when the end is never reached; `anywhere`
 * holds every place that exists somewhere, to tell "not yet" from "nowhere".
 *
 * What is known of an answer holds only until approvers may correct it or its form may come back: after such a gate, and
 * beside one in another branch or round, an answer is as certain as the form alone makes it.
 */
export function walkPlaces(steps: Block, start: Places, catalogue: Catalogue, visit: Visit): { end: Places | undefined; anywhere: Places } {
  const anywhere: Places = new Map(start);
  const know = (places: Place[]) => places.forEach((p) => anywhere.set(p.ref, p));

  /** Inside a branch beside which answers may change: nothing is learned about them. */
  let beside = 0;
  const asAsked = (here: Places): Places => {
    for (const ref of here.keys()) if (ref.startsWith('form.')) here.set(ref, start.get(ref) ?? here.get(ref)!);
    return here;
  };
  const learn = (here: Places, refs: string[]): Places => sure(here, beside > 0 ? refs.filter((ref) => !ref.startsWith('form.')) : refs);
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
    if (step.kind === 'finish') return undefined;
    const own = outputPlaces(step, catalogue);
    know(own);
    const withOwn = (places: Places): Places => {
      for (const p of own) places.set(p.ref, p);
      return places;
    };
    switch (step.kind) {
      case 'gate': {
        withOwn(here);
        if ((step.corrects?.length ?? 0) > 0 || step.sendBack) asAsked(here);
        // Without a block for it a declined or lapsed gate ends the run; what follows is then the approved path.
        const others = [
          step.declined && block(step.declined, sure(copy(here), [`steps.${step.id}.decidedBy`, `steps.${step.id}.comment`])),
          step.lapsed && block(step.lapsed, copy(here)),
        ].filter((e) => e !== undefined);
        if (others.length === 0) return step.approved ? block(step.approved, here) : here;
        const approved = block(step.approved ?? [], copy(here));
        return join([...(approved ? [approved] : []), ...others], here);
      }
      case 'choose': {
        const failed: string[] = [];
        const outs = branches(step).map(({ id, block: b }) => {
          const when = step.cases.find((c) => c.id === id)?.when;
          const inside = learn(copy(here), [...failed, ...(when ? sureUnder(here, when) : [])]);
          if (when) failed.push(...impliedByFailing(when));
          return block(b, inside);
        });
        if (!step.otherwise) outs.push(learn(copy(here), failed));
        return join(
          outs.filter((e) => e !== undefined),
          here,
        );
      }
      case 'together': {
        const reopened = step.branches.map((b) => reopens(b.block));
        const outs = step.branches.map((b, i) => {
          const others = reopened.some((r, j) => r && j !== i);
          return during(others, () => block(b.block, others ? asAsked(copy(here)) : copy(here)));
        });
        if (reopened.includes(true)) outs.forEach((o) => o && asAsked(o));
        const reached = outs.filter((e) => e !== undefined);
        if (step.join === 'first') return join(reached, here);
        return reached.length === outs.length ? union(reached, here) : undefined;
      }
      case 'forEach': {
        const list = step.list && here.get(step.list.ref);
        const rows: Place[] = [
          {
            ref: 'row.value',
            label: `Row of ${list?.label ?? 'the list'}`,
            type: (list && rowType(list.type)) ?? 'text',
            always: true,
            source: step.name,
            ...(list?.options && { options: list.options }),
          },
          { ref: 'row.number', label: 'Number of the row', type: 'number', always: true, source: step.name },
        ];
        know(rows);
        const reopened = reopens(step.body);
        if (reopened) asAsked(here);
        during(reopened && step.atOnce !== 1, () => block(step.body, new Map([...here, ...rows.map((p) => [p.ref, p] as const)])));
        return withOwn(here);
      }
      case 'repeat': {
        if (reopens(step.body)) asAsked(here);
        const after = block(step.body, copy(here));
        if (!after) return undefined;
        visit(step, after, 'test');
        // Cut by its deadline in its first round and then taken over by hand, it has not set what its body sets.
        const set = step.deadline ? join([after, copy(here)], here)! : after;
        return withOwn(step.until ? learn(set, sureUnder(set, step.until)) : set);
      }
      case 'guard': {
        const body = block(step.body, copy(here));
        const set = body ?? here;
        if (reopens(step.body)) asAsked(here);
        // The remedy may rely on nothing the body would have set, but it can ask whether it was.
        const maybe = () => new Map([...set].map(([ref, p]) => [ref, here.get(ref) ?? { ...p, always: false }] as const));
        const outs = [body, block(step.remedy, maybe()), step.late && block(step.late, maybe())];
        return join(
          outs.filter((e) => e !== undefined),
          here,
        );
      }
      default:
        return withOwn(here);
    }
  }

  const end = block(steps, copy(start));
  return { end, anywhere };
}

/** The places before each step; for tests and reports, where every step is looked at. */
export function placesByStep(plan: Plan, form: Form, catalogue: Catalogue): { at: Map<string, Places>; anywhere: Places } {
  const at = new Map<string, Places>();
  const { anywhere } = walkPlaces(plan.steps, startPlaces(form), catalogue, (step, here, when) => {
    if (when === 'before') at.set(step.id, new Map(here));
  });
  return { at, anywhere };
}

/** The places that have a value for certain wherever a condition holds. */
export function sureUnder(places: Places, when: Condition): string[] {
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

function sure(places: Places, refs: string[]): Places {
  for (const ref of refs) {
    const place = places.get(ref);
    if (place && !place.always) places.set(ref, { ...place, always: true });
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

/** A place a step reads, with the setting that reads it. `needed`: without a value the step cannot do its work. */
export interface Reading {
  ref: string;
  setting: string;
  needed: boolean;
  /** It is read only while this holds. */
  under?: Condition;
}

/** Everything a step reads. */
export function readsOf(step: Step, catalogue: Catalogue): Reading[] {
  const one = (ref: string | undefined, setting: string): Reading[] => (ref === undefined ? [] : [{ ref, setting, needed: true }]);
  const text = (t: RichText, setting: string): Reading[] => piecesOf(t).flatMap((x) => (isReference(x) ? one(x.ref, setting) : []));
  const condition = (c: Condition | undefined, setting: string): Reading[] =>
    c ? conditionReferences(c).map((ref) => ({ ref, setting, needed: false })) : [];
  const body = (all: Passage[], setting: string): Reading[] =>
    all.flatMap((p) => [
      ...condition(p.when, `Condition in ${setting.toLowerCase()}`),
      ...text(p.text, setting).map((r) => (p.when ? { ...r, under: p.when } : r)),
    ]);
  const operands = (values: Record<string, Operand>, label: (name: string) => string): Reading[] =>
    Object.entries(values).flatMap(([name, o]) => (isReference(o) ? one(o.ref, label(name)) : []));
  switch (step.kind) {
    case 'gate': {
      const a = step.approvers;
      if (!a || a.from === 'people' || a.from === 'team') return [];
      if (a.from === 'ownersOf') return one(a.group.ref, 'Approvers');
      if (a.from === 'policy')
        return operands(a.inputs, (name) => own(catalogue.policies, a.policy)?.inputs.find((i) => i.name === name)?.label ?? name);
      return [...one(a.person.ref, 'Approvers'), ...(a.from === 'chain' ? one(a.amount?.ref, 'Amount') : [])];
    }
    case 'task':
      return [
        ...(step.assignee && 'from' in step.assignee ? one(step.assignee.from.ref, 'Who does it') : []),
        ...body(step.instructions, 'Instructions'),
        ...(step.due && 'by' in step.due ? one(step.due.by.ref, 'Due') : []),
      ];
    case 'provision': {
      const inputs = actionOf(catalogue, step.action)?.inputs;
      return operands(step.inputs, (name) => inputs?.find((i) => i.name === name)?.label ?? name);
    }
    case 'part':
      return operands(step.inputs, (name) => partOf(catalogue, step.part)?.inputs.find((i) => i.name === name)?.label ?? name);
    case 'tell':
      return [...one(step.to?.ref, 'To'), ...text(step.subject, 'Subject'), ...body(step.body, 'Message')];
    case 'askBack':
      return [...one(step.to?.ref, 'To'), ...text(step.question, 'Question')];
    case 'find':
      return !step.lookup || step.lookup.find === 'teamMembers'
        ? []
        : one('group' in step.lookup ? step.lookup.group.ref : step.lookup.person.ref, 'Look up');
    case 'workOut': {
      const parsed = readExpression(step.feel);
      return parsed.ok ? parsed.refs.map((ref) => ({ ref, setting: 'Expression', needed: parsed.needs.has(ref) })) : [];
    }
    case 'pause':
      return step.until && 'date' in step.until ? one(step.until.date.ref, 'Until') : [];
    case 'forEach':
      // A list without a value is a list of no rows.
      return one(step.list?.ref, 'List').map((r) => ({ ...r, needed: false }));
    case 'choose':
      return step.cases.flatMap((c) => condition(c.when, `Case “${c.name}”`));
    case 'repeat':
      return condition(step.until, 'Condition that ends it');
    default:
      return [];
  }
}
