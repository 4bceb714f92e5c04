import { and, eq, gt, isNull, sql } from 'drizzle-orm';
import { approval, person } from '../db/schema/index.ts';
import { hashToken } from './token.ts';

/** A one-time link that is still good: not used, not too old, and its approver is still asked. */
export const goodLink = (token: string) =>
  and(
    eq(approval.tokenHash, hashToken(token)),
    isNull(approval.tokenUsedAt),
    gt(approval.tokenExpiresAt, sql`now()`),
    eq(approval.status, 'waiting'),
    eq(person.active, true),
  );
