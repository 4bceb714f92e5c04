import type { Effect } from '../../core/engine/index.ts';
import type { Answers } from '../../core/forms/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import type { Tx } from '../db/database.ts';
import type { Draft } from '../mail/draft.ts';

export interface RunRow {
  id: string;
  caseId: string;
  /** Of its case. */
  number: number;
  requesterId: string;
  /** The number of the last event that was taken. */
  seq: number;
  definition: ItemDefinition;
  /** As they are after these events. */
  answers: Answers;
  /** Nothing was said about its case before. */
  isFirst?: boolean;
}

/** What one run's events call for. */
export interface Batch {
  run: RunRow;
  effects: Effect[];
}

export type Of<K extends Effect['effect']> = Extract<Effect, { effect: K }>;
/** The effects of one kind. */
export const only = <K extends Effect['effect']>(effects: Effect[], kind: K) => effects.filter((e): e is Of<K> => e.effect === kind);

/** The instant stated for a step; the last word counts. */
export const instantOf = (stated: { key: string; at: string }[], key: string): Date | null => {
  const at = stated.findLast((s) => s.key === key)?.at;
  return at === undefined ? null : new Date(at);
};

/** Writes the rows that one run's effects call for and adds their jobs; gives what is to be said about it. */
export type Writer = (tx: Tx, run: RunRow, effects: Effect[], at: Date) => Promise<Draft[]>;
