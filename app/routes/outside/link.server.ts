import { data } from 'react-router';
import { limits } from '../../../server/auth/limits.ts';

/** What a link leads to. Made-up links are counted, and after so many nothing is looked up. */
export async function linked<T>(token: string, address: string, look: (token: string) => Promise<T | undefined>): Promise<T | undefined> {
  const wait = await limits.linkBlocked(address);
  if (wait > 0) throw data(`Too many tries. Try again in ${wait} seconds.`, { status: 429 });
  const found = await look(token);
  if (found === undefined) await limits.link(address);
  return found;
}
