import { z } from 'zod';
import { line, text } from '../boundary/index.ts';
import { Duration, Expected, Span } from '../calendar/index.ts';
import { Condition } from '../conditions/index.ts';
import { Field } from '../forms/index.ts';
import { Id, Key, Operand, Reference, Retired, RichText, ValueType } from '../values/index.ts';
import { Approvers, Assignee, Due, GateRule, Join, Lookup, NobodyAnswer, Outcome, Passage, Reminders, Retries, Until } from './settings.ts';

/** A draft may leave settings unset; the check finds them. */
const base = { id: Id, name: line(120).trim().min(1, 'Every step has a name.'), expected: Expected };
const kind = <K extends string>(k: K) => z.literal(k);

const gateSettings = {
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
export interface Gate extends z.infer<z.ZodObject<typeof gateSettings>> {
  approved?: Block | undefined;
  declined?: Block | undefined;
  lapsed?: Block | undefined;
}

export const Check = z.object({ id: Id, words: line(200) });
export type Check = z.infer<typeof Check>;
const Task = z.object({
  ...base,
  kind: kind('task'),
  assignee: Assignee.optional(),
  instructions: z.array(Passage).max(30),
  checklist: z.array(Check).max(50),
  /** What the fulfiller fills in; later steps use it. */
  fields: z.array(Field).max(50),
  due: Due.optional(),
});
export type Task = z.infer<typeof Task>;

const Provision = z.object({
  ...base,
  kind: kind('provision'),
  action: Key.optional(),
  inputs: z.record(Id, Operand),
  retries: Retries.optional(),
  /** The action that takes this back when the run is undone; absent: the one the system states; `none`: nothing. */
  undo: Key.optional(),
});
export type Provision = z.infer<typeof Provision>;

const Tell = z.object({
  ...base,
  kind: kind('tell'),
  to: Reference.optional(),
  by: z.enum(['mail', 'chat']).optional(),
  subject: RichText,
  body: z.array(Passage).max(30),
});
export type Tell = z.infer<typeof Tell>;

const AskBack = z.object({
  ...base,
  kind: kind('askBack'),
  to: Reference.optional(),
  question: RichText,
  fields: z.array(Field).max(50),
  reminders: Reminders.optional(),
});
export type AskBack = z.infer<typeof AskBack>;

const Find = z.object({ ...base, kind: kind('find'), lookup: Lookup.optional() });
export type Find = z.infer<typeof Find>;

const WorkOut = z.object({ ...base, kind: kind('workOut'), feel: text(2000), type: ValueType });
export type WorkOut = z.infer<typeof WorkOut>;

const Pause = z.object({ ...base, kind: kind('pause'), until: Until.optional() });
export type Pause = z.infer<typeof Pause>;

const Mark = z.object({
  ...base,
  kind: kind('mark'),
  /** A milestone the requester sees being reached, or a status that holds from here on. */
  shows: z.enum(['milestone', 'status']),
  words: line(120),
  /** From here on the requester cannot withdraw. */
  noReturn: z.boolean().optional(),
});
export type Mark = z.infer<typeof Mark>;

const Finish = z.object({ ...base, kind: kind('finish'), outcome: Outcome.optional() });
export type Finish = z.infer<typeof Finish>;

const PartCall = z.object({ ...base, kind: kind('part'), part: Key.optional(), inputs: z.record(Id, Operand) });
export type PartCall = z.infer<typeof PartCall>;

interface Base {
  id: string;
  name: string;
  expected: Expected;
}
export interface Case {
  id: string;
  name: string;
  when?: Condition | undefined;
  /** How often, in percent of requests; for the time analysis. */
  share?: number | undefined;
  block: Block;
}
export interface Choose extends Base {
  kind: 'choose';
  cases: Case[];
  otherwise?: Block | undefined;
}
export interface Together extends Base {
  kind: 'together';
  join: Join;
  branches: { id: string; name: string; block: Block }[];
}
export interface ForEach extends Base {
  kind: 'forEach';
  list?: Reference | undefined;
  /** How many rounds run at once; 1 is in order, absent is all. */
  atOnce?: number | undefined;
  body: Block;
}
export interface Repeat extends Base {
  kind: 'repeat';
  body: Block;
  /** Tested after each round; once it holds the repeat is over. */
  until?: Condition | undefined;
  pause?: Span | undefined;
  tries?: number | undefined;
  deadline?: Span | undefined;
}
export interface Guard extends Base {
  kind: 'guard';
  body: Block;
  remedy: Block;
  deadline?: Span | undefined;
  late?: Block | undefined;
}
export type Step =
  Gate | Task | Provision | Tell | AskBack | Find | WorkOut | Pause | Mark | Finish | PartCall | Choose | Together | ForEach | Repeat | Guard;
export type StepKind = Step['kind'];
export type StepOf<K extends StepKind> = Extract<Step, { kind: K }>;
/** Steps in order. */
export type Block = Step[];

export const Step: z.ZodType<Step> = z.lazy(() =>
  z.discriminatedUnion('kind', [
    z.object({ ...gateSettings, approved: Block.optional(), declined: Block.optional(), lapsed: Block.optional() }),
    Task,
    Provision,
    Tell,
    AskBack,
    Find,
    WorkOut,
    Pause,
    Mark,
    Finish,
    PartCall,
    z.object({
      ...base,
      kind: kind('choose'),
      cases: z
        .array(z.object({ id: Id, name: line(120), when: Condition.optional(), share: z.number().min(0).max(100).optional(), block: Block }))
        .max(50),
      otherwise: Block.optional(),
    }),
    z.object({
      ...base,
      kind: kind('together'),
      join: Join,
      branches: z.array(z.object({ id: Id, name: line(120), block: Block })).max(20),
    }),
    z.object({ ...base, kind: kind('forEach'), list: Reference.optional(), atOnce: z.number().int().min(1).max(100).optional(), body: Block }),
    z.object({
      ...base,
      kind: kind('repeat'),
      body: Block,
      until: Condition.optional(),
      pause: Span.optional(),
      tries: z.number().int().min(1).max(1000).optional(),
      deadline: Span.optional(),
    }),
    z.object({ ...base, kind: kind('guard'), body: Block, remedy: Block, deadline: Span.optional(), late: Block.optional() }),
  ]),
);
export const Block: z.ZodType<Block> = z.lazy(() => z.array(Step).max(300));

/** A piece of a plan that items share. Its steps read `part.<input>`; its outputs name places inside it. */
export const Part = z.object({
  name: line(80),
  inputs: z.array(z.object({ name: Id, label: line(120), type: ValueType, required: z.boolean() })).max(50),
  outputs: z.array(z.object({ name: Id, label: line(120), type: ValueType, from: Reference })).max(50),
  steps: Block,
});
export type Part = z.infer<typeof Part>;

/** The steps a request goes through. Always well nested: compound steps hold blocks. */
export const Plan = z.object({
  steps: Block,
  /** The parts the steps name, as they were when the item was published; a draft reads them from the catalogue. */
  parts: z.record(Key, Part).optional(),
  /** Keys of steps that are not here any more. */
  retired: Retired.optional(),
  /** The outcomes after which everything provisioned is taken back, last first. */
  undoWhen: z.array(z.enum(['failed', 'declined', 'lapsed', 'withdrawn'])).optional(),
});
export type Plan = z.infer<typeof Plan>;
