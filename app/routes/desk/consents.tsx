import { Form, Link, useNavigation } from 'react-router';
import { ConsentDecision } from '../../../core/posts/index.ts';
import { decideConsent } from '../../../server/consents/commands.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Empty, Page } from '~/ui/frame';
import { StateMark } from '~/ui/state-mark';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { Time } from '~/ui/time';
import type { Refusal } from '../../../server/refusal.ts';
import { posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/consents';
import { consentsFor } from '../../../server/consents/queries.ts';

export { TroubleOnPage as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Consents · Desk · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  return { consents: await consentsFor(viewer), designs: viewer.roles.includes('designer') };
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const decision = form.get('decision');
  if (decision !== 'approve' && decision !== 'decline') throw new Response('Say whether you consent.', { status: 400 });
  const id = form.get('id');
  const result = await decideConsent(viewer, { id, decision, comment: form.get('comment') });
  return result.ok ? null : refused(result, { id, comment: form.get('comment') });
}

const words = { waiting: '', approved: 'Consented', declined: 'Declined' };

export default function Consents({ loaderData: { consents, designs }, actionData }: Route.ComponentProps) {
  const busy = useNavigation().state !== 'idle';
  const waiting = consents.filter((c) => c.status === 'waiting');
  const decided = consents.filter((c) => c.status !== 'waiting');
  return (
    <Page>
      <div className="max-w-3xl">
        <h1 className="mb-1 font-serif text-2xl">Consents</h1>
        <p className="mb-4 text-faint">
          You answer for a system. An item that gives people something of it is published only with the consent of one of its owners, other than
          whoever publishes it.
        </p>
        {waiting.length === 0 && <Empty>Nothing waits for your consent.</Empty>}
        <ul className={waiting.length ? 'border-t' : 'hidden'}>
          {waiting.map((c) => (
            <li key={c.id} className="border-b py-4">
              <p className="flex items-center gap-2">
                <StateMark kind="half" />
                {designs ? (
                  <Link to={`/workshop/items/${c.itemId}/plan`} className="font-serif text-lg hover:text-sea">
                    {c.item}
                  </Link>
                ) : (
                  <span className="font-serif text-lg">{c.item}</span>
                )}
              </p>
              <p>
                is to give people: <span className="font-medium">{c.label}</span>
              </p>
              <p className="text-sm text-faint">
                Asked by {c.askedBy}, <Time at={c.askedAt} />
              </p>
              {c.own ? (
                <p className="mt-2">You asked for it yourself, so another owner has to consent.</p>
              ) : (
                <Decide id={c.id} busy={busy} refused={actionData?.id === c.id ? actionData : undefined} />
              )}
            </li>
          ))}
        </ul>
        {decided.length > 0 && (
          // Nothing in it takes the keyboard, and it may be longer than the screen: the keyboard has to get there to read on.
          <section aria-label="Lately" tabIndex={0}>
            <h2 className="mt-8 mb-2 text-sm text-faint">Lately</h2>
            <ul className="border-t text-sm">
              {decided.map((c) => (
                <li key={c.id} className="flex flex-wrap items-center gap-x-2 border-b py-1.5">
                  <StateMark kind={c.status === 'approved' ? 'done' : 'declined'} size={12} />
                  <span className="min-w-0 flex-1">
                    {words[c.status]}: {c.item} may give “{c.label}”{c.comment && `, “${c.comment}”`}
                  </span>
                  {c.decidedAt && (
                    <span className="ml-auto text-faint">
                      <Time at={c.decidedAt} />
                    </span>
                  )}
                </li>
              ))}
            </ul>
          </section>
        )}
      </div>
    </Page>
  );
}

function Decide({ id, busy, refused }: { id: string; busy: boolean; refused: { refusal: Refusal; comment: string } | undefined }) {
  const post = usePost(ConsentDecision, { refusal: refused?.refusal });
  return (
    <Form method="post" {...post.form} className="mt-3 space-y-3">
      <input type="hidden" name="id" value={id} />
      <Refused sentence={post.sentence} />
      <Labelled label="Comment" help="Needed when you decline." problem={post.problem('comment')}>
        {(ids) => <textarea {...ids} name="comment" rows={2} className="input" maxLength={2000} defaultValue={refused?.comment ?? ''} />}
      </Labelled>
      <div className="flex gap-2">
        <Button type="submit" name="decision" value="approve" weight="main" disabled={busy}>
          Consent
        </Button>
        <Button type="submit" name="decision" value="decline" weight="decline" disabled={busy}>
          Decline
        </Button>
      </div>
    </Form>
  );
}
