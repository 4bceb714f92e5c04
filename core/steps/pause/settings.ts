import { z } from 'zod';
import { Span } from '../../calendar/index.ts';
import { Reference } from '../../values/index.ts';
import { base, kind } from '../base.ts';

/** Until when a pause lasts: for a span, or until the desk opens on a date (or at an instant). */
export const Until = z.union([z.object({ span: Span }), z.object({ date: Reference })]);
export type Until = z.infer<typeof Until>;

/** Waits for a time or until a date. */
export const Pause = z.object({ ...base, kind: kind('pause'), until: Until.optional() });
export type Pause = z.infer<typeof Pause>;
