import { Form, Link, redirect, useNavigation } from 'react-router';
import { Begun } from '../../../core/posts/index.ts';
import { shippedKinds } from '../../../core/tickets/index.ts';
import { createKind } from '../../../server/kinds/commands.ts';
import { kindsListed } from '../../../server/kinds/queries.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Empty, Page, Place } from '~/ui/frame';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { Select } from '~/ui/select';
import { Time } from '~/ui/time';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/kinds';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Ticket kinds · Workshop · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const kinds = orNotFound(await kindsListed(signedIn(context, request)), 'The Workshop');
  return {
    kinds: kinds.map(({ definition: d, ...k }) => ({ ...k, summary: d.summary, offered: d.offered, statuses: d.map.statuses.length })),
    models: shippedKinds.map((k) => ({ name: k.name, summary: k.summary })),
  };
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const name = form.get('name');
  const result = await createKind(viewer, { name, like: form.get('like') });
  return result.ok ? redirect(`/workshop/kinds/${result.id}`) : refused(result, { name });
}

export default function Kinds({ loaderData: { kinds, models }, actionData }: Route.ComponentProps) {
  const busy = useNavigation().formMethod === 'POST';
  const post = usePost(Begun, { refusal: actionData?.refusal });
  return (
    <Place marginLabel="Workshop" margin={<WorkshopMargin at="kinds" />}>
      <Page>
        <div className="max-w-3xl">
          <h1 className="font-serif text-2xl">Ticket kinds</h1>
          <p className="mt-1 mb-5 text-faint">
            What people report and the desk works on: what is asked, through which statuses it goes, how urgent it is, what is promised.
          </p>
          <Refused sentence={post.sentence} />
          {kinds.length === 0 ? (
            <Empty>No kind yet. Begin with one that is like what most people report.</Empty>
          ) : (
            <ul className="border-t">
              {kinds.map((k) => (
                <li key={k.id} className="border-b py-2">
                  <Link to={`/workshop/kinds/${k.id}`} className="font-medium hover:text-sea">
                    {k.name}
                  </Link>
                  <span className="ml-3 text-sm text-faint">
                    <span className="numbers">{k.open}</span> open · {k.statuses} statuses ·{' '}
                    {k.offered ? 'reported at the Counter' : 'opened by the desk'} · changed <Time at={k.changedAt} relative />
                  </span>
                  <span className="block text-sm text-faint">{k.summary}</span>
                </li>
              ))}
            </ul>
          )}
          <Form method="post" {...post.form} className="mt-6 flex flex-wrap items-end gap-3">
            <Labelled label="Name of a new kind" problem={post.problem('name')}>
              {(ids) => <input {...ids} name="name" className="input w-72" maxLength={60} defaultValue={actionData?.name} />}
            </Labelled>
            <Labelled label="It begins like">
              {(ids) => (
                <Select {...ids} name="like" defaultValue={models[0]!.name}>
                  {models.map((m) => (
                    <option key={m.name} value={m.name}>
                      {m.name}
                    </option>
                  ))}
                </Select>
              )}
            </Labelled>
            <Button type="submit" disabled={busy}>
              Begin a kind
            </Button>
          </Form>
        </div>
      </Page>
    </Place>
  );
}
