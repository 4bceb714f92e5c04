import { Form, useNavigation } from 'react-router';
import { PasswordChange } from '../../core/posts/index.ts';
import { changePassword, endOwnSession } from '../../server/auth/sign-in.ts';
import { sessionsOf } from '../../server/auth/viewer.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Frame } from '~/ui/frame';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { Time } from '~/ui/time';
import type { Route } from './+types/account';
import { browserWords } from './browser.server';
import { posted, refused, signedIn, visitOf } from './session.server';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'My account · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const sessions = await sessionsOf(viewer, visitOf(context).cookie ?? '');
  return { name: viewer.name, email: viewer.email, sessions: sessions.map((s) => ({ ...s, browser: browserWords(s.agent) })) };
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const { cookie = '', address } = visitOf(context);
  const form = await posted(request, 8000);
  const session = form.get('session');
  const result = session
    ? await endOwnSession(viewer, session, cookie)
    : await changePassword(viewer, { now: form.get('now'), next: form.get('next'), cookie, address });
  return result.ok ? { done: session ? ('session' as const) : ('password' as const), ended: result.ended } : refused(result, {});
}

export default function Account({ loaderData: { name, email, sessions }, actionData }: Route.ComponentProps) {
  const busy = useNavigation().state !== 'idle';
  const post = usePost(PasswordChange, { refusal: actionData && 'refusal' in actionData ? actionData.refusal : undefined });
  const done = actionData && 'done' in actionData ? actionData : undefined;
  return (
    <Frame>
      <div className="max-w-3xl">
        <h1 className="font-serif text-2xl">My account</h1>
        <p className="mb-6 text-faint">
          {name}, {email}
        </p>
        <h2 className="mb-2 font-medium">Change my password</h2>
        <Refused sentence={post.sentence} />
        {done?.done === 'password' && (
          <p role="status" className="mb-3 border-l-3 border-moss bg-moss-wash px-3 py-2">
            The password is changed.{' '}
            {done.ended === 0
              ? 'There was no other session.'
              : `${done.ended === 1 ? 'One other session was' : `${done.ended} other sessions were`} ended.`}
          </p>
        )}
        <Form key={done?.done} method="post" {...post.form} className="mb-8 max-w-sm space-y-4">
          <Labelled label="Present password" problem={post.problem('now')}>
            {(ids) => <input {...ids} className="input" name="now" type="password" autoComplete="current-password" required />}
          </Labelled>
          <Labelled
            label="New password"
            problem={post.problem('next')}
            help="8 characters or more; a few words that do not belong together are good."
          >
            {(ids) => <input {...ids} className="input" name="next" type="password" autoComplete="new-password" required />}
          </Labelled>
          <Button type="submit" weight="main" disabled={busy}>
            Change it and end my other sessions
          </Button>
        </Form>
        <h2 className="mb-1 font-medium">Where I am signed in</h2>
        <p className="mb-2 text-sm text-faint">A session ends by itself after 2 hours without use, and after 12 hours at the latest.</p>
        <ul className="border-t">
          {sessions.map((s) => (
            <li key={s.id} className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b py-2">
              <span className="min-w-0 grow">
                <span className="block truncate" data-tip={s.agent}>
                  {s.browser}
                </span>
                <span className="block text-sm text-faint">
                  <span className="numbers">{s.address}</span> · since <Time at={s.createdAt} /> · last used <Time at={s.seenAt} relative />
                </span>
              </span>
              {s.here ? (
                <span className="text-sm text-moss">this one</span>
              ) : (
                <Form method="post">
                  <Button type="submit" name="session" value={s.id} disabled={busy}>
                    End it
                  </Button>
                </Form>
              )}
            </li>
          ))}
        </ul>
        {sessions.length > 1 && (
          <Form method="post" className="mt-3">
            <Button type="submit" name="session" value="others" disabled={busy}>
              End all but this one
            </Button>
          </Form>
        )}
      </div>
    </Frame>
  );
}
