import { Form, Link, redirect, useNavigation } from 'react-router';
import { createPolicy } from '../../../server/policies/commands.ts';
import { policies } from '../../../server/policies/queries.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Empty, Frame } from '~/ui/frame';
import { Time } from '~/ui/time';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { found, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/policies';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Approval policies · Workshop · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  return { policies: found(await policies(signedIn(context, request)), 'The Workshop') };
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const name = (await posted(request)).get('name');
  const result = await createPolicy(viewer, { name });
  return result.ok ? redirect(`/workshop/policies/${result.id}`) : refused(result, { name });
}

export default function Policies({ loaderData, actionData }: Route.ComponentProps) {
  const busy = useNavigation().formMethod === 'POST';
  return (
    <Frame marginLabel="Workshop" margin={<WorkshopMargin at="policies" />}>
      <h1 className="font-serif text-2xl">Approval policies</h1>
      <p className="mb-4 max-w-2xl text-faint">
        Who has to agree, by amount, size or category, kept in one place. A change works everywhere from the next gate on; no item is touched.
      </p>
      {loaderData.policies.length === 0 ? (
        <Empty>No policy yet. Begin one below, and let gates follow it.</Empty>
      ) : (
        <ul className="max-w-3xl border-t">
          {loaderData.policies.map((p) => (
            <li key={p.id} className="border-b py-2.5">
              <Link to={`/workshop/policies/${p.id}`} className="font-serif text-lg hover:text-sea">
                {p.name}
              </Link>
              <span className="block text-faint">
                {p.purpose} {p.lines} {p.lines === 1 ? 'line' : 'lines'}, changed <Time at={p.changedAt} relative /> by {p.changedBy}
              </span>
            </li>
          ))}
        </ul>
      )}
      <Form method="post" className="mt-6 flex max-w-md items-end gap-2">
        <div className="grow">
          <Labelled label="Begin a policy" problem={actionData?.refusal.sentence}>
            {(ids) => <input {...ids} name="name" className="input" maxLength={80} defaultValue={actionData?.name} placeholder="Its name" />}
          </Labelled>
        </div>
        <Button type="submit" disabled={busy}>
          Begin
        </Button>
      </Form>
    </Frame>
  );
}
