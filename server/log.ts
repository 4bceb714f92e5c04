import { pino } from 'pino';

/** Structured logs on standard output; secrets never reach a line. */
export const log = pino({
  redact: ['password', 'token', 'authorization', '*.password', '*.token', '*.authorization', '*.cookie'],
});
