import { lookup } from 'node:dns';
import http from 'node:http';
import https from 'node:https';
import { BlockList, isIP, type LookupFunction } from 'node:net';
import { heard, readJson } from '../../../core/boundary/index.ts';
import { webActionSpecs, webOutputs, webRequest, type WebAction, type WebSystem } from '../../../core/systems/index.ts';
import { unseal } from '../../auth/seal.ts';
import type { Action } from '../action.ts';
import { Refused, Trouble } from '../trouble.ts';

const mostBytes = 1_000_000;

/** Addresses that are not on the public network (RFC 6890). */
const own = new BlockList();
for (const [net, bits] of [
  ['0.0.0.0', 8],
  ['10.0.0.0', 8],
  ['100.64.0.0', 10],
  ['127.0.0.0', 8],
  ['169.254.0.0', 16],
  ['172.16.0.0', 12],
  ['192.168.0.0', 16],
  ['198.18.0.0', 15],
  ['224.0.0.0', 3],
] as const)
  own.addSubnet(net, bits, 'ipv4');
for (const [net, bits] of [
  ['::', 127],
  ['fc00::', 7],
  ['fe80::', 10],
  ['ff00::', 8],
] as const)
  own.addSubnet(net, bits, 'ipv6');
export function isOwnNetwork(address: string): boolean {
  // An IPv4 address written as IPv6 (RFC 4291, 2.5.5.2) is judged as what it is.
  const plain = address.replace(/^::ffff:(?=\d+\.)/i, '');
  return own.check(plain, isIP(plain) === 6 ? 'ipv6' : 'ipv4');
}

/** An action of a registered HTTP system. */
export function webAction(row: { id: string; definition: WebSystem; sealedSecret: string | null }, action: WebAction): Action {
  const system = row.definition;
  const spec = webActionSpecs(row.id, system).find((s) => s.id.endsWith(`.${action.id}`))!;
  return {
    spec,
    run: async (inputs, idempotencyKey) => {
      const asked = webRequest(action, inputs);
      if (!asked.ok) throw new Refused(`${system.name}: ${asked.sentence}`);
      const secret = row.sealedSecret === null ? undefined : unseal(row.sealedSecret);
      const { status, text } = await send(system, action.method, asked.path, asked.body, idempotencyKey, secret);
      // A system that repeats what it was sent must not carry our token into a trace, a message or a log.
      const said = secret === undefined ? text : text.replaceAll(secret, '(secret)');
      const answer = parsed(said);
      if (status >= 300 && status < 400) throw new Refused(`${system.name} answered with a redirect to elsewhere, which is not followed.`);
      if (status === 408 || status === 425 || status === 429 || status >= 500)
        throw new Trouble(`${system.name} answered ${status}${detail(answer)}.`);
      if (status >= 400) throw new Refused(`${system.name} refused with ${status}${detail(answer)}.`);
      if (action.outputs.length > 0 && answer === undefined) throw new Refused(`${system.name} answered something that is not JSON.`);
      const read = webOutputs(action, answer);
      if (!read.ok) throw new Refused(`${system.name}: ${read.sentence}`);
      return read.outputs;
    },
  };
}

/** One request; the address is looked at where it is connected to, so that a name cannot lead into the own network. */
function send(
  system: WebSystem,
  method: string,
  path: string,
  body: object | undefined,
  key: string,
  secret: string | undefined,
): Promise<{ status: number; text: string }> {
  const url = new URL(system.address.replace(/\/$/, '') + path);
  const guarded: LookupFunction = (host, options, done) => {
    lookup(host, { ...options, all: true }, (error, addresses) => {
      const bad = !system.ownNetwork && addresses?.find((a) => isOwnNetwork(a.address));
      if (error || bad || !addresses[0])
        return done(error ?? new Error(`${host} leads into the own network, which this system is not registered for`), '', 4);
      if (options.all) return (done as unknown as (e: null, a: typeof addresses) => void)(null, addresses);
      return done(null, addresses[0].address, addresses[0].family);
    });
  };
  const host = url.hostname.replace(/^\[|\]$/g, '');
  if (isIP(host) && !system.ownNetwork && isOwnNetwork(host))
    return Promise.reject(new Refused(`${system.name} is in the own network, which it is not registered for.`));
  const payload = body === undefined ? undefined : JSON.stringify(body);
  return new Promise((resolve, reject) => {
    const request = (url.protocol === 'https:' ? https : http).request(
      url,
      {
        method,
        lookup: guarded,
        signal: AbortSignal.timeout(system.timeoutSeconds * 1000),
        headers: {
          accept: 'application/json',
          'idempotency-key': `"${key}"`,
          ...(payload !== undefined && { 'content-type': 'application/json', 'content-length': Buffer.byteLength(payload) }),
          ...(secret !== undefined && { authorization: `Bearer ${secret}` }),
        },
      },
      (response) => {
        const pieces: Buffer[] = [];
        let size = 0;
        response.on('data', (piece: Buffer) => {
          size += piece.length;
          if (size > mostBytes) request.destroy(new Refused(`${system.name} answered with more than a megabyte.`));
          else pieces.push(piece);
        });
        response.on('end', () => resolve({ status: response.statusCode ?? 0, text: Buffer.concat(pieces).toString('utf8') }));
        response.on('error', reject);
      },
    );
    request.on('error', (error) => {
      const late = error.name === 'AbortError' || error.name === 'TimeoutError';
      if (error instanceof Refused) reject(error);
      else
        reject(
          new Trouble(
            late ? `${system.name} did not answer within ${system.timeoutSeconds} s.` : `${system.name} cannot be reached (${error.message}).`,
          ),
        );
    });
    request.end(payload);
  });
}

function parsed(text: string): unknown {
  const read = readJson(text);
  return read.ok ? read.value : undefined;
}

/** What a problem report says (RFC 9457), where there is one. */
function detail(answer: unknown): string {
  if (typeof answer !== 'object' || answer === null) return '';
  const { detail: d, title } = answer as Record<string, unknown>;
  const words = typeof d === 'string' ? d : typeof title === 'string' ? title : '';
  return words ? `: ${heard(words, 200).replace(/\.$/, '')}` : '';
}
