import { lookup } from 'node:dns';
import http from 'node:http';
import https from 'node:https';
import { isIP, type LookupFunction } from 'node:net';
import ipaddr from 'ipaddr.js';
import { heard, readJson } from '../../core/boundary/index.ts';
import { PermanentError, TransientError } from './errors.ts';

/** An outside system as it is registered: whom the sentences name, where it is, and what a call of it may cost. */
export interface OutsideSystem {
  /** Begins the sentences of what goes wrong. */
  name: string;
  /** Where its paths begin: an address of http or https. */
  address: string;
  /** Whether it may stand in the own network. */
  ownNetwork: boolean;
  /** How long one call may take, in milliseconds. */
  timeoutMs: number;
  /** The largest answer that is read, in bytes. */
  mostBytes: number;
}

export interface OutsideRequest {
  method: string;
  /** Joined to the system's address; begins with a slash. */
  path: string;
  headers: Record<string, string>;
  /** Sent as JSON. */
  body?: object | undefined;
  /** Sent as it is, in place of that. */
  text?: { type: string; content: string } | undefined;
}

export interface Answer {
  status: number;
  text: string;
  /** How long it wants to be left alone, in seconds (Retry-After, RFC 9110, section 10.2.3); 0 where it does not say. */
  retryAfter: number;
  /** What kind of text it is (Content-Type), without parameters; empty where it does not say. */
  type: string;
  /** What names this very answer (ETag, RFC 9110, section 8.8.3). */
  etag: string | undefined;
}

/** Whether an address is not on the public network (the special ranges of RFC 6890, as ipaddr.js knows them). */
export const isPrivateNetwork = (address: string): boolean => ipaddr.process(address).range() !== 'unicast';

/**
 * One request to an outside system: the only door by which anything of ours calls out over HTTP. Bounded in time and in
 * size; a redirect is not followed; a name is judged by the address that is connected to, so that it cannot lead into the
 * own network. Throws Trouble where a later try may go well, Refused where none will.
 */
export function callOutside(system: OutsideSystem, asked: OutsideRequest): Promise<Answer> {
  const url = new URL(system.address.replace(/\/$/, '') + asked.path);
  const host = url.hostname.replace(/^\[|\]$/g, '');
  if (isIP(host) && !system.ownNetwork && isPrivateNetwork(host))
    return Promise.reject(new PermanentError(`${system.name} is in the own network, which it is not registered for.`));
  const payload = asked.text?.content ?? (asked.body === undefined ? undefined : JSON.stringify(asked.body));
  return new Promise((resolve, reject) => {
    const request = (url.protocol === 'https:' ? https : http).request(
      url,
      {
        method: asked.method,
        lookup: system.ownNetwork ? lookup : outsideOnly,
        signal: AbortSignal.timeout(system.timeoutMs),
        headers: {
          ...(payload !== undefined && { 'content-type': asked.text?.type ?? 'application/json', 'content-length': Buffer.byteLength(payload) }),
          ...asked.headers,
        },
      },
      (response) => {
        const pieces: Buffer[] = [];
        let size = 0;
        response.on('data', (piece: Buffer) => {
          size += piece.length;
          if (size > system.mostBytes) request.destroy(new PermanentError(`${system.name} answered with more than ${megabytes(system.mostBytes)}.`));
          else pieces.push(piece);
        });
        response.on('end', () => {
          const status = response.statusCode ?? 0;
          // 304 is no way to elsewhere: what was asked for is as it was.
          if (status >= 300 && status < 400 && status !== 304)
            reject(new PermanentError(`${system.name} answered with a redirect to elsewhere, which is not followed.`));
          else
            resolve({
              status,
              text: Buffer.concat(pieces).toString('utf8'),
              retryAfter: secondsIn(response.headers['retry-after']),
              type: typeIn(response.headers['content-type']),
              etag: response.headers.etag,
            });
        });
        response.on('error', reject);
      },
    );
    request.on('error', (error) => {
      if (error instanceof PermanentError) return reject(error);
      const late = error.name === 'AbortError' || error.name === 'TimeoutError';
      reject(
        new TransientError(
          late ? `${system.name} did not answer within ${system.timeoutMs / 1000} s.` : `${system.name} cannot be reached (${error.message}).`,
        ),
      );
    });
    request.end(payload);
  });
}

const typeIn = (said: string | undefined): string => (said ?? '').split(';')[0]!.trim().toLowerCase();

/** Seconds, or a date of HTTP from now on. */
function secondsIn(said: string | undefined): number {
  if (said === undefined) return 0;
  const seconds = /^\d{1,9}$/.test(said) ? Number(said) : (Date.parse(said) - Date.now()) / 1000;
  return Number.isFinite(seconds) ? Math.max(0, seconds) : 0;
}

const megabytes = (bytes: number): string => (bytes === 1_000_000 ? 'a megabyte' : `${bytes / 1_000_000} MB`);

/** Looks a name up; one that leads into the own network is an error. */
const outsideOnly: LookupFunction = (host, options, done) => {
  lookup(host, { ...options, all: true }, (error, addresses) => {
    const first = addresses?.[0];
    if (error || !first || addresses.some((a) => isPrivateNetwork(a.address)))
      return done(error ?? new Error(`${host} leads into the own network, which this system is not registered for`), '', 4);
    if (options.all) return (done as unknown as (e: null, a: typeof addresses) => void)(null, addresses);
    return done(null, first.address, first.family);
  });
};

/** The JSON of an answer; nothing for an empty one. */
export function jsonOf(system: OutsideSystem, answer: Answer): unknown {
  if (!answer.text) return undefined;
  const read = readJson(answer.text);
  if (!read.ok) throw new TransientError(`${system.name} answered ${answer.status} with something that cannot be read. ${read.sentence}`);
  return read.value;
}

/** What a report of a problem says (RFC 9457; RFC 7644, section 3.12), as the end of a sentence; nothing where there is none. */
export function detailOf(body: unknown): string {
  if (typeof body !== 'object' || body === null) return '';
  const { detail, title } = body as Record<string, unknown>;
  const words = typeof detail === 'string' ? detail : typeof title === 'string' ? title : '';
  return words ? `: ${heard(words, 200).replace(/\.$/, '')}` : '';
}

/** Statuses after which a later try may go well (RFC 9110; 425 of RFC 8470, 429 of RFC 6585). */
export const isTransient = (status: number): boolean => status >= 500 || [408, 425, 429].includes(status);
