import { z } from 'zod';
import { log } from './log.ts';

const Config = z
  .object({
    DATABASE_URL: z.url({ protocol: /^postgres(ql)?$/ }),
    PORT: z.coerce.number().int().positive(),
    /** How many web processes listen there together; without it as many as there are processors. */
    WEB_PROCESSES: z.coerce.number().int().min(1).max(64).optional(),
    /** The address people use, without a slash at the end; links in mails and the origin check go by it. */
    PUBLIC_URL: z.url(),
    /** 32 bytes in hex. One-time links are made from it. */
    SECRET_KEY: z.string().regex(/^[0-9a-f]{64}$/, 'must be 64 hex digits'),
    /** Keys that the present one took the place of, parted by commas: they still open what they sealed. */
    SECRET_KEYS_BEFORE: z
      .string()
      .regex(/^([0-9a-f]{64}(,|$))*$/, 'must be keys of 64 hex digits, parted by commas')
      .default(''),
    DIRECTORY_URL: z.url(),
    DIRECTORY_TOKEN: z.string().min(8),
    SMTP_URL: z.url({ protocol: /^smtps?$/ }),
    /** Where replies to approval mails come in, over SMTP; without it mails ask for no reply. */
    MAIL_IN_PORT: z.coerce.number().int().positive().optional(),
    /** The domain that is ours: it names our messages (RFC 5322 Message-ID), and replies come to addresses in it. */
    MAIL_DOMAIN: z.string().regex(/^[\w.-]+$/),
    /** `off`: approvals are not answered by mail, whatever else is set. */
    MAIL_REPLIES: z.enum(['on', 'off']).default('on'),
    /** The organisation's mail server whose Authentication-Results (RFC 8601) have to vouch for a sender; without it the sender's address and the token are all there is. */
    MAIL_VOUCHED_BY: z.string().optional(),
    /** Addresses or networks of proxies whose X-Forwarded-For is believed, parted by commas; without it nobody's is. */
    TRUSTED_PROXIES: z.string().default(''),
    /** A homeserver that speaks the client-server API of the Matrix standard; without it there is no chat. */
    CHAT_URL: z.url().optional(),
    CHAT_TOKEN: z.string().default(''),
    /** What stands after the colon in the names of people and rooms there. */
    CHAT_DOMAIN: z.string().default(''),
    /** Where the staff feed is; without it none is read. Its pages are at `/changes`, behind a bearer token. */
    STAFF_URL: z.url({ protocol: /^https?$/ }).optional(),
    STAFF_TOKEN: z.string().default(''),
    /** The scheduling outbox (RFC 6638) of the organisation's calendars, which is asked who is free; without it service hours and our own meetings are all there is. */
    CALENDAR_URL: z.url({ protocol: /^https?$/ }).optional(),
    CALENDAR_TOKEN: z.string().default(''),
    /** Whom our mails come from, as a mailbox (RFC 5322). */
    MAIL_FROM: z.string().min(3),
    /** `on`: a revision is published once a second designer has agreed. */
    SECOND_DESIGNER: z.enum(['on', 'off']).default('off'),
    LOG_LEVEL: z.string().default('info'),
    /** `on`: the page /kit shows each part of the interface in each state, for those who build it. */
    KIT: z.enum(['on', 'off']).default('off'),
  })
  .refine((c) => c.CHAT_URL === undefined || c.CHAT_DOMAIN !== '', { path: ['CHAT_DOMAIN'], error: 'must be there where CHAT_URL is' });
export type Config = z.infer<typeof Config>;

let settings: Config | undefined;

/**
 * Hands a process its settings; whoever starts one does it first, and nothing else reads the environment. Handed in anew they
 * take the place of the ones before, so that a test gives its own. A wrong one is named in the error, without its value.
 */
export function useSettings(given: Record<string, string | undefined>): Config {
  const result = Config.safeParse(given);
  if (!result.success) {
    throw new Error(`Settings are missing or wrong: ${result.error.issues.map((i) => `${i.path.join('.')} (${i.message})`).join(', ')}.`);
  }
  log.level = result.data.LOG_LEVEL;
  return (settings = result.data);
}

/** The settings of this process. */
export function config(): Config {
  if (!settings) throw new Error('No settings were handed in.');
  return settings;
}

/** What a process makes of its settings and keeps; made anew when settings are handed in anew. */
export function ofSettings<T>(make: (settings: Config) => T): () => T {
  let made: { of: Config; is: T } | undefined;
  return () => {
    const of = config();
    if (made?.of !== of) made = { of, is: make(of) };
    return made.is;
  };
}

/** Whether approvals can be answered by replying to their mail. */
export const repliesByMail = (): boolean => config().MAIL_IN_PORT !== undefined && config().MAIL_REPLIES === 'on';
