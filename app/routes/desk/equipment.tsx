import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { handPiece, pickPiece, takeIn } from '../../../server/equipment/commands.ts';
import { orderStock } from '../../../server/equipment/pieces.ts';
import { counterOf } from '../../../server/equipment/queries.ts';
import { placesKept } from '../../../server/equipment/whose.ts';
import { Line } from '~/equipment/line';
import { ForWhom, ToHandOut, type LineOutcome } from '~/equipment/to-hand-out';
import { TakeIn } from '~/equipment/to-take-in';
import { ToOrder } from '~/equipment/to-order';
import { ButtonLink } from '~/ui/button';
import { Empty, Page } from '~/ui/frame';
import { useOutcome } from '~/ui/outcome';
import { Time } from '~/ui/time';
import { asked, orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/equipment';

export { TroubleOnPage as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Equipment · Desk · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const place = asked(request, 'place') || undefined;
  const [counter, places] = await Promise.all([counterOf(viewer, place), placesKept(viewer)]);
  return { ...orNotFound(counter, 'This page'), places, place: places.some((p) => p.id === place) ? place : undefined };
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const act = form.get('act');
  const typed = Object.fromEntries(['mark', 'place', 'how', 'note', 'reference', 'expected'].map((name) => [name, form.get(name)]));
  const [issue, order] = [form.get('issue'), form.get('order')];
  const done =
    act === 'pick'
      ? await pickPiece(viewer, { issue })
      : act === 'takeIn'
        ? await takeIn(viewer, { issue, place: form.get('place'), how: form.get('how'), note: form.get('note') })
        : act === 'order' || act === 'drop'
          ? await orderStock(viewer, { order, drop: act === 'drop', reference: form.get('reference'), expected: form.get('expected') })
          : await handPiece(viewer, { issue, mark: form.get('mark') });
  const of = issue || order;
  return done.ok ? ({ of, act } satisfies LineOutcome) : refused(done, { of, act, typed } satisfies LineOutcome);
}

const Section = ({ title, empty, children, none }: { title: string; empty: string; none: boolean; children: ReactNode }) => (
  <section aria-label={title} className="mb-8">
    <h2 className="mb-1 font-medium">{title}</h2>
    {none ? <p className="text-sm text-faint">{empty}</p> : <ul className="border-t">{children}</ul>}
  </section>
);

export default function Equipment({ loaderData: { toHandOut, back, waiting, orders, places, place }, ...props }: Route.ComponentProps) {
  const outcome = useOutcome<LineOutcome>(props.actionData);
  const of = (id: string) => (outcome?.of === id ? outcome : undefined);
  // What was refused of a line that is not here any more.
  const gone = outcome?.refusal && ![...toHandOut, ...back, ...orders].some((l) => l.id === outcome.of);
  const nothing = toHandOut.length + back.length + waiting.length + orders.length === 0;
  return (
    <Page>
      <div className="max-w-5xl">
        <h1 className="mb-1 font-serif text-2xl">Equipment</h1>
        <p className="mb-3 text-faint">What is to be picked and handed over, what comes back, and what runs low where you keep the stock.</p>
        <p className="mb-5 flex flex-wrap gap-x-4 gap-y-1">
          {places.length > 1 &&
            [undefined, ...places].map((p) => (
              <Link
                key={p?.id ?? ''}
                to={p ? `?place=${p.id}` : '/desk/equipment'}
                aria-current={p?.id === place ? 'page' : undefined}
                className={p?.id === place ? 'font-medium' : 'text-sea underline underline-offset-4'}
              >
                {p?.name ?? 'All places'}
              </Link>
            ))}
          <Link to="/desk/equipment/stock" className="text-sea underline underline-offset-4">
            Stock, arrivals and counts
          </Link>
          <Link to="/desk/equipment/pieces" className="text-sea underline underline-offset-4">
            All pieces
          </Link>
        </p>
        {gone && (
          <p role="alert" className="mb-4 border-l-3 border-coral bg-coral-wash px-3 py-2">
            {outcome.refusal!.sentence}
          </p>
        )}
        {nothing && (
          <Empty act={<ButtonLink to="/desk/equipment/stock">See what is in stock</ButtonLink>}>
            Nothing is to be handed over, taken in or ordered.
          </Empty>
        )}
        {!nothing && (
          <>
            <Section title="To hand over" empty="Nothing is set aside." none={toHandOut.length === 0}>
              {toHandOut.map((line) => (
                <ToHandOut key={line.id} line={line} outcome={of(line.id)} />
              ))}
            </Section>
            <Section title="To take in" empty="Nothing is to come back." none={back.length === 0}>
              {back.map((line) => {
                const what = [line.kind, line.mark].filter(Boolean).join(' ');
                return (
                  <Line
                    key={line.id}
                    label={`${what} from ${line.who}`}
                    mark={line.deniedWhy === null ? 'half' : 'failed'}
                    title={
                      <>
                        <span className="font-medium">{what}</span> from {line.who}
                        {line.job && <span className="text-faint">, {line.job}</span>}
                      </>
                    }
                    known={
                      <>
                        <p className="text-sm">
                          {line.deniedWhy === null ? (
                            <>
                              To come back since <Time at={line.since} />
                            </>
                          ) : (
                            <span className="text-coral">
                              They say that they have it not: “{line.deniedWhy}”, <Time at={line.since} />
                            </span>
                          )}
                        </p>
                        <ForWhom line={line} />
                      </>
                    }
                  >
                    <TakeIn issue={line.id} what={what} places={places} at={line.placeId} refusal={of(line.id)?.refusal} typed={of(line.id)?.typed} />
                  </Line>
                );
              })}
            </Section>
            <Section title="To order" empty="Nothing runs low." none={orders.length === 0}>
              {orders.map((order) => (
                <ToOrder key={`${order.id} ${order.ordered}`} order={order} outcome={of(order.id)} />
              ))}
            </Section>
            <Section title="Waiting for stock" empty="Nobody waits." none={waiting.length === 0}>
              {waiting.map((line) => (
                <li key={line.id} className="border-b py-1.5 text-sm">
                  <span className="font-medium">{line.kind}</span> for {line.who}, since <Time at={line.since} />
                  <ForWhom line={line} />
                </li>
              ))}
            </Section>
          </>
        )}
      </div>
    </Page>
  );
}
