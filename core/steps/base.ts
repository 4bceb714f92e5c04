import { z } from 'zod';
import { line } from '../boundary/index.ts';
import { Expected } from '../calendar/index.ts';
import { Id } from '../values/index.ts';
import type { Block } from './step.ts';

/** What every step has. Its key is the step's own for ever; its name is what people call it. */
export const base = {
  id: Id,
  name: line(120).trim().min(1, 'Every step has a name.'),
  expected: Expected,
  forRequester: line(80).trim().min(1).optional(),
};
/** What every step has, as a type. */
export interface Base {
  id: string;
  name: string;
  /** What the requester reads instead; left out: a word for its kind, or where it leads to. */
  forRequester?: string | undefined;
  /** Expected working time: at least, most likely, at most. */
  expected: Expected;
}
/** The schema of a block, handed to the rooms of steps that hold some. */
export type BlockSchema = z.ZodType<Block>;
/** The literal of a kind, for its schema. */
export const kind = <K extends string>(k: K) => z.literal(k);

/** What most steps that a machine does are expected to take. */
export const atOnce: Expected = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };
