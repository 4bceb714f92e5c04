import type { WantedInstant } from '../../calendar/index.ts';
import type { Field } from '../../forms/index.ts';
import type { RichText, Row, Value } from '../../values/index.ts';
import type { GateRule } from '../gate/settings.ts';
import type { Retries } from '../provision/settings.ts';
import type { Outcome } from '../settings.ts';
import type { StepKind } from '../step.ts';
import type { ChecklistItem } from '../task/settings.ts';
import type { AskedApprover, Given } from './state.ts';

/** How a step can end. */
export const stepEnds = ['done', 'approved', 'declined', 'lapsed', 'passed', 'withdrawn', 'returned', 'failed', 'skipped', 'takenOver'] as const;
/** One of them. */
export type StepEnd = (typeof stepEnds)[number];

/** A text with the values of the moment, by reference. */
export interface TextSnapshot {
  text: RichText;
  values: Record<string, Value>;
}

/** Words of a letter, and the table below them, with the rows of the moment. */
export interface LetterPiece {
  words: TextSnapshot;
  table?: { list: string; rows: Value[]; columns: { id: string; head: string }[] };
}

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
  /** Answered in the same transaction with a `found` event. `stated`: whom the gate names for when nobody is found. */
  | { effect: 'find'; key: string; wanted: Wanted | RoutedWanted; stated?: string }
  /** Rows in which these columns say these values; answered in the same transaction with a `rowsFound` event. */
  | { effect: 'findRows'; key: string; table: string; where: Record<string, Value> }
  /** Rows whose columns are about to be read; answered in the same transaction with a `rowsRead` event. */
  | { effect: 'readRows'; key: string; rows: Row[] }
  /** An instant that depends on hours kept elsewhere; answered in the same transaction with a `reckoned` event, for all of `names`. */
  | { effect: 'reckon'; key: string; names: string[]; wanted: WantedInstant }
  | {
      effect: 'openGate';
      key: string;
      step: string;
      name: string;
      rule: GateRule;
      asks: AskedApprover[];
      corrects: string[];
      sendBack: boolean;
    }
  /** When it closes without an answer. */
  | { effect: 'gateLapses'; key: string; at: string }
  /** Who is asked has changed while the gate is open: these besides, those no more. */
  | { effect: 'changeAsks'; key: string; added: AskedApprover[]; released: string[] }
  /** The turn of the next approver has come. */
  | { effect: 'askNext'; key: string; person: string }
  | { effect: 'closeGate'; key: string; result: 'approved' | 'declined' | 'lapsed' | 'returned' | 'withdrawn'; decidedBy?: string }
  | { effect: 'decision'; key: string; person: string; decision: 'approve' | 'decline'; comment: string }
  /** The answers have a new version. */
  | { effect: 'answers'; by: string; changed: Record<string, Value> }
  | {
      effect: 'openTask';
      key: string;
      name: string;
      /** The row it is for, inside a For each. */
      row?: Value;
      assignee: { team: string } | { person: string };
      /** Who in the team has it from the start. */
      holder?: string;
      /** Everyone in the team is told that it is there. */
      tellTeam?: boolean;
      instructions: TextSnapshot;
      checklist: ChecklistItem[];
      fields: Field[];
      /** The fields of the request that whoever does it may correct. */
      corrects?: string[];
    }
  /** When it is to be done. */
  | { effect: 'taskDue'; key: string; at: string }
  /** It is due and not done: whoever has it is told. */
  | { effect: 'taskLate'; key: string }
  /** It has been late for long: these are told, or have it from now on. */
  | { effect: 'raiseTask'; key: string; to: { team: string } | { person: string }; how: 'tell' | 'handOver' }
  | { effect: 'closeTask'; key: string; result: 'done' | 'withdrawn'; by?: string; values?: Record<string, Value> }
  /** Asks the requester and holds the clock; `fields` undefined: the form again, sent back. */
  | { effect: 'openQuestion'; key: string; to: string; name: string; question: TextSnapshot; fields?: Field[] }
  | { effect: 'closeQuestion'; key: string; result: 'answered' | 'withdrawn'; values?: Record<string, Value> }
  | { effect: 'remind'; key: string; people: string[] }
  | { effect: 'timer'; key: string; name: string; at: string }
  | { effect: 'cancelTimers'; key: string }
  | {
      effect: 'call';
      key: string;
      action: string;
      inputs: Record<string, Value>;
      round: number;
      retries: Retries;
      /** Whom what is secret in its answer goes to, and for how long it can be opened. */
      note?: { to: string; openFor: string };
      /** What is said about the request meanwhile is said there too, and what is said there here. */
      mirrors?: boolean;
    }
  | { effect: 'cancelCall'; key: string }
  | { effect: 'gave'; given: Given }
  | { effect: 'tookBack'; given: Given }
  /** It was to be taken back, and somebody decided that it stays. */
  | { effect: 'leftHeld'; given: Given }
  | { effect: 'message'; key: string; to: string; by?: 'mail' | 'chat'; subject: TextSnapshot; body: TextSnapshot; files?: string[] }
  /** A letter is to be made and filed; `answered` says with which file. */
  | {
      effect: 'letter';
      key: string;
      round: number;
      fileName: TextSnapshot;
      head?: TextSnapshot;
      title: TextSnapshot;
      body: LetterPiece[];
      numbered: boolean;
    }
  | { effect: 'cancelLetter'; key: string }
  /** A time is to be found at which these are free, and they are to be invited; `answered` says when it is. Another of the same key moves it. */
  | {
      effect: 'invite';
      key: string;
      round: number;
      people: string[];
      title: TextSnapshot;
      body: TextSnapshot;
      place?: TextSnapshot;
      minutes: number;
      /** As `meetingWindow` takes it. */
      window: { from?: string; notice?: string; within: number; after?: string };
      /** The run waits for what they say. */
      waits: boolean;
    }
  /** It is not needed any more: those invited are told. */
  | { effect: 'callOff'; key: string }
  | { effect: 'mark'; key: string; step: string; shows: 'milestone' | 'status'; words: string }
  | { effect: 'stuck'; key: string; cause: string }
  | { effect: 'retry'; key: string }
  | { effect: 'finished'; outcome: Outcome; reason?: string }
  /** The event changed nothing; recorded, and told to whoever caused it. */
  | { effect: 'ignored'; reason: IgnoredReason };

/** Why an event changed nothing. */
export type IgnoredReason =
  'ended' | 'not-open' | 'not-asked' | 'decided-already' | 'late' | 'begun-already' | 'not-yours' | 'no-return' | 'not-allowed' | 'milestone-ended';

/** Whoever a routing table names; `place`: where, in place of where the requester works. */
export interface RoutedWanted {
  from: 'routed';
  table: string;
  place?: string;
}

/** What is to be looked up, with references read: ids and values only. */
export type Wanted =
  | { from: 'people'; people: string[] }
  | { from: 'managerOf'; person: string; levels: number }
  | { from: 'ownersOf'; group: string }
  | { from: 'membersOf'; group: string }
  | { from: 'team'; team: string }
  | { from: 'reportsOf'; person: string }
  | { from: 'chain'; person: string; levels: number }
  | { from: 'policy'; policy: string; values: Record<string, Value> }
  /** Everybody whom any of these leads to, and by which; one that leads to nobody keeps its place. */
  | { from: 'several'; of: (Wanted | null)[] };
