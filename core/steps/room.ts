import type { z } from 'zod';
import type { Condition, Domain, Known, Naming } from '../conditions/index.ts';
import type { Field } from '../forms/index.ts';
import type { Value } from '../values/index.ts';
import type { Base, BlockSchema } from './base.ts';
import type { BpmnFrom, BpmnWriter } from './bpmn.ts';
import type { Catalogue } from './catalogue.ts';
import type { Finding } from './finding.ts';
import type { Flow } from './flow.ts';
import type { Part } from './part-definition.ts';
import type { Place, Places, Reading } from './place.ts';
import type { RunContext, ActiveStep, Scope, Settled } from './run/context.ts';
import type { IgnoredReason, Wanted } from './run/effect.ts';
import type { StepEvent } from './run/event.ts';
import type { Activity, Lane } from './run/state.ts';
import type { Outcome } from './settings.ts';
import type { Block, Branch, Step, StepOf, Steps } from './step.ts';

/** What everything else knows of one kind of step. A member left out has the meaning its line states. */
export interface Room<S extends Base> {
  /** The verb people read, and what it does as the menu says it. */
  verb: string;
  does: string;
  /** What people call it besides, for the menu to be searched by. */
  alsoCalled: readonly string[];
  schema: (block: BlockSchema) => z.ZodType<S>;
  /** The settings of a new step; what is left out is unset, for the check to find. */
  fresh: () => Omit<S, 'id' | 'name' | 'expected' | 'kind'> & Partial<Pick<S, 'expected'>>;

  // Blocks and ways

  /** The step with each of its blocks replaced, in reading order. Left out: it holds none. */
  across?: (step: S, change: (branch: Branch) => Block) => S;
  /** The words at the head of one of its blocks. */
  head?: (step: S, branch: string, naming: Naming) => string | undefined;
  /** How control goes through it. Left out: it goes on. */
  flow?: (step: S) => Flow;
  /** Whether a request that is to end so comes here first. Left out: none does. */
  closes?: (step: S, outcome: Outcome) => boolean;
  /** Whether answers may be changed here by others than the requester, so that what was known of them is not any more. */
  reopens?: (step: S) => boolean;
  /** The table whose rows it looks up. */
  looksIn?: (step: S) => string | undefined;
  /** The columns of a table by which it looks rows up. Left out: none. */
  looksBy?: (step: S, table: string) => readonly string[];
  /** The fields of the form that others than the requester may fill in here. Left out: none. */
  opens?: (step: S) => readonly string[];
  /** The fields that the requester, and nobody else, is asked to fill in here. Left out: none. */
  asksRequester?: (step: S) => readonly Field[];
  /** Whether the requester hears of their request here. */
  tells?: (step: S) => boolean;
  /** Whether it may fail or be cut by a guard's deadline. Left out: it may. */
  isSure?: (step: S) => boolean;
  /** Working time after which it goes on without an answer. */
  lapsesAfter?: (step: S) => string | undefined;
  /** The words of the milestone it shows the requester. */
  milestone?: (step: S) => string | undefined;
  /** The working time from asking within which that milestone is promised, as ISO 8601 duration. */
  promisedIn?: (step: S) => string | undefined;
  /** What was added to it later is waited for here. */
  waitsForAdditions?: boolean;
  /** Its steps are under way while it is: where a request stands is told by them. */
  holds?: boolean;
  /** What a requester reads of it where it has no name for them and leads to no milestone. */
  toRequester?: string;
  /** It only steers the run; a requester need not see it. */
  steers?: boolean;
  /** What stands beside it on the sheet in a word or two: until when it waits, after which time it is late. */
  brief?: (step: S, naming: Naming) => string | undefined;
  /** A lock across what it holds up. */
  isLock?: boolean;

  /** Whom it asks to agree: the values that reads, and with them whom it looks up; undefined where they lead to nobody. */
  asks?: (step: S) => { refs: string[]; wanted: (valueAt: (ref: string) => Value | undefined) => Wanted | undefined };

  // Values

  /** The values it leaves behind once it has ended. `endOf` gives what holds at the end of a part. */
  outputs?: (step: S, catalogue: Catalogue, endOf: (part: Part) => Places) => Place[];
  /** The values it reads. */
  reads?: (step: S, catalogue: Catalogue) => Reading[];
  /** The conditions it tests, each with the words for where it stands. */
  conditions?: (step: S) => { when: Condition; setting: string }[];
  /** People it names outright. */
  people?: (step: S) => string[];
  /** The action of a system it calls. */
  action?: (step: S) => string | undefined;

  // Finding and saying

  /** What is missing or wrong in its own settings. `anywhere` holds every place of the plan. */
  lacks?: (step: S, anywhere: Places, catalogue: Catalogue) => Finding[];
  /** What is wrong with its conditions together, within what the places can hold; left out: each is looked at alone. */
  ranges?: (step: S, domain: (ref: string) => Domain | undefined, naming: Naming, given: Known[]) => Finding[];
  /** Who does it, as a party; empty where nobody in particular does. */
  party: (step: S, naming: Naming, catalogue: Catalogue) => string;
  /** The step as one sentence. */
  sentence: (step: S, naming: Naming, catalogue: Catalogue) => string;
  /** The step as it is published: nothing it needs is looked up later. */
  frozen?: (step: S, catalogue: Catalogue) => S;
  /** A published step as a draft has it: what is looked up again is left to be. */
  thawed?: (step: S, catalogue: Catalogue) => S;
  /** Working minutes it takes by itself, where its settings say so exactly. */
  minutes?: (step: S) => number | undefined;

  // Running

  /** What it reads when it begins, for the trace. */
  inputs?: (context: RunContext, step: S, scope: Scope) => Record<string, Value>;
  /** Its first move, and that of a stuck step tried again. */
  start?: (context: RunContext, step: S, activity: Activity, scope: Scope) => void;
  /** Moves it on as far as it goes, while its phase is `inside` or one of `settlesIn`. Left out: it waits for an event. */
  settle?: (context: RunContext, step: S, activity: Activity, scope: Scope) => Settled;
  settlesIn?: readonly Activity['phase'][];
  /** Takes an event into it; gives why not, where it does not fit. Left out: no event is for it. */
  on?: (context: RunContext, active: ActiveStep<S>, event: StepEvent) => IgnoredReason | undefined;
  /** Takes the instant it asked for under this name; null: there is no such day. Left out: a timer of that name is set. */
  reckoned?: (context: RunContext, active: ActiveStep<S>, name: string, at: string | null) => void;
  /** Closes what it has open with people and systems, when it is not needed any more. */
  withdraw?: (context: RunContext, step: S, activity: Activity) => void;
  /** Whether it may have set timers. */
  isTimed?: (step: S) => boolean;
  /** It counts as ended once a way is taken, though that way is still under way. */
  endsWhenTaken?: boolean;
  /** The block a lane of it runs, where that is not the branch of the lane's name. */
  laneBlock?: (context: RunContext, step: S, lane: Lane) => Block;
  /** What a lane of it sees, where that is not what the step itself sees. */
  laneScope?: (step: S, activity: Activity, lane: Lane, outer: Scope) => Scope;
  /** Nothing but what it waits for ends it: nobody skips it or takes it over. */
  isFirm?: boolean;
  /** Somebody did it by hand, with the values it would have given. */
  doneByHand?: (context: RunContext, step: S, activity: Activity, outputs: Record<string, Value>) => void;

  // Elsewhere

  /** Writes it as BPMN; gives where the flow goes on from, undefined where it never does. */
  bpmn: (step: S, from: BpmnFrom, write: BpmnWriter) => BpmnFrom | undefined;
}

/** The rooms, one for each kind; a kind left out does not compile. */
export type Rooms = { [K in keyof Steps]: Room<StepOf<K>> };
/** A room as one that takes any step. */
export type AnyRoom = Room<Step>;
