import { compareNumbers, isGroup, isNumber, isPerson, isReference, type Value } from '../../values/index.ts';
import type { Wanted } from '../run/effect.ts';
import type { Candidate } from '../run/event.ts';
import type { AskedApprover } from '../run/state.ts';
import type { Approvers, Gate, GateRule } from './settings.ts';

/** Who is asked, or that nobody is and what is stated for that. */
export type Resolved = { asks: AskedApprover[] } | { nobody: 'pass' | 'fail' | 'unstated'; found: number };

/** How many approvals a rule that counts wants of so many approvers. */
export const wanted = (rule: GateRule, n: number): number => (rule.rule === 'all' ? n : rule.rule === 'atLeast' ? rule.count : 1);
/** How many sources a gate asks. */
export const sourcesOf = (gate: Gate): number => (gate.approvers?.from === 'several' ? gate.approvers.of.length : 1);
/** Whether somebody who is asked speaks for a source, counted from 0. */
const speaksFor = (ask: { sources?: number[] | undefined }, source: number): boolean => (ask.sources ?? [0]).includes(source);
const each = (n: number): number[] => Array.from({ length: n }, (_, i) => i);

/**
 * Who is really asked, once each: away people give way to their delegate, whose `own` request it is (whoever asks, and for whom) to
 * what the gate says about own requests. Nobody left, or fewer than the rule wants: the gate's stated answer. Somebody stated joins those who
 * are left, for the sources that have nobody, and what the rule wants stays as it is.
 */
export function resolveAsks(gate: Gate, rule: GateRule, people: Candidate[], own: readonly string[], stated?: string | null): Resolved {
  const asks = new Map<string, AskedApprover>();
  const add = (person: string, insteadOf?: string, sources?: number[]) => {
    const known = asks.get(person);
    if (!known)
      asks.set(person, { person, ...(insteadOf !== undefined && insteadOf !== person && { insteadOf }), ...(sources && { sources: [...sources] }) });
    else if (sources) known.sources = [...new Set([...(known.sources ?? []), ...sources])].toSorted((a, b) => a - b);
  };
  const barred = gate.ownRequest !== 'allow';
  for (const candidate of people) {
    if (own.includes(candidate.person) && barred) {
      if (gate.ownRequest === 'manager' && candidate.manager && !own.includes(candidate.manager))
        add(candidate.manager, candidate.person, candidate.sources);
      continue;
    }
    const asked = candidate.delegate ?? (candidate.absent ? undefined : candidate.person);
    if (asked === undefined || (own.includes(asked) && barred)) continue;
    add(asked, candidate.person, candidate.sources);
  }
  const lacking = () => each(sourcesOf(gate)).filter((s) => ![...asks.values()].some((a) => speaksFor(a, s)));
  const found = rule.rule === 'oneOfEach' ? sourcesOf(gate) - lacking().length : asks.size;
  const enough = () => asks.size > 0 && (rule.rule === 'oneOfEach' ? lacking().length === 0 : asks.size >= wanted(rule, asks.size));
  if (enough()) return { asks: [...asks.values()] };
  if (gate.nobody?.then !== 'ask') return { nobody: gate.nobody?.then ?? 'unstated', found };
  const person = stated === undefined ? gate.nobody.person.person : stated;
  // Asking the requester as a last resort would let them pass their own gate.
  if (person !== null && (!own.includes(person) || !barred))
    add(person, gate.nobody.person.person, gate.approvers?.from === 'several' ? lacking() : undefined);
  return enough() ? { asks: [...asks.values()] } : { nobody: 'fail', found };
}

/**
 * The gate's result, as soon as it is certain: approved when the rule is met, declined when it cannot be met any
 * more (declines > n - k). Where one of each source is wanted: approved when each has an approval, declined when all of one declined.
 */
export function settleGate(rule: GateRule, asks: AskedApprover[]): 'approved' | 'declined' | undefined {
  const n = asks.length;
  const approvals = asks.filter((a) => a.decision === 'approve').length;
  const declines = asks.filter((a) => a.decision === 'decline').length;
  if (rule.rule === 'oneOfEach') {
    const sources = [...new Set(asks.flatMap((a) => a.sources ?? [0]))];
    if (n > 0 && sources.every((s) => isAgreed(asks, s))) return 'approved';
    return sources.some((s) => asks.every((a) => !speaksFor(a, s) || a.decision === 'decline')) ? 'declined' : undefined;
  }
  if (rule.rule === 'first') return approvals > 0 ? 'approved' : declines > 0 ? 'declined' : undefined;
  const k = wanted(rule, n);
  if (approvals >= k) return 'approved';
  return declines > n - k ? 'declined' : undefined;
}

/** Whether somebody who speaks for a source has approved. */
export const isAgreed = (asks: AskedApprover[], source: number): boolean => asks.some((a) => speaksFor(a, source) && a.decision === 'approve');

/** Whom these approvers look up, by values as they are now; undefined where what they read leads to nobody. */
export function approversWanted(a: Approvers, valueAt: (ref: string) => Value | undefined): Wanted | undefined {
  if (a.from === 'several') {
    const of = a.of.map((source) => approversWanted(source, valueAt) ?? null);
    return of.some((w) => w !== null) ? { from: 'several', of } : undefined;
  }
  if (a.from === 'people') return { from: 'people', people: a.people.map((p) => p.person) };
  if (a.from === 'team') return { from: 'team', team: a.team };
  if (a.from === 'policy') {
    const values = Object.entries(a.inputs).map(([name, o]): [string, Value] => [name, isReference(o) ? (valueAt(o.ref) ?? null) : o.literal]);
    return { from: 'policy', policy: a.policy, values: Object.fromEntries(values) };
  }
  if (a.from === 'ownersOf') {
    const group = isReference(a.group) ? valueAt(a.group.ref) : a.group.literal;
    return isGroup(group) ? { from: 'ownersOf', group: group.group } : undefined;
  }
  const value = valueAt(a.person.ref);
  if (a.from === 'person' && Array.isArray(value)) return { from: 'people', people: value.flatMap((v) => (isPerson(v) ? [v.person] : [])) };
  if (!isPerson(value)) return undefined;
  if (a.from === 'managerOf') return { from: 'managerOf', person: value.person, levels: a.levels ?? 1 };
  if (a.from === 'chain') return { from: 'chain', person: value.person, levels: levelsFor(a, a.amount && valueAt(a.amount.ref)) };
  return { from: 'people', people: [value.person] };
}

/** How far a chain climbs: to the first level whose limit covers the amount; without an amount, all the way. */
function levelsFor(a: Extract<Approvers, { from: 'chain' }>, amount: Value | undefined): number {
  if (!isNumber(amount)) return a.levels;
  const covers = Array.from({ length: a.levels }, (_, i) => a.limits?.[i]).findIndex(
    (limit) => limit === undefined || compareNumbers(amount, limit) <= 0,
  );
  return covers < 0 ? a.levels : covers + 1;
}
