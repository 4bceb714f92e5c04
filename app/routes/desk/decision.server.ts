import type { Form } from '../../../core/forms/index.ts';
import type { Decision } from '../../../server/approvals/commands.ts';
import type { Roled } from '../../../server/auth/viewer.ts';
import { answersFrom } from '../counter/answers.server';
import type { Posted } from '../session.server';

/** The decision in a posted form; anything but the known words is refused as a bad request. `form`: what may be corrected. */
export async function decisionFrom(viewer: Roled, posted: Posted, form: Form): Promise<Decision> {
  const decision = posted.get('decision');
  if (decision !== 'approve' && decision !== 'decline' && decision !== 'sendBack')
    throw new Response('Say approve, decline or send back.', { status: 400 });
  const opened = posted.get('corrects') ? (await answersFrom(viewer, posted, form)).answers : undefined;
  return { decision, comment: posted.get('comment'), corrections: opened };
}
