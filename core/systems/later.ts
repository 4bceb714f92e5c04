import { z } from 'zod';
import { heard, line } from '../boundary/index.ts';
import { Duration, secondsOf } from '../calendar/index.ts';
import { Exchange, idAt } from './exchange.ts';
import { pointed, Pointer, Segments } from './pointer.ts';

const words = z.array(line(60).trim().min(1)).max(10);

/**
 * How an action is answered that is not done at once: the system accepts it (202, RFC 9110, section 15.3.3), and says later how it
 * went. It is asked again, or calls back; or both, and whichever comes first counts.
 */
export const Later = z
  .object({
    /** From the moment it was accepted. After it the step counts as failed; an answer that comes later still is kept. */
    within: Duration.refine((d) => secondsOf(d) >= 60, 'An answer has a minute at least.').refine(
      (d) => secondsOf(d) <= 90 * 86_400,
      'An answer is waited for 90 days at most.',
    ),
    /** Asked with GET; `{job}` stands for what the system calls it, read at `job` in the answer that accepted it. */
    asked: z
      .object({
        path: Segments.refine((p) => p.includes('{job}'), 'The path says with {job} what is asked about.'),
        job: Pointer,
        /** Between one asking and the next: at the beginning, and at most, as the pauses grow by half each time. */
        firstPauseSeconds: z.number().int().min(1, 'A second at least.').max(3600),
        mostPauseSeconds: z.number().int().min(1, 'A second at least.').max(86_400),
      })
      .optional(),
    /** The system posts its answer, signed with the key that is kept for it (HTTP Message Signatures, RFC 9421). */
    callsBack: z.boolean(),
    /** Where an answer says how it stands, and with which words it is done or has failed. Without it the status of HTTP says so. */
    state: z.object({ at: Pointer, done: words.min(1, 'Say which word means that it is done.'), failed: words }).optional(),
    /** Where an answer says what is going on at the moment, and why it failed. */
    progress: Pointer.optional(),
    cause: Pointer.optional(),
    /** How it is told, as long as it is under way, that nobody needs it any more; it is asked afterwards how it stands. */
    cancel: z
      .object({
        method: z.enum(['POST', 'PUT', 'PATCH', 'DELETE']),
        path: Segments.refine((p) => p.includes('{job}'), 'The path says with {job} what is not needed any more.'),
      })
      .optional(),
    /** How people here and there write to each other about it as long as it is under way. */
    words: Exchange.optional(),
  })
  .refine((l) => l.asked !== undefined || l.callsBack, { path: ['callsBack'], error: 'Say how the answer comes: it is asked for, or it calls back.' })
  .refine((l) => !l.asked || l.asked.mostPauseSeconds >= l.asked.firstPauseSeconds, {
    path: ['asked', 'mostPauseSeconds'],
    error: 'The longest pause is not shorter than the first.',
  })
  .refine((l) => !l.cancel || l.asked !== undefined, {
    path: ['cancel', 'path'],
    error: 'Say first how it is asked about, by what the system calls it.',
  })
  .refine((l) => !l.words || l.asked !== undefined, {
    path: ['words', 'read', 'path'],
    error: 'Say first how it is asked about, by what the system calls it.',
  });
export type Later = z.infer<typeof Later>;

/** How something stands that was accepted, as the system says it. */
export type Standing = { is: 'underWay'; progress: string } | { is: 'done' } | { is: 'failed'; cause: string };

/** Reads how it stands from an answer that went well (2xx). */
export function standingIn(later: Later, status: number, body: unknown): Standing {
  const said = later.state && wordAt(body, later.state.at);
  if (later.state && said !== undefined && later.state.failed.includes(said))
    return { is: 'failed', cause: (later.cause && wordAt(body, later.cause)) || `it says “${heard(said, 60)}”` };
  const done = later.state ? said !== undefined && later.state.done.includes(said) : status !== 202;
  return done ? { is: 'done' } : { is: 'underWay', progress: (later.progress && wordAt(body, later.progress)) || '' };
}

/** A word or a number that stands there, fit to be shown. */
function wordAt(body: unknown, pointer: string): string | undefined {
  const found = pointed(body, pointer);
  return typeof found === 'string' || typeof found === 'number' ? heard(String(found), 200) : undefined;
}

/** What the system calls what it accepted; undefined where its answer does not say, or says what cannot be kept or could not stand in a path (`.`, `..`). */
export function jobIn(later: Later, body: unknown): string | undefined {
  const said = later.asked && idAt(body, later.asked.job);
  return said === undefined || /^\.{1,2}$/.test(said) ? undefined : said;
}

/** A path that says with `{job}` what it is about, of something that a system calls so. */
export const pathOf = (path: string, job: string): string => path.replaceAll('{job}', encodeURIComponent(job));

/**
 * How long to wait before it is asked for the nth time (from 1), in seconds: half as long again each time, up to the longest. What
 * the system wants itself (Retry-After, RFC 9110, section 10.2.3) counts where it is longer, up to a day.
 */
export const pauseBefore = (asked: NonNullable<Later['asked']>, nth: number, wanted = 0): number =>
  Math.max(Math.min(asked.firstPauseSeconds * 1.5 ** Math.min(nth - 1, 60), asked.mostPauseSeconds), Math.min(wanted, 86_400));
