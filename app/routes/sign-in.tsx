import { useEffect } from 'react';
import { Form, redirect, useNavigation, useSearchParams } from 'react-router';
import { SignIn as SignInPost } from '../../core/posts/index.ts';
import { signIn } from '../../server/auth/sign-in.ts';
import { setSession } from '../../server/http/cookie.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import type { Route } from './+types/sign-in';
import { forgetAll } from './counter/kept-answers';
import { ourPath, posted, refused, visitOf } from './session.server';

export const meta = () => [{ title: 'Sign in · Nessmoor' }];

/** Only a path of ours; never an address elsewhere. */
const returnTo = (request: Request) => ourPath(new URL(request.url).searchParams.get('to') ?? '/');

export function loader({ context, request }: Route.LoaderArgs) {
  if (visitOf(context).viewer) throw redirect(returnTo(request));
  return null;
}

export async function action({ request, context }: Route.ActionArgs) {
  const form = await posted(request, 8000);
  const name = form.get('name');
  const result = await signIn(name, form.get('password'), visitOf(context));
  if (!result.ok) return refused(result, { name });
  return redirect(returnTo(request), { headers: { 'Set-Cookie': await setSession(result.cookie) } });
}

export default function SignIn({ actionData }: Route.ComponentProps) {
  const busy = useNavigation().state !== 'idle';
  const [search] = useSearchParams();
  const out = search.has('out');
  useEffect(() => {
    if (out) forgetAll();
  }, [out]);
  const post = usePost(SignInPost, { refusal: actionData?.refusal });
  return (
    <main id="main" className="mx-auto max-w-sm px-4 pt-24">
      <p className="font-serif text-2xl font-semibold tracking-tight">Nessmoor</p>
      <h1 className="mt-1 mb-6 text-faint">Sign in to ask, approve and design.</h1>
      <Refused sentence={post.sentence} />
      <Form method="post" {...post.form} className="space-y-4">
        <Labelled label="User name or mail address" problem={post.problem('name')}>
          {(ids) => <input {...ids} className="input" name="name" autoComplete="username" defaultValue={actionData?.name} required autoFocus />}
        </Labelled>
        <Labelled label="Password" problem={post.problem('password')}>
          {(ids) => <input {...ids} className="input" name="password" type="password" autoComplete="current-password" required />}
        </Labelled>
        <Button type="submit" weight="main" className="w-full" aria-disabled={busy}>
          {busy ? 'Signing in …' : 'Sign in'}
        </Button>
      </Form>
    </main>
  );
}
