import type { Effect } from '../../core/engine/index.ts';
import type { Answers } from '../../core/forms/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import type { Tx } from '../db/database.ts';
import type { Draft } from '../mail/draft.ts';
import type { CaseKind } from '../words.ts';

export interface RunRow {
  id: string;
  caseId: string;
  /** Of its case. */
  kind: CaseKind;
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

/** An effect of one kind, with the run it is of. */
export type Of<K extends Effect['effect']> = Extract<Effect, { effect: K }> & { run: RunRow };
/** The effects of one kind, of all runs, each run's in their order. */
export const only = <K extends Effect['effect']>(batches: Batch[], kind: K): Of<K>[] =>
  batches.flatMap(({ run, effects }) =>
    effects.filter((e): e is Extract<Effect, { effect: K }> => e.effect === kind).map((e): Of<K> => ({ ...e, run })),
  );

/** The instant stated for a step of a run; the last word counts. */
export const instantOf = (stated: { run: RunRow; key: string; at: string }[], of: { run: RunRow; key: string }): Date | null => {
  const at = stated.findLast((s) => s.run === of.run && s.key === of.key)?.at;
  return at === undefined ? null : new Date(at);
};

/** What is to be said, and about which run. */
export type About = Draft & { run: RunRow };

/** Writes the rows that the effects of many runs call for and adds their jobs; gives what is to be said about them. */
export type Writer = (tx: Tx, batches: Batch[], at: Date) => Promise<About[]>;
