import { Form, useNavigation } from 'react-router';
import { settleSetAside } from '../../../server/set-aside/commands.ts';
import { Button, ButtonLink } from '~/ui/button';
import { Empty, Page } from '~/ui/frame';
import { StateMark } from '~/ui/state-mark';
import { Refused } from '~/ui/problem';
import { Time } from '~/ui/time';
import { anId, cursorIn, orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/set-aside';
import { setAsideFor } from '../../../server/set-aside/queries.ts';

export { TroubleOnPage as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Set aside · Desk · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  return orNotFound(await setAsideFor(signedIn(context, request), cursorIn(request, anId)), 'This list');
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const how = form.get('how');
  if (how !== 'again' && how !== 'discard') throw new Response('Say whether to try it again or to discard it.', { status: 400 });
  const result = await settleSetAside(viewer, { id: form.get('id'), how });
  return result.ok ? null : refused(result, {});
}

export default function SetAside({ loaderData: { rows, next }, actionData }: Route.ComponentProps) {
  const busy = useNavigation().state !== 'idle';
  return (
    <Page>
      <div className="max-w-4xl">
        <h1 className="mb-1 font-serif text-2xl">Set aside</h1>
        <p className="mb-4 text-faint">
          What could not be dealt with waits here, so that everything else goes on: work that failed beyond its tries, messages and records that make
          no sense.
        </p>
        <Refused sentence={actionData?.refusal.sentence} />
        {rows.length === 0 ? (
          <Empty>Nothing is set aside.</Empty>
        ) : (
          <ul className="border-t">
            {rows.map((r) => (
              <li key={r.id} className="border-b py-3">
                <p className="flex flex-wrap items-center gap-x-2">
                  <StateMark kind="failed" /> <span className="font-medium">{r.what}</span>
                  <span className="ml-auto text-sm text-faint">
                    {r.times > 1 && `${r.times} times, last `}
                    <Time at={r.lastAt} />
                  </span>
                </p>
                <p className="mt-1 break-words">{r.cause}</p>
                <details className="mt-1 text-sm">
                  <summary className="text-faint">As it came</summary>
                  <pre className="numbers mt-1 max-h-60 overflow-auto border bg-paper p-2 text-xs break-all whitespace-pre-wrap">{r.payload}</pre>
                </details>
                <Form method="post" className="mt-2 flex gap-2">
                  <input type="hidden" name="id" value={r.id} />
                  {r.canBeTriedAgain && (
                    <Button type="submit" name="how" value="again" disabled={busy}>
                      Try it again
                    </Button>
                  )}
                  <Button type="submit" name="how" value="discard" disabled={busy}>
                    Discard it
                  </Button>
                </Form>
              </li>
            ))}
          </ul>
        )}
        {next && (
          <p className="mt-4">
            <ButtonLink to={`?after=${next}`}>Older ones</ButtonLink>
          </p>
        )}
      </div>
    </Page>
  );
}
