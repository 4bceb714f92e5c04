import { RateLimiterPostgres, RateLimiterRes } from 'rate-limiter-flexible';
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

let made: { name: RateLimiterPostgres; address: RateLimiterPostgres; link: RateLimiterPostgres } | undefined;
const all = () => (made ??= { name: limiter('sign-in-name', 8, 60), address: limiter('sign-in-address', 60, 60), link: limiter('link', 30, 60) });

/** Seconds to wait; 0 when it may go on. Counted in the database, for all web processes together. */
async function take(limit: RateLimiterPostgres, key: string): Promise<number> {
  try {
    await limit.consume(key);
    return 0;
  } catch (refused) {
    if (refused instanceof RateLimiterRes) return Math.max(1, Math.ceil(refused.msBeforeNext / 1000));
    throw refused;
  }
}

export const limits = {
  signIn: async (who: string, address: string): Promise<number> => Math.max(await take(all().name, who), await take(all().address, address)),
  link: (address: string): Promise<number> => take(all().link, address),
};
