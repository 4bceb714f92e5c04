import { z } from 'zod';
import { line } from '../boundary/index.ts';
import { Key } from '../values/index.ts';

/** How mail of people that nobody here knows is met. */
export const unknownSenders = ['refuse', 'take'] as const;
/** What programs send on their own: left alone, or a ticket that is answered with nothing (RFC 3834, 2). */
export const automaticMails = ['leave', 'take'] as const;

const Opens = {
  /** The kind of ticket that is opened. */
  kind: Key,
  category: line(60).nullable(),
};

/** A way by which tickets come in besides the Counter: an address of ours, or a channel in chat. */
export const IntakeWay = z.discriminatedUnion('via', [
  z.object({
    via: z.literal('mail'),
    /** What stands before the @; none of its letters parts off a sub-address (RFC 5233). */
    name: line(60)
      .trim()
      .toLowerCase()
      .regex(/^[a-z0-9]+([._-][a-z0-9]+)*$/, 'An address is made of letters, digits and single dots or hyphens.')
      .refine((name) => name !== 'decide', 'This address is where approvals are answered. Choose another.'),
    ...Opens,
    unknown: z.enum(unknownSenders),
    automatic: z.enum(automaticMails),
  }),
  z.object({
    via: z.literal('chat'),
    /** What the channel is called there, without its sign. */
    name: line(100)
      .trim()
      .toLowerCase()
      .regex(/^[a-z0-9]+([._-][a-z0-9]+)*$/, 'A channel is called by letters, digits and single dots or hyphens.'),
    ...Opens,
  }),
]);
export type IntakeWay = z.infer<typeof IntakeWay>;
