import { z } from 'zod';
import { line } from '../boundary/index.ts';
import { Id, Reference, TableId, ValueType } from '../values/index.ts';
import type { BlockSchema } from './base.ts';
import type { Block } from './step.ts';

const inputs = z.array(z.object({ name: Id, label: line(120), type: ValueType, required: z.boolean(), table: TableId.optional() })).max(50);
const outputs = z.array(z.object({ name: Id, label: line(120), type: ValueType, from: Reference })).max(50);

/** A piece of a plan that items share. Its steps read `part.<input>`; its outputs name places inside it. */
export interface Part {
  name: string;
  inputs: z.infer<typeof inputs>;
  outputs: z.infer<typeof outputs>;
  steps: Block;
}
/** The schema of a part; `block` is that of its steps. */
export const partDefinition = (block: BlockSchema) => z.object({ name: line(80), inputs, outputs, steps: block });
