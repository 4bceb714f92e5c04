import { Form, Link, redirect, useNavigation } from 'react-router';
import { Begun } from '../../../core/posts/index.ts';
import { teamChoices } from '../../../server/people/find.ts';
import { createRouting } from '../../../server/routing/commands.ts';
import { routings } from '../../../server/routing/queries.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Empty, Page, Place } from '~/ui/frame';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { Select } from '~/ui/select';
import { Time } from '~/ui/time';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/routing';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Routing · Workshop · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  return { tables: orNotFound(await routings(signedIn(context, request)), 'The Workshop'), teams: await teamChoices() };
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const name = form.get('name');
  const result = await createRouting(viewer, { name, team: form.get('team'), for: form.get('for') === 'tasks' ? 'tasks' : 'tickets' });
  return result.ok ? redirect(`/workshop/routing/${result.id}`) : refused(result, { name });
}

export default function Routing({ loaderData: { tables, teams }, actionData }: Route.ComponentProps) {
  const busy = useNavigation().formMethod === 'POST';
  const post = usePost(Begun, { refusal: actionData?.refusal });
  return (
    <Place marginLabel="Workshop" margin={<WorkshopMargin at="routing" />}>
      <Page>
        <div className="max-w-3xl">
          <h1 className="font-serif text-2xl">Routing</h1>
          <p className="mt-1 mb-5 text-faint">
            Who gets a ticket, by what is known of it when it comes in: one table routes them all. Others say who does a task of a request, where its
            plan names them. A change counts from the next one on.
          </p>
          <Refused sentence={post.sentence} />
          {tables.length === 0 ? (
            <Empty>No table yet. Begin one with the team that gets everything, and add rows for what goes elsewhere.</Empty>
          ) : (
            <ul className="border-t">
              {tables.map((t) => (
                <li key={t.id} className="border-b py-2">
                  <Link to={`/workshop/routing/${t.id}`} className="font-medium hover:text-sea">
                    {t.name}
                  </Link>
                  <span className="block text-sm text-faint">
                    {t.rows === 1 ? '1 row' : `${t.rows} rows`}; changed by {t.changedBy ?? 'somebody'} <Time at={t.changedAt} relative />
                    {t.forTickets && '; routes tickets'}
                  </span>
                </li>
              ))}
            </ul>
          )}
          <Form method="post" {...post.form} className="mt-6 flex flex-wrap items-end gap-3">
            <Labelled label="Name of a new table" problem={post.problem('name')}>
              {(ids) => <input {...ids} name="name" className="input w-72" maxLength={80} defaultValue={actionData?.name} />}
            </Labelled>
            <Labelled label="What goes by it">
              {(ids) => (
                <Select {...ids} name="for" defaultValue={tables.some((t) => t.forTickets) ? 'tasks' : 'tickets'}>
                  <option value="tickets">Tickets</option>
                  <option value="tasks">Tasks of requests</option>
                </Select>
              )}
            </Labelled>
            <Labelled label="What no row takes goes to">
              {(ids) => (
                <Select {...ids} name="team" defaultValue={teams[0]?.id ?? ''}>
                  {teams.map((t) => (
                    <option key={t.id} value={t.id}>
                      {t.name}
                    </option>
                  ))}
                </Select>
              )}
            </Labelled>
            <Button type="submit" disabled={busy}>
              Begin a table
            </Button>
          </Form>
        </div>
      </Page>
    </Place>
  );
}
