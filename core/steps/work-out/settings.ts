import { z } from 'zod';
import { text } from '../../boundary/index.ts';
import { ValueType } from '../../values/index.ts';
import { base, kind } from '../base.ts';

/** A value worked out from others, in FEEL. */
export const WorkOut = z.object({ ...base, kind: kind('workOut'), feel: text(2000), type: ValueType });
export type WorkOut = z.infer<typeof WorkOut>;
