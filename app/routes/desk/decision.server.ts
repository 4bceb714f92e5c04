import { text } from '../session.server';

/** The decision in a posted form; anything but the two words is refused as a bad request. */
export function decisionFrom(form: FormData): { decision: 'approve' | 'decline'; comment: string } {
  const decision = text(form, 'decision');
  if (decision !== 'approve' && decision !== 'decline') throw new Response('Say approve or decline.', { status: 400 });
  return { decision, comment: text(form, 'comment') };
}
