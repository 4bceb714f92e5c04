import { z } from 'zod';
import { Value } from '../values/index.ts';

/** Answers by field; a field without one is left out or null. */
export const Answers = z.record(z.string(), Value);
