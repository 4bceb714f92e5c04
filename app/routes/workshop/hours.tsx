import { Form, Link, redirect, useNavigation } from 'react-router';
import { dayHoursWords } from '../../../core/calendar/index.ts';
import { Begun } from '../../../core/posts/index.ts';
import { createHours } from '../../../server/hours/commands.ts';
import { allHours } from '../../../server/hours/queries.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Empty, Page, Place } from '~/ui/frame';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/hours';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Service hours · Workshop · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  return { hours: orNotFound(await allHours(signedIn(context, request)), 'The Workshop') };
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const name = (await posted(request)).get('name');
  const result = await createHours(viewer, { name });
  return result.ok ? redirect(`/workshop/hours/${result.id}`) : refused(result, { name });
}

/** For whom hours count, in words. */
const whoseWords = (h: { everywhere: boolean; teams: string[]; places: string[] }): string =>
  [...h.teams, ...h.places, ...(h.everywhere ? ['everybody who has none nearer'] : [])].join(', ') || 'nobody yet';

export default function AllHours({ loaderData: { hours }, actionData }: Route.ComponentProps) {
  const busy = useNavigation().formMethod === 'POST';
  const post = usePost(Begun, { refusal: actionData?.refusal });
  return (
    <Place marginLabel="Workshop" margin={<WorkshopMargin at="hours" />}>
      <Page>
        <div className="max-w-3xl">
          <h1 className="font-serif text-2xl">Service hours</h1>
          <p className="mt-1 mb-5 text-faint">
            When a desk is open: what is promised, due or waited for in working time counts these. A team has its own, else those of its place, else
            everybody’s; where there are none, Monday to Friday from 8 to 16 counts.
          </p>
          <Refused sentence={post.sentence} />
          {hours.length === 0 ? (
            <Empty>No hours yet. Begin with those of most of the house, and have them count for everybody.</Empty>
          ) : (
            <ul className="border-t">
              {hours.map((h) => (
                <li key={h.id} className="border-b py-2">
                  <Link to={`/workshop/hours/${h.id}`} className="font-medium hover:text-sea">
                    {h.name}
                  </Link>
                  <span className="block text-sm text-faint">
                    {h.definition.zone}; Monday {dayHoursWords(h.definition.week[0] ?? [])}; {h.definition.holidays.length}{' '}
                    {h.definition.holidays.length === 1 ? 'holiday' : 'holidays'}
                  </span>
                  <span className="block text-sm">For {whoseWords(h)}</span>
                </li>
              ))}
            </ul>
          )}
          <Form method="post" {...post.form} className="mt-6 flex flex-wrap items-end gap-3">
            <Labelled label="Name of new hours" problem={post.problem('name')}>
              {(ids) => <input {...ids} name="name" className="input w-72" maxLength={80} defaultValue={actionData?.name} />}
            </Labelled>
            <Button type="submit" disabled={busy}>
              Begin hours
            </Button>
          </Form>
        </div>
      </Page>
    </Place>
  );
}
