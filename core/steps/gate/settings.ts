import { z } from 'zod';
import { Duration } from '../../calendar/index.ts';
import { GroupValue, Id, Key, Operand, PersonValue, Reference } from '../../values/index.ts';
import { base, kind, type BlockSchema } from '../base.ts';
import { Reminders } from '../settings.ts';
import type { Block } from '../step.ts';

const simple = [
  z.object({ from: z.literal('people'), people: z.array(PersonValue).min(1).max(50) }),
  /** A person, or each of a list of people. */
  z.object({ from: z.literal('person'), person: Reference }),
  /** The manager, or the one that many levels up. */
  z.object({ from: z.literal('managerOf'), person: Reference, levels: z.number().int().min(1).max(10).optional() }),
  /** Of the group that a value names, or always of the same one. */
  z.object({ from: z.literal('ownersOf'), group: z.union([Reference, z.object({ literal: GroupValue })]) }),
  z.object({ from: z.literal('team'), team: Key }),
] as const;
/** One place that approvers are found in. */
export const ApproverSource = z.union(simple);
export type ApproverSource = z.infer<typeof ApproverSource>;

/** Who decides at a gate. Looked up when the gate opens. */
export const Approvers = z.union([
  ...simple,
  /** Everybody whom one of these leads to; who is found by two of them is asked once, and speaks for both. */
  z.object({ from: z.literal('several'), of: z.array(ApproverSource).min(2).max(6) }),
  /**
   * The chain of command upwards from a person, one after another: at most `levels`, and where an amount is given
   * only as far as the first level whose limit covers it. `limits[0]` belongs to the first level; a level without one has none.
   */
  z.object({
    from: z.literal('chain'),
    person: Reference,
    levels: z.number().int().min(1).max(10),
    amount: Reference.optional(),
    limits: z.array(z.number()).max(10).optional(),
  }),
  /** A policy kept in one place; `inputs` gives its values by name. */
  z.object({ from: z.literal('policy'), policy: Key, inputs: z.record(Id, Operand) }),
]);
export type Approvers = z.infer<typeof Approvers>;

const counted = [
  z.object({ rule: z.literal('all') }),
  z.object({ rule: z.literal('any') }),
  z.object({ rule: z.literal('atLeast'), count: z.number().int().min(1).max(50) }),
  z.object({ rule: z.literal('first') }),
] as const;
/** When n approvers have let something pass. */
export const CountRule = z.union(counted);
/** When the gate lets the request pass, over its approvers: by number, or one of each of its sources. */
export const GateRule = z.union([...counted, z.object({ rule: z.literal('oneOfEach') })]);
export type GateRule = z.infer<typeof GateRule>;

/** What the gate does when nobody is left to ask. */
export const NobodyAnswer = z.union([
  z.object({ then: z.literal('ask'), person: PersonValue }),
  z.object({ then: z.literal('pass') }),
  z.object({ then: z.literal('fail') }),
]);
export type NobodyAnswer = z.infer<typeof NobodyAnswer>;

const settings = {
  ...base,
  kind: kind('gate'),
  approvers: Approvers.optional(),
  rule: GateRule,
  /** All at once, or the next when the one before has approved. */
  order: z.enum(['together', 'inTurn']).optional(),
  ownRequest: z.enum(['skip', 'manager', 'allow']),
  nobody: NobodyAnswer.optional(),
  reminders: Reminders.optional(),
  /** Working time after which the gate lapses. */
  deadline: Duration.optional(),
  /** Fields of the form that an approver may correct before deciding. */
  corrects: z.array(Id).max(50).optional(),
  sendBack: z.boolean().optional(),
};
/** A gate that stands in no plan of an item: without what only such a plan or its form can have. */
export const PlainGate = z.object(settings).omit({ corrects: true, sendBack: true, forRequester: true });
export type PlainGate = z.infer<typeof PlainGate>;
/** Nothing passes until the approvers have let it. Without a block of their own a decline and a lapse end the request. */
export interface Gate extends z.infer<z.ZodObject<typeof settings>> {
  approved?: Block | undefined;
  declined?: Block | undefined;
  lapsed?: Block | undefined;
}
/** The schema of a gate; `block` is that of what it holds. */
export const gateSchema = (block: BlockSchema) =>
  z.object({ ...settings, approved: block.optional(), declined: block.optional(), lapsed: block.optional() });
