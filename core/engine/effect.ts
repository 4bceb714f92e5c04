import type { GateRule, Outcome, Retries, StepKind } from '../plans/index.ts';
import type { RichText, Value } from '../values/index.ts';
import type { Ask } from './state.ts';

export type StepEnd = 'done' | 'approved' | 'declined' | 'withdrawn' | 'passed';

/** What the runtime must write or do, in order. Nothing here touches the outside by itself. */
export type Effect =
  | { effect: 'began'; key: string; step: string; kind: StepKind; name: string; inputs: Record<string, Value> }
  | {
      effect: 'ended';
      key: string;
      end: StepEnd;
      outputs: Record<string, Value>;
      /** Of a compound step: the branch taken and the ones that were not. */
      taken?: string;
      notTaken?: string[];
      note?: string;
    }
  /** Answered in the same transaction with a `found` event. */
  | { effect: 'find'; key: string; approvers: ResolvedApprovers }
  | { effect: 'openGate'; key: string; step: string; name: string; rule: GateRule; asks: Ask[] }
  | { effect: 'closeGate'; key: string; result: 'approved' | 'declined' | 'withdrawn'; decidedBy?: string }
  | { effect: 'decision'; key: string; person: string; decision: 'approve' | 'decline'; comment: string }
  | { effect: 'call'; key: string; action: string; inputs: Record<string, Value>; round: number; retries: Retries }
  | { effect: 'cancelCall'; key: string }
  | { effect: 'message'; key: string; to: string; subject: RichText; body: RichText; values: Record<string, Value> }
  | { effect: 'stuck'; key: string; cause: string }
  | { effect: 'finished'; outcome: Outcome; reason?: string }
  /** The event changed nothing; recorded, and told to whoever caused it. */
  | { effect: 'ignored'; reason: IgnoredReason };

export type IgnoredReason = 'ended' | 'not-open' | 'not-asked' | 'decided-already' | 'begun-already' | 'not-yours';

/** Approvers with references read: ids only. */
export type ResolvedApprovers = { from: 'people'; people: string[] } | { from: 'managerOf'; person: string } | { from: 'ownersOf'; group: string };
