import type { Condition } from '../conditions/index.ts';
import type { Reference } from '../values/index.ts';
import type { Block } from './step.ts';

/** One of the ways a step can go. */
export interface Way {
  id: string;
  /** What is done on it; empty where it goes on at once. */
  block: Block;
  /** The request ends there: what the run does by itself where no block is stated. */
  ends?: boolean;
  /** It is drawn and cannot be taken as things are set. */
  never?: boolean;
  /** It leads away from what was asked for: a decline, a lapse, a remedy. */
  aside?: boolean;
  /** What has been agreed to, once this way is taken: a gate has let the request pass. */
  agreed?: boolean;
  /** It is taken where this holds and where none of the ways before it was taken. */
  when?: Condition | undefined;
  /** How often it is taken, in percent, as stated. */
  share?: number | undefined;
  /** Outputs of the step itself that have a value on this way. */
  certain?: string[];
}

/**
 * How control goes through a step: the one answer that definite assignment, findings about paths, timing, agreements and
 * the sheet read. None of them knows a kind of step by name.
 *
 * - `on`: it goes on, after so many seconds at least. `ends`: the request ends there.
 * - `one`: one of the ways is taken, at the latest the last one.
 * - `tried`: the body, and where it fails or is late one of the others, from wherever in the body it was.
 * - `beside`: all ways side by side; it goes on when all are over, or when the first is and the rest are dropped.
 * - `rounds`: the body again and again, at least so often; `inOrder` false: rounds side by side. `rows`: a round for each row of a
 *   list. `until` is tested after each. `apart`: so many seconds, at least, are between one round and the next.
 *   `cut`: it may be over before the body has been done once.
 * - `closing`: it goes on. Before the request ends as one of the ways says, that way is taken, from wherever in the plan it was.
 * - `inside`: the steps of a part, with values of its own.
 */
export type Flow =
  | { is: 'on'; waits?: number }
  | { is: 'ends' }
  | { is: 'one'; ways: Way[] }
  | { is: 'tried'; body: Way; instead: Way[]; deadline: boolean }
  | { is: 'beside'; join: 'all' | 'first'; ways: Way[] }
  | {
      is: 'rounds';
      body: Way;
      least: 0 | 1;
      inOrder: boolean;
      rows?: { list: Reference | undefined };
      apart?: number;
      until?: Condition | undefined;
      cut?: boolean;
    }
  | { is: 'closing'; ways: Way[] }
  | { is: 'inside'; part: string | undefined };
