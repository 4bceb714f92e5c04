import { readJson } from '../../core/boundary/index.ts';
import { Trouble } from './trouble.ts';

/** The largest answer that is read, in bytes: a page of a directory, a batch of chat. */
const most = 4_000_000;

export interface Answer {
  status: number;
  ok: boolean;
  text: string;
}

/**
 * One request to a system of ours, bounded in time and in size, never following a redirect. `name` begins the sentences
 * of what goes wrong. Throws Trouble.
 */
export async function bounded(name: string, url: string, init: RequestInit, patience: number): Promise<Answer> {
  try {
    const response = await fetch(url, { ...init, redirect: 'error', signal: AbortSignal.timeout(patience) });
    return { status: response.status, ok: response.ok, text: await textOf(name, response) };
  } catch (error) {
    if (error instanceof Trouble) throw error;
    const timedOut = error instanceof Error && error.name === 'TimeoutError';
    throw new Trouble(timedOut ? `${name} did not answer within ${patience / 1000} s.` : `${name} cannot be reached.`);
  }
}

async function textOf(name: string, response: Response): Promise<string> {
  const pieces: Uint8Array[] = [];
  let size = 0;
  for await (const piece of (response.body ?? []) as AsyncIterable<Uint8Array>) {
    size += piece.length;
    if (size > most) throw new Trouble(`${name} answered with more than ${most / 1_000_000} MB.`);
    pieces.push(piece);
  }
  return Buffer.concat(pieces).toString('utf8');
}

/** The JSON of an answer; nothing for an empty one. */
export function jsonOf(name: string, answer: Answer): unknown {
  if (!answer.text) return undefined;
  const read = readJson(answer.text);
  if (!read.ok) throw new Trouble(`${name} answered ${answer.status} with something that cannot be read. ${read.sentence}`);
  return read.value;
}
