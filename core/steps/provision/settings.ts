import { z } from 'zod';
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

/** One action of one system. */
export const Provision = z.object({
  ...base,
  kind: kind('provision'),
  action: Key.optional(),
  inputs: z.record(Id, Operand),
  retries: Retries.optional(),
  /** The action that takes this back when the run is undone; absent: the one the system states; `none`: nothing. */
  undo: Key.optional(),
});
export type Provision = z.infer<typeof Provision>;
