import { z } from 'zod';
import { line } from '../../boundary/index.ts';
import { Duration } from '../../calendar/index.ts';
import { Field } from '../../forms/index.ts';
import { Id, Key, PersonValue, Reference } from '../../values/index.ts';
import { base, kind } from '../base.ts';
import { Passage, Reminders } from '../settings.ts';

/** Who does a task: a team, a stated person, or the person or team that stands at a place. */
export const Assignee = z.union([z.object({ team: Key }), z.object({ person: PersonValue }), z.object({ from: Reference })]);
export type Assignee = z.infer<typeof Assignee>;

/**
 * Who does a task: one of these, or whoever a routing table names when it begins, by what is known of the request. `place`: the place that
 * counts; absent: that of the requester.
 */
export const TaskAssignee = z.union([Assignee, z.object({ routed: Key, place: Reference.optional() })]);
export type TaskAssignee = z.infer<typeof TaskAssignee>;

/** When a task is due: after working time, or at the close of the desk on a date, or so many working days before it. */
export const Due = z.union([
  z.object({ within: Duration }),
  z.object({ by: Reference, workingDaysBefore: z.number().int().min(1).max(60).optional() }),
]);
export type Due = z.infer<typeof Due>;

/** What happens with a task that is due and not done; it is not lost by it. */
export const Late = z.object({
  /** Whoever has it, or everyone of its team while nobody has, is told once it is late, and again each time so much working time later. */
  reminders: Reminders.optional(),
  /** Once it has been late for so much working time, somebody is told of it, or it is theirs from then on. */
  raise: z.object({ after: Duration, to: Assignee.optional(), how: z.enum(['tell', 'handOver']) }).optional(),
});
export type Late = z.infer<typeof Late>;

/** A line of a checklist. */
export const ChecklistItem = z.object({ id: Id, words: line(200) });
export type ChecklistItem = z.infer<typeof ChecklistItem>;

/** Somebody does something and says when it is done. */
export const Task = z.object({
  ...base,
  kind: kind('task'),
  assignee: TaskAssignee.optional(),
  instructions: z.array(Passage).max(30),
  checklist: z.array(ChecklistItem).max(50),
  /** What whoever does it fills in; later steps use it. */
  fields: z.array(Field).max(50),
  /** The fields of the request that whoever does it may correct while it is open. */
  corrects: z.array(Id).max(50).optional(),
  due: Due.optional(),
  late: Late.optional(),
  /** Everyone in the team is told by mail when it arrives; a person always is. */
  tellTeam: z.literal(true).optional(),
});
export type Task = z.infer<typeof Task>;
