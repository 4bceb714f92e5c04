import type { Gate, GateRule } from '../plans/index.ts';
import type { Candidate } from './event.ts';
import type { Ask } from './state.ts';

/**
 * Who is really asked, once each: away people give way to their delegate, the requester to what the gate says
 * about own requests. Nobody left: the gate's stated answer.
 */
export function resolveAsks(gate: Gate, people: Candidate[], requester: string): { asks: Ask[] } | { nobody: 'pass' | 'fail' | 'unstated' } {
  const asks = new Map<string, Ask>();
  const add = (person: string, insteadOf?: string) => {
    if (!asks.has(person)) asks.set(person, { person, ...(insteadOf !== undefined && insteadOf !== person && { insteadOf }) });
  };
  for (const candidate of people) {
    if (candidate.person === requester && gate.ownRequest !== 'allow') {
      if (gate.ownRequest === 'manager' && candidate.manager && candidate.manager !== requester) add(candidate.manager, requester);
      continue;
    }
    const asked = candidate.delegate ?? candidate.person;
    if (asked === requester && gate.ownRequest !== 'allow') continue;
    add(asked, candidate.person);
  }
  if (asks.size > 0) return { asks: [...asks.values()] };
  if (gate.nobody?.then === 'ask') {
    const { person } = gate.nobody.person;
    // Asking the requester as a last resort would let them pass their own gate.
    return person === requester && gate.ownRequest !== 'allow' ? { nobody: 'fail' } : { asks: [{ person }] };
  }
  return { nobody: gate.nobody?.then ?? 'unstated' };
}

/**
 * The gate's result, as soon as it is certain: approved when the rule is met, declined when it cannot be met any
 * more (declines > n - k). A rule that wants more approvals than there are approvers wants all of them.
 */
export function settleGate(rule: GateRule, asks: Ask[]): 'approved' | 'declined' | undefined {
  const n = asks.length;
  const approvals = asks.filter((a) => a.decision === 'approve').length;
  const declines = asks.filter((a) => a.decision === 'decline').length;
  if (rule.rule === 'first') return approvals > 0 ? 'approved' : declines > 0 ? 'declined' : undefined;
  const k = rule.rule === 'all' ? n : rule.rule === 'any' ? 1 : Math.min(rule.count, n);
  if (approvals >= k) return 'approved';
  return declines > n - k ? 'declined' : undefined;
}
