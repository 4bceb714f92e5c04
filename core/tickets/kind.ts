import { z } from 'zod';
import { line, text } from '../boundary/index.ts';
import { Field, Form } from '../forms/index.ts';
import { checkMap, StatusMap, type MapFinding } from '../statuses/index.ts';
import { PriorityGrid, TicketPromise } from '../targets/index.ts';
import { isReference, piecesOf } from '../values/index.ts';
import { tellPlaces } from './move-gate.ts';

/** A kind of ticket: what is asked of whoever reports one, its statuses, how urgent it is, what is promised. */
export const TicketKind = z
  .object({
    name: line(60).trim().min(1, 'The kind needs a name.'),
    /** What it is for, to whoever reports. */
    summary: line(300),
    /** Whether people report such tickets at the Counter; others only the desk opens. */
    offered: z.boolean(),
    /** What it is about, chosen by whoever reports and by the desk. */
    categories: z.array(line(60).trim().min(1, 'A category needs a name.')).max(100),
    /** What is asked besides what, where and how bad it is. */
    form: Form,
    /** What the desk fills in. */
    desk: z.array(Field).max(40),
    map: StatusMap,
    priority: PriorityGrid,
    promises: z.array(TicketPromise).max(100),
    /** Ready words that the desk writes with. */
    replies: z.array(z.object({ name: line(60).trim().min(1, 'A reply needs a name.'), words: text(4000) })).max(100),
  })
  .superRefine((kind, ctx) => {
    const wrong = (path: (string | number)[], message: string) => ctx.addIssue({ code: 'custom', path, message });
    const known = new Set(kind.priority.priorities.map((p) => p.id));
    kind.promises.forEach((p, i) => {
      for (const id of [...p.priorities, ...(p.late.raise === undefined ? [] : [p.late.raise])])
        if (!known.has(id)) wrong(['promises', i], 'A promise names a priority that is not there any more.');
    });
    const names = new Set(kind.categories.map((c) => c.toLowerCase()));
    if (names.size < kind.categories.length) wrong(['categories'], 'Two categories have the same name.');
  });
export type TicketKind = z.infer<typeof TicketKind>;

/** What the check finds in a ticket kind. */
export function checkKind(kind: TicketKind): MapFinding[] {
  const known = new Set(tellPlaces(kind).map((p) => p.ref));
  return [
    ...checkMap(kind.map, new Set(kind.desk.map((f) => f.id))),
    ...kind.map.statuses.flatMap((s): MapFinding[] =>
      piecesOf(s.tells).some((p) => isReference(p) && !known.has(p.ref))
        ? [
            {
              code: 'unknown-value',
              stops: true,
              at: { status: s.id },
              sentence: `“${s.name}” tells the requester a value that is not there any more. Take it out, or pick another.`,
            },
          ]
        : [],
    ),
  ];
}
