import { RateLimiterPostgres, RateLimiterRes } from 'rate-limiter-flexible';
import { ofSettings } from '../config.ts';
import { connections } from '../db/database.ts';

const limiter = (keyPrefix: string, points: number, duration: number) =>
  new RateLimiterPostgres({
    storeClient: connections(),
    storeType: 'pool',
    tableName: 'rate_limit',
    tableCreated: true,
    keyPrefix,
    points,
    duration,
  });

/** How much of each is let through, in so many seconds: tries from an address, wrong tries at an account from anywhere, made-up links, pages somebody says have failed, what is asked from outside: from an address, by a link, with mails to an address; what one person reports, and writes about what is theirs. */
const rules = {
  pair: { points: 8, seconds: 60 },
  address: { points: 60, seconds: 60 },
  account: { points: 20, seconds: 900 },
  link: { points: 30, seconds: 60 },
  trouble: { points: 20, seconds: 60 },
  outside: { points: 20, seconds: 3600 },
  outsideLink: { points: 300, seconds: 3600 },
  outsideMail: { points: 3, seconds: 3600 },
  report: { points: 30, seconds: 600 },
  word: { points: 60, seconds: 600 },
} as const;
type Rule = keyof typeof rules;

const made = ofSettings(
  () =>
    Object.fromEntries(Object.entries(rules).map(([name, r]) => [name, limiter(`limit-${name}`, r.points, r.seconds)])) as Record<
      Rule,
      RateLimiterPostgres
    >,
);
const of = (rule: Rule): RateLimiterPostgres => made()[rule];

/** Seconds to wait; 0 when it may go on. Counted in the database, for all web processes together. */
async function take(rule: Rule, key: string): Promise<number> {
  try {
    await of(rule).consume(key.slice(0, 200));
    return 0;
  } catch (refused) {
    if (refused instanceof RateLimiterRes) return seconds(refused);
    throw refused;
  }
}
/** The same without counting. */
async function blocked(rule: Rule, key: string): Promise<number> {
  const so = await of(rule).get(key.slice(0, 200));
  return so && so.consumedPoints >= rules[rule].points ? seconds(so) : 0;
}
const seconds = (so: RateLimiterRes) => Math.max(1, Math.ceil(so.msBeforeNext / 1000));

export const limits = {
  /** A try to sign in. An account that was tried wrongly too often is closed for a while to every address. */
  signIn: async (name: string, address: string): Promise<number> =>
    Math.max(await take('pair', `${address} ${name}`), await take('address', address), await blocked('account', name)),
  /** It was wrong. */
  wrongSignIn: async (name: string): Promise<void> => void (await take('account', name)),
  rightSignIn: async (name: string): Promise<void> => void (await of('account').delete(name.slice(0, 200))),
  /** A link that is none of ours was tried. */
  link: (address: string): Promise<number> => take('link', address),
  /** Somebody's browser says that a page of ours failed. */
  trouble: (person: string): Promise<number> => take('trouble', person),
  /** Something is asked by a public link. */
  outside: async (address: string, link: string): Promise<number> => Math.max(await take('outside', address), await take('outsideLink', link)),
  /** A mail goes to whom it says it is from. */
  outsideMail: (mail: string): Promise<number> => take('outsideMail', mail),
  /** Somebody reports something. */
  report: (person: string): Promise<number> => take('report', person),
  /** Somebody writes about what they asked for or reported, or in chat. */
  word: (person: string): Promise<number> => take('word', person),
  linkBlocked: (address: string): Promise<number> => blocked('link', address),
};

/** How long somebody waits, in words. */
export const waitWords = (seconds: number): string => (seconds < 90 ? `${seconds} seconds` : `${Math.ceil(seconds / 60)} minutes`);
