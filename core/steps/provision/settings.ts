import { z } from 'zod';
import { Duration, secondsOf } from '../../calendar/index.ts';
import { Id, Key, Operand } from '../../values/index.ts';
import { base, kind } from '../base.ts';

/** How often a failed call is tried again; each pause is `factor` times the one before. */
export const Retries = z.object({
  times: z.number().int().min(0).max(30),
  firstPauseSeconds: z.number().min(1).max(3600),
  factor: z.number().min(1).max(10),
});
export type Retries = z.infer<typeof Retries>;
/** Eight tries over about ten minutes. */
export const defaultRetries: Retries = { times: 8, firstPauseSeconds: 2, factor: 2 };

/** Who gets what is secret in the answer, by a note that opens once, and for how long it can be opened. */
export const NoteFor = z.object({
  to: Operand,
  openFor: Duration.refine((d) => secondsOf(d) >= 600, 'A note can be opened for ten minutes at least.').refine(
    (d) => secondsOf(d) <= 30 * 86_400,
    'A note can be opened for 30 days at most.',
  ),
});
export type NoteFor = z.infer<typeof NoteFor>;

/** One action of one system. */
export const Provision = z.object({
  ...base,
  kind: kind('provision'),
  action: Key.optional(),
  inputs: z.record(Id, Operand),
  retries: Retries.optional(),
  /** Wanted where the action gives a secret. */
  note: NoteFor.optional(),
  /** What is said about the request while the system has it under way is said there too, and what is said there here. */
  mirrors: z.boolean().optional(),
  /** The action that takes this back when the run is undone; absent: the one the system states; `none`: nothing. */
  undo: Key.optional(),
});
export type Provision = z.infer<typeof Provision>;
