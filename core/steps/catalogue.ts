import { z } from 'zod';
import { own } from '../boundary/index.ts';
import type { ServiceHours } from '../calendar/index.ts';
import type { Column } from '../forms/index.ts';
import { ValueType, type Value } from '../values/index.ts';
import type { Part } from './part-definition.ts';

const Slot = z.object({ name: z.string(), label: z.string(), type: ValueType });

/** What one action of a system takes and gives. */
export const ActionSpec = z.object({
  /** `system.action`, such as `directory.addMember`. */
  id: z.string(),
  system: z.string(),
  label: z.string(),
  /**
   * `made`: no plan states it; a secret is made for each call. `known`: no plan states it; it is as the action took or answered it that
   * gave what this one is about. `most`: of a number, more than which the system refuses. `oneOf`: of a text, all that the system knows; `anyCase`: in small
   * letters or large.
   */
  inputs: z.array(
    Slot.extend({
      required: z.boolean(),
      made: z.boolean().optional(),
      known: z.boolean().optional(),
      most: z.number().optional(),
      oneOf: z.array(z.string()).optional(),
      anyCase: z.boolean().optional(),
    }),
  ),
  /** `always` false: the output may have no value even when the call succeeded. `secret`: it may go into a sealed note only. */
  outputs: z.array(Slot.extend({ always: z.boolean(), secret: z.boolean().optional() })),
  /** The action that takes back what this one gave; it takes the same inputs by name. */
  undoneBy: z.string().optional(),
  /** The action that makes its secrets anew; it takes the same inputs by name, and what this one gave. */
  anewBy: z.string().optional(),
  /** The output that is true when everything was found as wanted, so that there is nothing to take back. */
  unchangedWhen: z.string().optional(),
  /** It gives somebody something: its system's owners have to consent to an item that uses it, and somebody has to agree before. */
  grants: z.boolean().optional(),
  /** Nobody answers for its system: who has to consent to what it gives is not there. Left out: that is not known. */
  unowned: z.boolean().optional(),
  /**
   * It does something to what another action gave (`of`), which the plan states as its input `holding`. `until`: the output, or the input,
   * that says until which day that is lent from now on.
   */
  about: z.object({ of: z.string(), until: z.string().optional() }).optional(),
  /** More often than once in so long (ISO 8601) the system does not want to be asked for it. */
  apart: z.string().optional(),
  /** It may be accepted first and answered later: within this long (ISO 8601). */
  within: z.string().optional(),
  /** While it is under way, what people say about it can be mirrored: both ways, or only from there to here. */
  exchanges: z.enum(['bothWays', 'here']).optional(),
  /**
   * What a person holds afterwards: the input that names the person, or the output where they are known only then; and the output or the
   * input that names the thing; of what is lent, the one that says until which day. `byOthers`: whoever has it does not let go of it
   * themselves; others have the word.
   */
  gives: z
    .object({ kind: z.string(), person: z.string(), what: z.string(), until: z.string().optional(), byOthers: z.boolean().optional() })
    .optional(),
});
export type ActionSpec = z.infer<typeof ActionSpec>;

/** What the plan may name that lives outside it; given to the checks, so that they stay pure. */
export interface Catalogue {
  actions: ActionSpec[];
  /** Names of the persons that the plan names outright, and whether each still works here. */
  people: Record<string, { name: string; active: boolean }>;
  teams?: Record<string, { name: string; members: number }>;
  policies?: Record<string, { name: string; inputs: { name: string; label: string; type: ValueType }[] }>;
  parts?: Record<string, Part>;
  /** Routing tables by id, with what their columns look at. */
  routing?: Record<string, { name: string; columns: { fact: string; field?: string | undefined }[] }>;
  /**
   * Reference tables by id, with their columns. `looked`: what stands together in the columns that the plan looks rows up by, each
   * once; left out where that is not known, or too much.
   */
  tables?: Record<string, { name: string; columns: readonly Column[]; looked?: { columns: readonly string[]; rows: readonly Value[][] } }>;
  /** What people, groups, places, teams and rows are called that are stated outright as values, by `kind id`. */
  stated?: Record<string, string>;
  /** The service hours of everybody, by which tests of a form count working days; without them Monday to Friday do. */
  hours?: ServiceHours;
  /** What fields (`form.<id>`) and steps (`steps.<id>`) were called that are not there any more. */
  gone?: ReadonlyMap<string, string>;
}

/** The action with this id, where a registered system offers it. */
export const actionOf = (catalogue: Catalogue, id: string | undefined): ActionSpec | undefined => catalogue.actions.find((a) => a.id === id);
/** The input by which a plan states what an action is about. */
export const aboutSlot = { name: 'holding', label: 'Which holding', type: 'holding', required: true } as const;
/** What a plan states when it uses the action. */
export const statedInputs = (spec: ActionSpec): ActionSpec['inputs'] => [
  ...(spec.about ? [aboutSlot] : []),
  ...spec.inputs.filter((i) => !i.made && !i.known),
];
/** What an action took and answered that is kept of it, by name: what it answers before what it took. Nothing of it is secret. */
export function slotsOf(spec: ActionSpec): { name: string; label: string; type: ValueType; always: boolean }[] {
  const slots = [
    ...spec.outputs.filter((o) => !o.secret).map(({ name, label, type, always }) => ({ name, label, type, always })),
    ...statedInputs(spec).map(({ name, label, type, required }) => ({ name, label, type, always: required })),
  ];
  return slots.filter((s, at) => slots.findIndex((o) => o.name === s.name) === at);
}
/** The secrets that a call of it brings forth, made for it or answered by the system: whoever gets its sealed note reads these. */
export const secretsOf = (spec: ActionSpec): { name: string; label: string }[] => [
  ...spec.inputs.filter((i) => i.made),
  ...spec.outputs.filter((o) => o.secret),
];

/** The input and the output of an action that reads only, wants one text, and says yes or no of it; undefined of any other. */
export function saysWhether(spec: ActionSpec): { input: string; output: string } | undefined {
  const inputs = spec.inputs.filter((i) => i.required);
  const outputs = spec.outputs.filter((o) => o.type === 'boolean' && o.always);
  const [input, output] = [inputs[0], outputs[0]];
  if (spec.grants !== false || inputs.length !== 1 || outputs.length !== 1 || input?.type !== 'text' || !output) return undefined;
  return { input: input.name, output: output.name };
}

/** The part with this id, where it is published. */
export const partOf = (catalogue: Catalogue, id: string | undefined): Part | undefined => (id === undefined ? undefined : own(catalogue.parts, id));
