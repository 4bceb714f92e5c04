import { readJson } from '../../../core/boundary/index.ts';
import type { WebSystem } from '../../../core/systems/index.ts';
import { unseal } from '../../auth/seal.ts';
import { callOutside, detailOf, isTransient, type Answer, type OutsideRequest } from '../client.ts';
import { TransientError } from '../errors.ts';

/** A registered HTTP system as it is kept. */
export interface Registered {
  id: string;
  definition: WebSystem;
  sealedSecret: string | null;
  sealedAnswerKey: string | null;
}

/** One request with the system's secret; what it answers is read as JSON where it can be. Throws where a later try may go well. */
export async function sendWeb(row: Registered, asked: OutsideRequest, mostBytes = 1_000_000): Promise<Omit<Answer, 'text'> & { body: unknown }> {
  const system = row.definition;
  const secret = row.sealedSecret === null ? undefined : unseal(row.sealedSecret);
  const { text, ...answer } = await callOutside(
    { ...system, mostBytes },
    { ...asked, headers: { accept: 'application/json', ...asked.headers, ...(secret !== undefined && { authorization: `Bearer ${secret}` }) } },
  );
  // A system that repeats what it was sent must not carry our token into a trace, a message or a log.
  const read = readJson(secret === undefined ? text : text.replaceAll(secret, '(secret)'));
  const body = read.ok ? read.value : undefined;
  if (isTransient(answer.status)) throw new TransientError(`${system.name} answered ${answer.status}${detailOf(body)}.`);
  return { ...answer, body };
}
