import { readJson } from '../../../core/boundary/index.ts';
import { webActionSpecs, webOutputs, webRequest, type WebAction, type WebSystem } from '../../../core/systems/index.ts';
import { unseal } from '../../auth/seal.ts';
import type { Action } from '../action.ts';
import { callOutside, detailOf, isTransient } from '../client.ts';
import { PermanentError, TransientError } from '../errors.ts';

/** An action of a registered HTTP system. */
export function webAction(row: { id: string; definition: WebSystem; sealedSecret: string | null }, action: WebAction): Action {
  const system = row.definition;
  const spec = webActionSpecs(row.id, system).find((s) => s.id.endsWith(`.${action.id}`))!;
  return {
    spec,
    run: async (inputs, idempotencyKey) => {
      const asked = webRequest(action, inputs);
      if (!asked.ok) throw new PermanentError(`${system.name}: ${asked.sentence}`);
      const secret = row.sealedSecret === null ? undefined : unseal(row.sealedSecret);
      const { status, text } = await callOutside(
        { ...system, mostBytes: 1_000_000 },
        {
          method: action.method,
          path: asked.path,
          body: asked.body,
          headers: {
            accept: 'application/json',
            'idempotency-key': `"${idempotencyKey}"`,
            ...(secret !== undefined && { authorization: `Bearer ${secret}` }),
          },
        },
      );
      // A system that repeats what it was sent must not carry our token into a trace, a message or a log.
      const said = secret === undefined ? text : text.replaceAll(secret, '(secret)');
      const answer = parsed(said);
      if (isTransient(status)) throw new TransientError(`${system.name} answered ${status}${detailOf(answer)}.`);
      if (status >= 400) throw new PermanentError(`${system.name} refused with ${status}${detailOf(answer)}.`);
      if (action.outputs.length > 0 && answer === undefined) throw new PermanentError(`${system.name} answered something that is not JSON.`);
      const read = webOutputs(action, answer);
      if (!read.ok) throw new PermanentError(`${system.name}: ${read.sentence}`);
      return read.outputs;
    },
  };
}

function parsed(text: string): unknown {
  const read = readJson(text);
  return read.ok ? read.value : undefined;
}
