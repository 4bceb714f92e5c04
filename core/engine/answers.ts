import { z } from 'zod';
import { Value } from '../values/index.ts';

export const Answers = z.record(z.string(), Value);
