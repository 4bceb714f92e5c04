import { own, sameJson } from '../boundary/index.ts';
import { conditionWords, type Condition, type Naming } from '../conditions/index.ts';
import { workingMinutes, minutesWords } from '../calendar/index.ts';
import { elementName, elementsOf, fieldType, type Element, type Field, type Form } from '../forms/index.ts';
import { analyseAssignment, namingOf, roomOf, walk, withBranches, type Catalogue, type Plan, type Step } from '../plans/index.ts';
import { typeWords, type ValueNames } from '../values/index.ts';
import { audienceWords } from './audience.ts';
import { onBehalfWords } from './on-behalf.ts';
import { placesAtStart, type ItemDefinition, type ItemKind } from './definition.ts';

/** One thing that two definitions of an item do not have in common. */
export interface Difference {
  /** Of what: the item itself, its form, or its plan. */
  of: 'item' | 'form' | 'plan';
  is: 'added' | 'gone' | 'changed' | 'moved';
  /** The step, or the field, by its key. */
  step?: string;
  field?: string;
  sentence: string;
}

/** What the second definition says otherwise than the first, in words and in reading order; nothing where they say the same. */
export function compareItems(kind: ItemKind, before: ItemDefinition, after: ItemDefinition, catalogue: Catalogue): Difference[] {
  const naming = (d: ItemDefinition): Naming =>
    namingOf(analyseAssignment(d.plan.steps, placesAtStart(d, kind, catalogue), catalogue, () => undefined).anywhere, catalogue);
  const [was, now] = [naming(before), naming(after)];
  return [
    ...compareWhole(before, after, catalogue),
    ...compareForms(before.form, after.form, was, now),
    ...comparePlans(before, after, was, now, catalogue),
  ];
}

/** Words of somebody at the end of a sentence, which ends with them where they end one. */
const quotedEnd = (words: string): string => (/[.!?]$/.test(words) ? `“${words}”` : `“${words}”.`);

const wholes = {
  summary: 'The purpose',
  category: 'The category',
  alsoCalled: 'What it is also called',
  audience: 'Who may ask',
  onBehalf: 'Who may ask for others',
  outsiders: 'Who may ask from outside',
  confidential: 'Who reads it',
  prices: 'The price',
  watched: 'Who is told of the promise',
  outputs: 'What the part gives back',
} as const;
function watchedWords({ watched }: ItemDefinition, catalogue: Catalogue): string {
  if (!watched) return 'nobody';
  return `${own(catalogue.teams, watched.team)?.name ?? 'a team that does not exist'}, from ${watched.at} % on`;
}
const promiseWords = (d: ItemDefinition): string => (d.promise === undefined ? 'no promise' : minutesWords(workingMinutes(d.promise)));

function compareWhole(before: ItemDefinition, after: ItemDefinition, catalogue: Catalogue): Difference[] {
  const names: ValueNames = (kind, id) => catalogue.stated?.[`${kind} ${id}`];
  const said: { [K in keyof typeof wholes]?: (d: ItemDefinition) => string } = {
    audience: (d) => (d.audience ? audienceWords(d.audience, names) : 'everyone'),
    onBehalf: (d) => (d.onBehalf ? onBehalfWords(d.onBehalf, names) : 'nobody'),
    outsiders: (d) => (d.outsiders ? 'whoever has the public link' : 'nobody'),
    watched: (d) => watchedWords(d, catalogue),
  };
  const found: Difference[] = [];
  const tell = (sentence: string) => found.push({ of: 'item', is: 'changed', sentence });
  if (before.name !== after.name) tell(`It is called “${after.name}”; it was “${before.name}”.`);
  for (const [key, words] of Object.entries(wholes) as [keyof typeof wholes, string][])
    if (!sameJson(before[key], after[key])) {
      const texts = typeof before[key] === 'string' && typeof after[key] === 'string';
      const say = said[key];
      if (say) tell(`${words}: ${say(before)} became ${say(after)}.`);
      else tell(texts ? `${words}: “${String(before[key])}” became ${quotedEnd(String(after[key]))}` : `${words} changed.`);
    }
  if (!sameJson(before.promise, after.promise)) tell(`The promise: ${promiseWords(before)} became ${promiseWords(after)}.`);
  if (!sameJson(before.plan.undoWhen, after.plan.undoWhen)) tell('When what was done is taken back changed.');
  return found;
}

/** Of two orders of the same things, those that have to be moved to make one of the other: all but a longest run that both have. */
function displaced(before: readonly string[], after: readonly string[]): Set<string> {
  const place = new Map(before.map((id, i) => [id, i]));
  const common = after.filter((id) => place.has(id));
  // The longest increasing run of places, by patience: the end of each length, and whom each follows.
  const ends: number[] = [];
  const follows: number[] = [];
  common.forEach((id, i) => {
    const at = place.get(id)!;
    let low = 0;
    for (let high = ends.length; low < high;) {
      const middle = (low + high) >> 1;
      if (place.get(common[ends[middle]!]!)! < at) low = middle + 1;
      else high = middle;
    }
    follows[i] = low > 0 ? ends[low - 1]! : -1;
    ends[low] = i;
  });
  const stay = new Set<string>();
  for (let i = ends.at(-1) ?? -1; i >= 0; i = follows[i]!) stay.add(common[i]!);
  return new Set(common.filter((id) => !stay.has(id)));
}

const settingsOfField: Partial<Record<keyof Field, string>> = {
  help: 'help',
  unit: 'unit',
  default: 'default',
  table: 'table',
  gave: 'action that gave what it offers',
  lent: 'rule that it is lent',
  columns: 'columns',
  prefill: 'what is looked up for it',
  shape: 'way it must be written',
  unique: 'rule that it is the only one',
};
const elementWords = (e: Element): string => ('field' in e ? `“${e.field.label}”` : e.section.title ? `the section “${e.section.title}”` : 'a note');

function compareForms(before: Form, after: Form, was: Naming, now: Naming): Difference[] {
  const found: Difference[] = [];
  const tell = (is: Difference['is'], sentence: string, e?: Element) =>
    found.push({ of: 'form', is, sentence, ...(e && 'field' in e && { field: e.field.id }) });
  const [first, second] = [elementsOf(before), elementsOf(after)];
  const byName = new Map(first.map((e) => [elementName(e), e]));
  const moved = displaced(first.map(elementName), second.map(elementName));
  for (const e of second) {
    const old = byName.get(elementName(e));
    if (!old) tell('added', 'field' in e ? `The form asks ${elementWords(e)} too.` : `The form has ${elementWords(e)} now.`, e);
    else {
      if (moved.has(elementName(e))) tell('moved', `${capital(elementWords(e))} moved.`, e);
      if ('field' in e && 'field' in old) for (const words of fieldChanges(old.field, e.field, was, now)) tell('changed', words, e);
      else if ('section' in e && 'section' in old && !sameJson({ ...old.section, before: null }, { ...e.section, before: null }))
        tell('changed', `${capital(elementWords(e))} changed.`);
    }
  }
  const there = new Set(second.map(elementName));
  for (const e of first)
    if (!there.has(elementName(e)))
      tell('gone', 'field' in e ? `The form does not ask ${elementWords(e)} any more.` : `${capital(elementWords(e))} is gone.`, e);
  for (const [words, a, b] of [
    ['rule', before.rules, after.rules],
    ['test', before.tests, after.tests],
  ] as const) {
    const old = new Map((a ?? []).map((x) => [x.id, x]));
    const name = (x: { id: string; sentence?: string; name?: string }) => `“${x.sentence ?? x.name ?? ''}”`;
    for (const x of b ?? []) {
      const y = old.get(x.id);
      if (!y) tell('added', `A ${words} of the form was added: ${name(x)}`);
      else if (!sameJson(x, y)) tell('changed', `The ${words} of the form ${name(x)} changed.`);
    }
    for (const x of a ?? []) if (!(b ?? []).some((y) => y.id === x.id)) tell('gone', `The ${words} of the form ${name(x)} is gone.`);
  }
  return found;
}

const whenWords = (c: Condition | undefined, naming: Naming, never: string): string => (c ? `when ${conditionWords(c, naming)}` : never);
const heldWords = (f: Field): string =>
  f.held === 'locked' ? 'nobody, and is seen' : f.held === 'hidden' ? 'nobody, and is not seen' : 'whoever asks';

function fieldChanges(a: Field, b: Field, was: Naming, now: Naming): string[] {
  const name = `“${b.label}”`;
  const said: string[] = [];
  if (a.label !== b.label) said.push(`“${a.label}” is called ${name} now.`);
  if (a.kind !== b.kind) {
    const [old, next] = [typeWords[fieldType(a.kind)], typeWords[fieldType(b.kind)]];
    said.push(old === next ? `${name} is asked in another way.` : `${name} is a ${next} now; it was a ${old}.`);
  }
  if (a.required !== b.required) said.push(`${name} is ${b.required ? 'required now' : 'not required any more'}.`);
  for (const bound of ['min', 'max'] as const)
    if (a[bound] !== b[bound])
      said.push(`${name}: at ${bound === 'min' ? 'least' : 'most'} ${a[bound] ?? 'anything'} became ${b[bound] ?? 'anything'}.`);
  if (a.held !== b.held) said.push(`${name} is filled in by ${heldWords(b)}; it was by ${heldWords(a)}.`);
  if (!sameJson(a.visibleWhen, b.visibleWhen))
    said.push(`${name} is shown ${whenWords(b.visibleWhen, now, 'always')}; it was ${whenWords(a.visibleWhen, was, 'always')}.`);
  if (!sameJson(a.requiredWhen, b.requiredWhen))
    said.push(`${name} is required ${whenWords(b.requiredWhen, now, 'as it says')}; it was ${whenWords(a.requiredWhen, was, 'as it said')}.`);
  if (!sameJson(a.options, b.options)) {
    const [old, next] = [a.options ?? [], b.options ?? []];
    for (const o of next) {
      const y = old.find((x) => x.value === o.value);
      if (!y) said.push(`${name} offers “${o.label}” too.`);
      else if (y.label !== o.label) said.push(`The choice “${y.label}” of ${name} is called “${o.label}” now.`);
    }
    for (const o of old) if (!next.some((x) => x.value === o.value)) said.push(`${name} does not offer “${o.label}” any more.`);
    const values = (all: typeof old) => all.map((o) => o.value);
    if (displaced(values(old), values(next)).size > 0) said.push(`The choices of ${name} stand in another order.`);
  }
  for (const [key, words] of Object.entries(settingsOfField) as [keyof Field, string][])
    if (!sameJson(a[key], b[key])) said.push(`The ${words} of ${name} changed.`);
  return said;
}

const capital = (s: string): string => s.charAt(0).toUpperCase() + s.slice(1);

/** Settings as sentences name them, where their key says too little. */
const settings: Record<string, string> = {
  expected: 'expected working time',
  forRequester: 'name for requesters',
  body: 'message',
  corrects: 'fields that may be corrected',
  nobody: 'answer where nobody is found',
  ownRequest: 'answer where the requester is asked',
  sendBack: 'way back to the requester',
  fields: 'fields to be filled in',
  tellTeam: 'mail to the team',
  feel: 'expression',
  cases: 'conditions of its cases',
  branches: 'branches',
  list: 'list',
};
const settingWords = (key: string): string => settings[key] ?? key.replace(/[A-Z]/g, (c) => ` ${c.toLowerCase()}`);

/** A step without what stands in its blocks: their heads stay. */
const alone = (step: Step): Step => withBranches(step, () => []);

interface Stands {
  step: Step;
  /** The step and the branch around it. */
  around: string;
}
function placesOf(plan: Plan): Map<string, Stands> {
  return new Map([...walk(plan.steps)].map(({ step, parent }) => [step.id, { step, around: parent ? `${parent.step.id}/${parent.branch}` : '' }]));
}
/** The orders of the blocks of a plan, by what is around them. */
function orders(places: Map<string, Stands>): Map<string, string[]> {
  const found = new Map<string, string[]>();
  for (const [id, { around }] of places) found.set(around, [...(found.get(around) ?? []), id]);
  return found;
}

function comparePlans(before: ItemDefinition, after: ItemDefinition, was: Naming, now: Naming, catalogue: Catalogue): Difference[] {
  const [old, next] = [placesOf(before.plan), placesOf(after.plan)];
  const [oldOrders, nextOrders] = [orders(old), orders(next)];
  const moved = new Set<string>();
  for (const [around, ids] of nextOrders) {
    const stayed = (all: string[]) => all.filter((id) => old.get(id)?.around === around && next.get(id)?.around === around);
    for (const id of displaced(stayed(oldOrders.get(around) ?? []), stayed(ids))) moved.add(id);
  }
  const found: Difference[] = [];
  const called = (s: Step) => `${roomOf(s).verb} “${s.name}”`;
  for (const [id, { step, around }] of next) {
    const tell = (is: Difference['is'], sentence: string) => found.push({ of: 'plan', is, step: id, sentence });
    const there = old.get(id);
    if (!there || roomOf(there.step) !== roomOf(step)) {
      tell('added', `${called(step)} was added: ${roomOf(step).sentence(step, now, catalogue)}`);
      continue;
    }
    if (there.around !== around || moved.has(id)) tell('moved', `${called(step)} moved.`);
    const [a, b] = [alone(there.step), alone(step)];
    if (sameJson(a, b)) continue;
    if (a.name !== b.name) tell('changed', `${called(a)} is called “${b.name}” now.`);
    const [said, says] = [roomOf(a).sentence(a, was, catalogue), roomOf(b).sentence(b, now, catalogue)];
    if (said !== says) tell('changed', `${called(b)}: “${said}” became “${says}”`);
    const keys = [...new Set([...Object.keys(a), ...Object.keys(b)])].filter((k) => k !== 'name' && k !== 'id' && k !== 'kind');
    const changed = keys.filter((k) => !sameJson((a as unknown as Record<string, unknown>)[k], (b as unknown as Record<string, unknown>)[k]));
    // What the sentence has said need not be said again.
    if (changed.length > 0 && said === says) tell('changed', `${called(b)}: the ${changed.map(settingWords).join(', the ')} changed.`);
  }
  const [oldParts, parts] = [before.plan.parts ?? {}, after.plan.parts ?? {}];
  for (const [id, part] of Object.entries(parts))
    if (Object.hasOwn(oldParts, id) && !sameJson(oldParts[id], part))
      found.push({ of: 'plan', is: 'changed', sentence: `The part “${part.name}” changed.` });
  for (const [id, { step }] of old) {
    const stays = next.get(id);
    if (!stays || roomOf(stays.step) !== roomOf(step)) found.push({ of: 'plan', is: 'gone', step: id, sentence: `${called(step)} is gone.` });
  }
  return found;
}
