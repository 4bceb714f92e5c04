import { Form, Link, redirect, useNavigation } from 'react-router';
import { z } from 'zod';
import { newToken } from '../../../server/auth/token.ts';
import { putInBasket, sendBasket, takeFromBasket } from '../../../server/baskets/commands.ts';
import { basketOf } from '../../../server/baskets/queries.ts';
import { readJson } from '../../../core/boundary/index.ts';
import { Value } from '../../../core/values/index.ts';
import { Button, ButtonLink } from '~/ui/button';
import { Empty } from '~/ui/frame';
import { Refused } from '~/ui/problem';
import { Said } from '~/ui/said';
import { posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/basket';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Basket · Counter · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  return { ...(await basketOf(signedIn(context, request))), idempotencyKey: newToken() };
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const data = await posted(request);
  const act = data.get('act');
  if (act === 'send') {
    const sent = await sendBasket(viewer, { idempotencyKey: data.get('idempotencyKey').slice(0, 100) || newToken(), lines: data.all('line') });
    return sent.ok ? redirect(`/counter/orders/${sent.number}?sent`) : refused(sent, {});
  }
  if (act === 'put-back') {
    const told = readJson(data.get('gone'));
    const gone = Gone.safeParse(told.ok ? told.value : undefined);
    if (!gone.success) throw new Response('That cannot be put back. Nothing was changed.', { status: 400 });
    const back = await putInBasket(viewer, gone.data);
    return back.ok ? null : refused(back, {});
  }
  if (act !== 'take-out') throw new Response('Say what is to be done with the basket. Nothing was changed.', { status: 400 });
  const taken = await takeFromBasket(viewer, data.get('line'));
  return taken.ok ? { gone: JSON.stringify(taken.line), name: data.get('name').slice(0, 80) } : refused(taken, {});
}

/** What was taken out, as it is put back. */
const Gone = z.object({ itemId: z.string(), revision: z.number().int(), answers: z.record(z.string(), Value), forWhom: z.string().optional() });

export default function Basket({ loaderData: { lines, cost, idempotencyKey }, actionData }: Route.ComponentProps) {
  const busy = useNavigation().formMethod === 'POST';
  const refusal = actionData && 'refusal' in actionData ? actionData.refusal : undefined;
  const problems = new Map((refusal?.problems ?? []).map((p) => [p.field, p.sentence]));
  return (
    <div className="max-w-3xl">
      <h1 className="mb-4 font-serif text-2xl">Basket</h1>
      <Refused sentence={refusal?.sentence} />
      {actionData && 'gone' in actionData && (
        <Form method="post" role="status" className="mb-5 flex flex-wrap items-center gap-3 border-l-3 border-sea bg-sea-wash px-3 py-2">
          <input type="hidden" name="gone" value={actionData.gone} />
          <span>“{actionData.name}” was taken out.</span>
          <Button type="submit" name="act" value="put-back" disabled={busy}>
            Put it back
          </Button>
        </Form>
      )}
      {lines.length === 0 ? (
        <Empty act={<ButtonLink to="/counter">Find something</ButtonLink>}>
          What you fill in and put here stands here until you send all of it in one go. There is nothing in your basket.
        </Empty>
      ) : (
        <>
          <ol className="border-t">
            {lines.map((l) => (
              <li key={l.id} aria-label={l.item} className="flex flex-wrap items-start justify-between gap-x-6 gap-y-2 border-b py-3">
                <div className="min-w-0 flex-1 basis-60">
                  <h2 className="font-serif text-lg">{l.item}</h2>
                  {l.forWhom && <p className="text-sm text-faint">for {l.forWhom}</p>}
                  <dl className="text-sm">
                    {l.answers.map((a) => (
                      <div key={a.label} className="break-words">
                        <dt className="inline text-faint">{a.label}: </dt>
                        <dd className="inline">
                          <Said {...a} />
                        </dd>
                      </div>
                    ))}
                  </dl>
                  {l.changed && <p className="mt-1 text-ochre">It is not offered as it was when you filled it in: change it, or take it out.</p>}
                  {problems.has(l.id) && <p className="mt-1 text-coral">{problems.get(l.id)}</p>}
                </div>
                <div className="flex flex-wrap items-baseline gap-3">
                  {l.cost.length > 0 && <span className="numbers">{l.cost.join(', ')}</span>}
                  <Link to={`/counter/ask/${l.itemId}?basket=${l.id}`} className="text-sea underline underline-offset-4">
                    Change<span className="sr-only"> {l.item}</span>
                  </Link>
                  <Form method="post">
                    <input type="hidden" name="line" value={l.id} />
                    <input type="hidden" name="name" value={l.item} />
                    <Button type="submit" name="act" value="take-out" weight="quiet" disabled={busy}>
                      Take out<span className="sr-only"> {l.item}</span>
                    </Button>
                  </Form>
                </div>
              </li>
            ))}
          </ol>
          <Form method="post" className="mt-5 flex flex-wrap items-center gap-x-6 gap-y-3">
            <input type="hidden" name="idempotencyKey" value={idempotencyKey} />
            {lines.map((l) => (
              <input key={l.id} type="hidden" name="line" value={l.id} />
            ))}
            <Button type="submit" name="act" value="send" weight="main" disabled={busy}>
              {busy ? 'Sending …' : lines.length === 1 ? 'Send this request' : `Send all ${lines.length} requests`}
            </Button>
            {cost.length > 0 && (
              <p>
                Together <span className="numbers">{cost.join(', ')}</span>
              </p>
            )}
            <ButtonLink to="/counter">Find something else</ButtonLink>
          </Form>
        </>
      )}
    </div>
  );
}
