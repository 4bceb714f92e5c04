import { pino } from 'pino';

/** Structured logs on standard output; secrets never reach a line. */
export const log = pino({
  level: process.env['LOG_LEVEL'] ?? 'info',
  redact: ['password', 'token', 'authorization', '*.password', '*.token', '*.authorization', '*.cookie'],
});
