import { data, Form, redirect, useNavigation, useSearchParams } from 'react-router';
import { visibleFields } from '../../../core/forms/index.ts';
import { isEmpty, valueWords } from '../../../core/values/index.ts';
import { newToken } from '../../../server/auth/token.ts';
import { confirmOutside, fromOutside } from '../../../server/outside/ask.ts';
import { myRequest } from '../../../server/requests/queries.ts';
import { Button } from '~/ui/button';
import { Refused } from '~/ui/problem';
import { actOnRequest } from '../counter/request-act.server';
import { RequestBody } from '../counter/request-body';
import { orNotFound, refused, visitOf } from '../session.server';
import type { Route } from './+types/request';
import { linked } from './link.server';
import { LinkOver, OutsidePage } from './page';

export { TroubleOnPage as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = () => [{ title: 'Your request · Nessmoor' }, { name: 'robots', content: 'noindex' }];

/** Looking changes nothing, so that a mail program that opens links by itself asks for nothing. */
export async function loader({ context, params }: Route.LoaderArgs) {
  const found = await linked(params.token, visitOf(context).address, fromOutside);
  if (!found) return data({ is: 'over' as const }, { status: 404 });
  if ('follows' in found)
    return { is: 'followed' as const, r: orNotFound(await myRequest(found.follows, found.number), 'This request'), once: newToken() };
  const { form, answers, ...waits } = found.waits;
  const said = visibleFields(form, answers).flatMap((f) =>
    f.held === 'hidden' || isEmpty(answers[f.id])
      ? []
      : [{ label: f.label, words: valueWords(answers[f.id]!, () => undefined, f.options, f.columns, 'UTC') }],
  );
  return { is: 'waits' as const, ...waits, said };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const found = await linked(params.token, visitOf(context).address, fromOutside);
  // Nothing that is asked of those from outside is a file: none is taken from them.
  if (request.headers.get('content-type')?.startsWith('multipart/'))
    throw new Response('This page takes no files. Nothing was changed.', { status: 415 });
  if (found && 'follows' in found) return actOnRequest(found.follows, found.number, request);
  const confirmed = await confirmOutside(params.token);
  return confirmed.ok
    ? redirect(`/public/requests/${params.token}?sent`)
    : refused(confirmed, { question: '', answers: {}, names: {}, words: undefined });
}

export default function RequestFromOutside({ loaderData, actionData }: Route.ComponentProps) {
  const [search] = useSearchParams();
  const busy = useNavigation().formMethod === 'POST';
  const refusal = actionData && 'refusal' in actionData ? actionData.refusal : undefined;
  if (loaderData.is === 'over')
    return (
      <LinkOver>
        {refusal?.sentence ?? 'It is too old, or was cut short by a mail program. What was not sent within 24 hours is deleted; ask for it again.'}
      </LinkOver>
    );
  if (loaderData.is === 'followed')
    return (
      <OutsidePage>
        <RequestBody r={loaderData.r} once={loaderData.once} outcome={actionData} sent={search.has('sent')} isOutside />
        <p className="mt-8 border-t pt-4 text-sm text-faint">This page is yours by the link in our mail to you. Do not pass it on.</p>
      </OutsidePage>
    );
  const { item, name, mail, said } = loaderData;
  return (
    <OutsidePage>
      <h1 className="font-serif text-2xl">Send “{item}”?</h1>
      <p className="my-4">
        Nothing is asked yet. Look it over; what is sent goes out in your name, {name}, and answers come to {mail}.
      </p>
      <Refused sentence={refusal?.sentence} />
      <dl className="my-5 border-y py-4">
        {said.map((s) => (
          <div key={s.label} className="mb-2">
            <dt className="text-sm text-faint">{s.label}</dt>
            <dd className="break-words whitespace-pre-wrap">{s.words}</dd>
          </div>
        ))}
        {said.length === 0 && <p className="text-faint">Nothing was filled in.</p>}
      </dl>
      <Form method="post">
        <Button type="submit" weight="main" disabled={busy}>
          {busy ? 'Sending …' : 'Send the request'}
        </Button>
      </Form>
    </OutsidePage>
  );
}
