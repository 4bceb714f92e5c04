import type { AskBack } from './ask-back/settings.ts';
import type { Choose } from './choose/settings.ts';
import type { Closing } from './closing/settings.ts';
import type { Find } from './find/settings.ts';
import type { Finish } from './finish/settings.ts';
import type { ForEach } from './for-each/settings.ts';
import type { Gate } from './gate/settings.ts';
import type { Guard } from './guard/settings.ts';
import type { Invite } from './invite/settings.ts';
import type { Mark } from './mark/settings.ts';
import type { PartCall } from './part/settings.ts';
import type { Pause } from './pause/settings.ts';
import type { Provision } from './provision/settings.ts';
import type { Repeat } from './repeat/settings.ts';
import type { Task } from './task/settings.ts';
import type { Tell } from './tell/settings.ts';
import type { Together } from './together/settings.ts';
import type { WorkOut } from './work-out/settings.ts';
import type { Write } from './write/settings.ts';

/** The step kinds and what each is: the list that every other one is held against. */
export interface Steps {
  gate: Gate;
  task: Task;
  provision: Provision;
  tell: Tell;
  write: Write;
  invite: Invite;
  askBack: AskBack;
  find: Find;
  workOut: WorkOut;
  choose: Choose;
  together: Together;
  forEach: ForEach;
  repeat: Repeat;
  guard: Guard;
  pause: Pause;
  mark: Mark;
  part: PartCall;
  closing: Closing;
  finish: Finish;
}
/** The name of a kind of step. */
export type StepKind = keyof Steps;
/** A step of any kind. */
export type Step = Steps[StepKind];
/** A step of this kind. */
export type StepOf<K extends StepKind> = Steps[K];
/** Steps in order. */
export type Block = Step[];

/** A block that a step holds: `approved`, `declined`, `lapsed`, `otherwise`, `body`, `remedy`, `late`, or the id of a case or branch. */
export interface Branch {
  id: string;
  block: Block;
}
