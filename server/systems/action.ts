import type { ActionSpec } from '../../core/plans/index.ts';
import type { SaidThere } from '../../core/systems/index.ts';
import type { Value } from '../../core/values/index.ts';

/** What a system says to what it was asked to do: it is done, or it is under way and answered later. */
export type Reply =
  | { is: 'done'; outputs: Record<string, Value>; job?: string | undefined }
  /** `wait`: how long the system wants to be left alone, in seconds. */
  | { is: 'accepted'; job: string | undefined; progress: string; wait: number };

/** How the answer of an action comes that was accepted. */
export interface AnswersLater {
  /** When an answer is late that was accepted at this moment. */
  by: (accepted: Date) => Date;
  /** Asks how it stands. Throws PermanentError when it has failed, or nothing is known of it any more. Absent: it only calls back. */
  ask?: (job: string) => Promise<Reply>;
  /** Tells that it is not needed any more, as long as it is under way; gives how it stands then. Absent: it is only asked about. */
  cancel?: (job: string) => Promise<Reply>;
  /** How long to wait before the nth asking, in seconds. */
  pauseBefore: (nth: number, wanted: number) => number;
  /** With what it signs what it calls back, and how to read that. Throws PermanentError when that says that it has failed. */
  callsBack?: { key: () => string; read: (body: unknown) => Reply };
  /** How people there and here write to each other about it meanwhile. */
  words?: ExchangesWords;
}

/** Somebody's words as they are said in a system. */
export interface Words {
  text: string;
  by: string;
}

/** How a system takes part in what is said about something that it has under way. Each throws TransientError or PermanentError. */
export interface ExchangesWords {
  /** All that was said there, in its order. */
  read: (job: string) => Promise<{ rows: SaidThere[]; odd: string[] }>;
  /** Says something there, once under its key; gives what the system calls it. Absent: it is only read. */
  say?: (job: string, words: Words, key: string) => Promise<string>;
  /** What is read there of something that was said from here. */
  asRead: (words: Words) => string;
}

/**
 * Whether a call has set about changing something. It is kept before anything is changed: a repeat of a call that was cut off, or another
 * worker that tends it at the same time, finds what the call did itself, and that was not there already.
 */
export interface Changing {
  /** Asked after the system was: what was found there may have been done since the call was read. */
  begun: () => Promise<boolean>;
  begin: () => Promise<void>;
}

/** Of what is asked outside any call: nothing of it is repeated. */
export const askedOnce: Changing = { begun: () => Promise.resolve(false), begin: () => Promise.resolve() };

/** An action of a system: what it takes and gives, and how to do it. Throws TransientError or PermanentError. */
export interface Action {
  spec: ActionSpec;
  /** `answerTo`: where it may post its answer. */
  run: (inputs: Record<string, Value>, idempotencyKey: string, answerTo: string, changing: Changing) => Promise<Reply>;
  later?: AnswersLater;
}
