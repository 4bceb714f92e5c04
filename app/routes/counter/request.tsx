import { Form, useSearchParams } from 'react-router';
import { withdrawRequest } from '../../../server/commands/requests.ts';
import { myRequest } from '../../../server/queries/counter.ts';
import { Button } from '~/ui/button';
import { Mark, RequestState } from '~/ui/mark';
import { Refused } from '~/ui/problem';
import { standingWords } from '~/ui/standing';
import { Time } from '~/ui/time';
import { found, refused, signedIn } from '../session.server';
import type { Route } from './+types/request';

export const meta: Route.MetaFunction = ({ params }) => [{ title: `R-${params.number} · Counter · Nessmoor` }];

const numberOf = (params: { number: string }) => (/^\d{1,12}$/.test(params.number) ? Number(params.number) : 0);

export async function loader({ context, request, params }: Route.LoaderArgs) {
  return found(await myRequest(signedIn(context, request), numberOf(params)), 'This request');
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const result = await withdrawRequest(signedIn(context, request), { number: numberOf(params) });
  return result.ok ? null : refused(result, {});
}

export default function RequestPage({ loaderData: r, actionData }: Route.ComponentProps) {
  const [search] = useSearchParams();
  return (
    <div className="max-w-3xl">
      <p className="numbers text-sm text-faint">R-{r.number}</p>
      <h1 className="font-serif text-2xl">{r.item}</h1>
      {search.has('sent') && !r.outcome && (
        <p role="status" className="mt-3 border-l-3 border-moss bg-moss-wash px-3 py-2">
          Your request is on its way. You are told by mail as soon as it is decided.
        </p>
      )}
      <div className="mt-3">
        <Refused sentence={actionData?.refusal.sentence} />
      </div>
      <section aria-label="Where it stands" className="my-5 border-y py-4">
        <p className="text-lg">
          <RequestState outcome={r.outcome} stuck={r.standing?.stuck} />
        </p>
        {r.standing && (
          <p className="mt-1">
            {standingWords(r.standing)}, since <Time at={r.standing.since} /> (<Time at={r.standing.since} relative />)
          </p>
        )}
        {r.reason && <p className="mt-1">“{r.reason}”</p>}
      </section>

      <h2 className="mb-2 font-medium">What has happened</h2>
      <ol className="mb-6 border-l pl-4">
        <li className="mb-2">
          <Mark kind="done" size={12} /> You asked{' '}
          <span className="text-faint">
            · <Time at={r.openedAt} />
          </span>
        </li>
        {r.steps.map((s) => (
          <li key={s.key} className="mb-2">
            <Mark
              kind={s.stuck ? 'failed' : !s.endedAt ? 'half' : s.end === 'declined' ? 'declined' : s.end === 'withdrawn' ? 'empty' : 'done'}
              size={12}
            />{' '}
            {s.name}
            {s.end === 'withdrawn' && ' (no longer needed)'}
            {!s.endedAt && ' (under way)'}{' '}
            <span className="text-faint">
              · <Time at={s.endedAt ?? s.beganAt} />
            </span>
            {s.kind === 'gate' &&
              r.decisions
                .filter((d) => d.gate === s.name)
                .map((d) => (
                  <span key={d.name} className="block text-sm text-faint">
                    {d.name}: {d.status}
                    {d.comment && `, “${d.comment}”`}
                  </span>
                ))}
          </li>
        ))}
      </ol>

      <div className="grid gap-8 sm:grid-cols-2">
        <section>
          <h2 className="mb-2 font-medium">What you asked for</h2>
          <dl>
            {r.answers.map((a) => (
              <div key={a.label} className="mb-2">
                <dt className="text-sm text-faint">{a.label}</dt>
                <dd className="break-words whitespace-pre-wrap">{a.words}</dd>
              </div>
            ))}
          </dl>
        </section>
        <section>
          <h2 className="mb-2 font-medium">Messages to you</h2>
          {r.told.length === 0 && <p className="text-faint">None yet.</p>}
          {r.told.map((m) => (
            <details key={m.id} className="mb-2 border-b pb-2">
              <summary className="py-1">
                {m.subject} <span className="text-faint">· {m.sentAt ? <Time at={m.sentAt} relative /> : 'on its way'}</span>
              </summary>
              <p className="mt-1 whitespace-pre-wrap">{m.text}</p>
            </details>
          ))}
        </section>
      </div>

      {!r.outcome && (
        <details className="mt-8 border-t pt-4">
          <summary className="py-1 text-coral">Withdraw this request …</summary>
          <Form method="post" className="mt-3">
            <p className="mb-3">
              Those who were asked are told that it is no longer needed. Nothing further is changed. You can ask again at any time.
            </p>
            <Button type="submit" weight="decline">
              Withdraw R-{r.number}
            </Button>
          </Form>
        </details>
      )}
    </div>
  );
}
