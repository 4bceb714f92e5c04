import { eq } from 'drizzle-orm';
import { agreements, resolveAsks, type Agreement, type Wanted } from '../../core/engine/index.ts';
import { missingFields, type Answers, type CellsOf } from '../../core/forms/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import { roomOf, type GateRule } from '../../core/plans/index.ts';
import { basePlace, isReference, listWords } from '../../core/values/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import type { Tx } from '../db/database.ts';
import { policy, team } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { lookUp } from '../runtime/approvers.ts';
import { namesFor, type Names } from '../people/names.ts';
import { valueWords } from '../words.ts';
import { whyAgree } from './why-agree.ts';

/** What somebody must agree to, and, where an answer leads to it, which, and what would not. */
export interface Agreed {
  sentence: string;
  why?: string | undefined;
}

/**
 * A sentence for each gate the present answers will raise, with the names of who will be asked: found by the same look-ups
 * and resolved by the same rules as when the gate opens. `answers` are those of the fields that are shown, `cells` what stands in the
 * rows they pick.
 */
export async function whoMustAgree(
  tx: Tx,
  viewer: Viewer,
  definition: ItemDefinition,
  answers: Answers,
  cells: CellsOf,
  forWhom?: string,
): Promise<Agreed[]> {
  const agreed: Agreed[] = [];
  const { form, plan } = definition;
  const openFor = (given: Answers) => new Set(missingFields(form, given).map((f) => f.id));
  const open = openFor(answers);
  const raised = (given: Answers, others?: CellsOf) =>
    agreements(plan, given, viewer.id, (row) => others?.(row) ?? cells(row), openFor(given), forWhom);
  for (const agreement of raised(answers)) {
    const said = await sentenceFor(tx, viewer, agreement, definition, open, forWhom);
    if (said === undefined) continue;
    const sentence = agreement.certain ? capital(said) : `It may be that ${said}`;
    if (!agreed.some((a) => a.sentence === sentence)) agreed.push({ sentence, why: await whyAgree(tx, form, answers, agreement, raised) });
  }
  return agreed;
}

/** Undefined when nobody need agree. */
async function sentenceFor(
  tx: Tx,
  viewer: Viewer,
  agreement: Agreement,
  definition: ItemDefinition,
  open: ReadonlySet<string>,
  forWhom = viewer.id,
): Promise<string | undefined> {
  const { gate, wanted } = agreement;
  const { approvers } = gate;
  if (!approvers) return undefined;
  if (wanted === undefined || (wanted === 'nobody' && isUnpicked(approvers, definition)))
    return `${await laterWords(tx, approvers, gate.rule, definition, wantingAnswers(agreement, definition, open))}.`;
  const stated = gate.nobody?.then === 'ask' ? gate.nobody.person.person : undefined;
  const found = await lookUp(tx, wanted === 'nobody' ? { from: 'people', people: [] } : wanted, viewer.id, stated);
  if (found.passes !== undefined) return undefined;
  if (found.problem) return `nobody can be asked at “${gate.name}” now: ${found.problem.replace(/\.$/, '').toLowerCase()}.`;
  const rule: GateRule = found.rule ?? (approvers.from === 'chain' ? { rule: 'all' } : gate.rule);
  const resolved = resolveAsks(gate, rule, found.people, [viewer.id, forWhom], found.stated);
  if ('nobody' in resolved) {
    if (resolved.nobody === 'pass') return undefined;
    const few = resolved.found > 0 ? `fewer people than must agree can be asked at “${gate.name}”` : `nobody can be asked at “${gate.name}”`;
    return resolved.nobody === 'fail' ? `${few}, so the request would fail there.` : `${few}; somebody of the desk would have to mend that.`;
  }
  const names = await namesFor(
    tx,
    wantedOf(wanted).flatMap((w) => (w?.from === 'ownersOf' ? [{ group: w.group }] : [])),
    resolved.asks.flatMap((a) => [a.person, ...(a.insteadOf ? [a.insteadOf] : [])]),
  );
  const people = resolved.asks.map((a) => who(a, names));
  const sources: string[] = [];
  for (const [i, a] of sourcesOf(approvers).entries()) sources.push(await sourceWords(tx, a, wantedOf(wanted)[i], names));
  const source = [...new Set(sources.filter((s) => s !== ''))].join(', ');
  const inTurn = gate.order === 'inTurn' || approvers.from === 'chain';
  if (rule.rule === 'oneOfEach') {
    const sides = sources.map((of, i) => {
      const those = resolved.asks.filter((a) => (a.sources ?? [0]).includes(i)).map((a) => who(a, names));
      return `${those.length > 6 ? `one of ${those.length} people` : listWords(those, 'or')}${of && ` (${of})`}`;
    });
    return `${listWords([...new Set(sides)], 'and')}${inTurn && sides.length > 1 ? ', one after another,' : ''} must agree.`;
  }
  // Only whom the gate states for that case is left: it is said why.
  if (found.people.length === 0)
    return `since ${source.startsWith('owner of ') ? `${source.slice('owner of '.length)} has no owner` : `nobody else can be asked at “${gate.name}”`}, ${askedWords(people, rule, inTurn, '')}.`;
  return `${askedWords(people, rule, inTurn, source)}.`;
}
type Approvers = NonNullable<Agreement['gate']['approvers']>;
type Counted = Exclude<GateRule, { rule: 'oneOfEach' }>;
type Source = Exclude<Approvers, { from: 'several' }>;
/** Where approvers are found, one by one, and whom each of them looks up. */
const sourcesOf = (a: Approvers): Source[] => (a.from === 'several' ? a.of : [a]);
const wantedOf = (wanted: Agreement['wanted']): (Wanted | null)[] =>
  wanted === undefined || wanted === 'nobody' ? [] : wanted.from === 'several' ? wanted.of : [wanted];

const who = (ask: { person: string; insteadOf?: string | undefined }, names: Names): string => {
  const name = valueWords({ person: ask.person }, names);
  return ask.insteadOf ? `${name} for ${valueWords({ person: ask.insteadOf }, names)}` : name;
};

/** Who must agree, by the rule: “Ivar or Solveig” where one of them is enough, “Ivar and Solveig” where both must. */
function askedWords(people: string[], rule: Counted, inTurn: boolean, source: string): string {
  const from = source && ` (${source})`;
  if (people.length === 1) return `${people[0]}${from} must agree`;
  const many = people.length > 6;
  const turn = inTurn ? ', one after another,' : '';
  if (rule.rule === 'all') return `${many ? `all of ${people.length} people` : listWords(people, 'and')}${from}${turn} must agree`;
  const any = many ? `one of ${people.length} people` : listWords(people, 'or');
  if (rule.rule === 'first') return `${any}${from}${turn} must agree: the first reply decides`;
  if (rule.rule === 'any') return `${any}${from}${turn} must agree`;
  return `at least ${rule.count} of ${many ? `${people.length} people` : listWords(people, 'and')}${from}${turn} must agree`;
}

async function teamName(tx: Tx, id: string): Promise<string> {
  const [row] = isId(id) ? await tx.select({ name: team.name }).from(team).where(eq(team.id, id)) : [];
  return row?.name ?? '';
}

/** Why they are asked. */
async function sourceWords(tx: Tx, a: Source, wanted: Wanted | null | undefined, names: Names): Promise<string> {
  if (a.from === 'ownersOf' && wanted?.from === 'ownersOf') return `owner of ${valueWords({ group: wanted.group }, names)}`;
  if (a.from === 'managerOf') return 'manager';
  if (a.from === 'team') return teamName(tx, a.team);
  if (a.from === 'policy') {
    const [row] = isId(a.policy) ? await tx.select({ name: policy.name }).from(policy).where(eq(policy.id, a.policy)) : [];
    return row ? `by the policy ${row.name}` : '';
  }
  return '';
}

const labelOf = (ref: string, definition: ItemDefinition): string | undefined =>
  definition.form.fields.find((f) => `form.${f.id}` === ref)?.label.toLowerCase();
const refOf = (a: Source): string | undefined =>
  'group' in a ? (isReference(a.group) ? a.group.ref : undefined) : 'person' in a ? a.person.ref : undefined;
/** It reads a field of the form in which nothing is picked yet. */
const isUnpicked = (a: Approvers, definition: ItemDefinition) => sourcesOf(a).some((s) => labelOf(refOf(s) ?? '', definition) !== undefined);

/** The fields without an answer yet that whom a gate asks depends on. */
const wantingAnswers = ({ gate }: Agreement, { form }: ItemDefinition, open: ReadonlySet<string>): string[] => {
  const read = new Set((roomOf(gate).asks?.(gate).refs ?? []).map(basePlace));
  return form.fields.flatMap((f) => (open.has(f.id) && read.has(`form.${f.id}`) ? [f.label] : []));
};

/** Who is asked when whom it is about is not known yet. */
async function laterWords(tx: Tx, a: Approvers, rule: GateRule, definition: ItemDefinition, wanting: string[]): Promise<string> {
  if (a.from === 'several') {
    const sides: string[] = [];
    for (const s of a.of) sides.push(await laterSide(tx, s, definition));
    if (rule.rule === 'first') return `${listWords(sides, 'or')} must agree: the first reply decides`;
    if (rule.rule === 'any') return `${listWords(sides, 'or')} must agree`;
    return rule.rule === 'atLeast' ? `at least ${rule.count} of ${listWords(sides, 'and')} must agree` : `${listWords(sides, 'and')} must agree`;
  }
  const label = labelOf(refOf(a) ?? '', definition);
  const it =
    label === undefined ? (a.from === 'ownersOf' ? 'the group that is found on the way' : 'whoever is found on the way') : `the ${label} you pick`;
  const many = rule.rule === 'first' ? ': the first reply decides' : '';
  if (a.from === 'ownersOf')
    return `${rule.rule === 'all' ? 'the owners' : rule.rule === 'atLeast' ? `at least ${rule.count} of the owners` : 'an owner'} of ${it} must agree${many}`;
  if (a.from === 'managerOf') return `the manager of ${it} must agree`;
  if (a.from === 'chain') return `the managers above ${it}, one after another, must agree`;
  if (a.from === 'policy')
    return wanting.length > 0 ? `who must agree depends on ${listWords(wanting, 'and')}` : 'whoever an approval policy names must agree';
  return `${it} must agree`;
}

/** One of several sides, before it is known who that is. */
async function laterSide(tx: Tx, a: Source, definition: ItemDefinition): Promise<string> {
  if (a.from === 'people') {
    const ids = a.people.map((p) => p.person);
    const names = await namesFor(tx, [], ids);
    return listWords(
      ids.map((person) => valueWords({ person }, names)),
      'or',
    );
  }
  if (a.from === 'team') return `one of ${await teamName(tx, a.team)}`;
  const label = labelOf(refOf(a) ?? '', definition);
  const it = label === undefined ? 'whoever is found on the way' : `the ${label} you pick`;
  if ('person' in a && a.person.ref === 'request.requester') return a.from === 'managerOf' ? 'your manager' : 'you';
  if (a.from === 'ownersOf') return `an owner of ${label === undefined ? 'the group that is found on the way' : it}`;
  return a.from === 'managerOf' ? `the manager of ${it}` : it;
}

const capital = (s: string) => s.charAt(0).toUpperCase() + s.slice(1);
