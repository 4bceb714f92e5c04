import { z } from 'zod';
import type { ActionSpec } from '../plans/index.ts';
import { Id, isGroup, isOfType, isPerson, typeWords, ValueType, type Value } from '../values/index.ts';

const Slot = z.object({ name: Id, label: z.string().trim().min(1).max(80), type: ValueType });

/** One thing an HTTP system can be asked to do. */
export const WebAction = z.object({
  id: Id,
  label: z.string().trim().min(1, 'Every action needs a name.').max(80),
  method: z.enum(['GET', 'POST', 'PUT', 'PATCH', 'DELETE']),
  /** Below the system's address; `{name}` stands for an input, written as a segment. Inputs not in the path go into the body as JSON. */
  path: z
    .string()
    .regex(/^\/[^\s?#]*$/, 'A path begins with / and has no spaces, ? or #.')
    .max(300),
  inputs: z.array(Slot.extend({ required: z.boolean() })).max(30),
  /** `at`: where it stands in the JSON answer, as a JSON Pointer (RFC 6901). */
  outputs: z
    .array(
      Slot.extend({
        at: z
          .string()
          .regex(/^(\/.*)?$/, 'A pointer begins with /.')
          .max(200),
        always: z.boolean(),
      }),
    )
    .max(30),
  undoneBy: Id.optional(),
});
export type WebAction = z.infer<typeof WebAction>;

/** An outside service reached over HTTP. Calls carry an Idempotency-Key, so that a repeat changes nothing twice. */
export const WebSystem = z.object({
  name: z.string().trim().min(1, 'The system needs a name.').max(60),
  address: z.url({ protocol: /^https?$/, error: 'The address is an http or https URL.' }),
  /** Addresses of the own network are refused unless this says that they are meant. */
  ownNetwork: z.boolean(),
  timeoutSeconds: z.number().int().min(1).max(120),
  actions: z.array(WebAction).max(50),
});
export type WebSystem = z.infer<typeof WebSystem>;

export const webActionId = (systemId: string, action: string): string => `web.${systemId}.${action}`;

/** The actions as the plan's catalogue offers them. */
export const webActionSpecs = (systemId: string, system: WebSystem): ActionSpec[] =>
  system.actions.map((a) => ({
    id: webActionId(systemId, a.id),
    system: system.name,
    label: a.label,
    inputs: a.inputs,
    outputs: a.outputs.map(({ name, label, type, always }) => ({ name, label, type, always })),
    ...(a.undoneBy && { undoneBy: webActionId(systemId, a.undoneBy) }),
  }));

const plain = (v: Value): unknown => (Array.isArray(v) ? v.map(plain) : isPerson(v) ? v.person : isGroup(v) ? v.group : v);

/** The request to send for these inputs: path segments are encoded, the rest is the JSON body. */
export function webRequest(action: WebAction, inputs: Record<string, Value>): { path: string; body: Record<string, unknown> | undefined } {
  const used = new Set<string>();
  const path = action.path.replace(/\{(\w+)\}/g, (_, name: string) => {
    used.add(name);
    return encodeURIComponent(String(plain(inputs[name] ?? '')));
  });
  const rest = Object.entries(inputs).filter(([name]) => !used.has(name));
  return { path, body: action.method === 'GET' ? undefined : Object.fromEntries(rest.map(([name, v]) => [name, plain(v)])) };
}

/** Reads the outputs out of an answer; an answer that lacks one, or has another type there, is told. */
export function webOutputs(action: WebAction, answer: unknown): { ok: true; outputs: Record<string, Value> } | { ok: false; sentence: string } {
  const outputs: Record<string, Value> = {};
  for (const o of action.outputs) {
    const found = pointed(answer, o.at);
    const value = (found ?? null) as Value;
    if (value === null && o.always) return { ok: false, sentence: `The answer has nothing at “${o.at}”, where “${o.label}” should be.` };
    const typed =
      typeof value === 'string' && o.type === 'person'
        ? { person: value }
        : typeof value === 'string' && o.type === 'group'
          ? { group: value }
          : value;
    if (!isOfType(typed, o.type))
      return { ok: false, sentence: `The answer has ${JSON.stringify(found).slice(0, 80)} at “${o.at}”, which is not a ${typeWords[o.type]}.` };
    outputs[o.name] = typed;
  }
  return { ok: true, outputs };
}

/** The value a JSON Pointer names (RFC 6901); undefined where there is none. */
export function pointed(root: unknown, pointer: string): unknown {
  if (pointer === '') return root;
  return pointer
    .slice(1)
    .split('/')
    .map((s) => s.replaceAll('~1', '/').replaceAll('~0', '~'))
    .reduce<unknown>(
      (at, key) => (typeof at === 'object' && at !== null && Object.hasOwn(at, key) ? (at as Record<string, unknown>)[key] : undefined),
      root,
    );
}
