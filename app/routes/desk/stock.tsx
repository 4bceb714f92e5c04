import { Form, Link, useNavigation } from 'react-router';
import { useState } from 'react';
import { StockEntry } from '../../../core/posts/index.ts';
import { addArrived, countStock } from '../../../server/equipment/pieces.ts';
import { stockFor } from '../../../server/equipment/queries.ts';
import { OneOf } from '~/equipment/line';
import { FoundInCount } from '~/equipment/found-in-count';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Empty, Page } from '~/ui/frame';
import { useOutcome } from '~/ui/outcome';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { StateMark } from '~/ui/state-mark';
import type { Refusal } from '../../../server/refusal.ts';
import type { Counted } from '../../../core/equipment/index.ts';
import { asked, orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/stock';

export { TroubleOnPage as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Stock · Desk · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const stock = orNotFound(await stockFor(viewer), 'This page');
  return { stock, kind: asked(request, 'kind'), place: asked(request, 'place') };
}

interface Outcome {
  refusal?: Refusal;
  typed?: Record<'kind' | 'place' | 'marks' | 'number', string>;
  counted?: Counted;
  of?: string;
  said?: string;
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const typed = { kind: form.get('kind'), place: form.get('place'), marks: form.get('marks'), number: form.get('number') };
  const act = form.get('act');
  if (act === 'arrive') {
    const came = await addArrived(viewer, typed);
    return came.ok
      ? ({ said: came.n === 1 ? 'One piece was taken in.' : `${came.n} pieces were taken in.` } satisfies Outcome)
      : refused(came, { typed } satisfies Outcome);
  }
  const book = act === 'book';
  const result = await countStock(viewer, { ...typed, book });
  if (!result.ok) return refused(result, { typed } satisfies Outcome);
  return book ? ({ said: 'The books follow the count.' } satisfies Outcome) : ({ typed, counted: result.counted, of: result.kind } satisfies Outcome);
}

export default function Stock({ loaderData: { stock, kind, place }, ...props }: Route.ComponentProps) {
  const outcome = useOutcome<Outcome>(props.actionData);
  const typed = outcome?.typed;
  const kinds = [...new Map(stock.map((s) => [s.kindId, { id: s.kindId, name: s.kind, marked: s.marked }])).values()];
  const places = [...new Map(stock.map((s) => [s.placeId, { id: s.placeId, name: s.place }])).values()];
  return (
    <Page>
      <div className="max-w-5xl">
        <Link to="/desk/equipment" className="text-sea underline underline-offset-4">
          Equipment
        </Link>
        <h1 className="mt-2 mb-1 font-serif text-2xl">Stock</h1>
        <p className="mb-4 text-faint">
          What stands where you keep it. What arrives is taken in below, and what is counted there is held against the books: choose a line to begin
          with its kind and place.
        </p>
        {stock.length === 0 ? (
          <Empty>There is no kind of equipment yet. A designer names them in the Workshop.</Empty>
        ) : (
          <>
            {outcome?.said && (
              <p role="status" className="mb-4 flex items-center gap-2 text-moss">
                <StateMark kind="done" size={12} /> {outcome.said}
              </p>
            )}
            <div className="mb-8 overflow-x-auto">
              <table className="w-full text-sm">
                <thead>
                  <tr className="border-b text-left text-faint">
                    <th className="py-1 pr-4 font-normal">Kind</th>
                    <th className="py-1 pr-4 font-normal">Where</th>
                    {['Free', 'Set aside', 'Handed out', 'In repair', 'Missing', 'Ordered below'].map((head) => (
                      <th key={head} className="py-1 pl-4 text-right font-normal">
                        {head}
                      </th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {stock.map((s) => (
                    <tr key={`${s.kindId} ${s.placeId}`} className="border-b">
                      <th scope="row" className="py-1 pr-4 text-left font-medium">
                        <Link to={`?kind=${s.kindId}&place=${s.placeId}`} preventScrollReset className="text-sea underline underline-offset-4">
                          {s.kind}
                        </Link>
                      </th>
                      <td className="py-1 pr-4">{s.place}</td>
                      <td className={`numbers py-1 pl-4 text-right ${s.least !== null && s.free < s.least ? 'font-medium text-coral' : ''}`}>
                        {s.free}
                        {s.least !== null && s.free < s.least && <span className="sr-only"> (runs low)</span>}
                      </td>
                      {[s.setAside, s.out, s.repair, s.missing].map((n, i) => (
                        <td key={i} className={`numbers py-1 pl-4 text-right ${n === 0 ? 'text-faint' : ''}`}>
                          {n}
                        </td>
                      ))}
                      <td className="numbers py-1 pl-4 text-right">{s.least ?? ''}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
            <Entry
              // What was booked or taken in begins anew; what is shown of a count stands with it.
              key={`${outcome?.said ?? ''} ${kind} ${place}`}
              kinds={kinds}
              places={places}
              typed={typed ?? { kind, place, marks: '', number: '' }}
              refusal={outcome?.refusal}
              counted={outcome?.counted}
            />
          </>
        )}
      </div>
    </Page>
  );
}

interface Named {
  id: string;
  name: string;
}

/** Pieces of a kind at a place are taken in, or counted. */
function Entry({
  kinds,
  places,
  typed,
  refusal,
  counted,
}: {
  kinds: (Named & { marked: boolean })[];
  places: Named[];
  typed: Record<'kind' | 'place' | 'marks' | 'number', string>;
  refusal: Refusal | undefined;
  counted: Counted | undefined;
}) {
  const post = usePost(StockEntry, { refusal });
  const busy = useNavigation().state !== 'idle';
  const known = (list: Named[], id: string) => (list.some((x) => x.id === id) ? id : (list[0]?.id ?? ''));
  const [kind, setKind] = useState(known(kinds, typed.kind));
  const its = kinds.find((k) => k.id === kind);
  return (
    <section aria-label="Take in or count" className="max-w-xl">
      <h2 className="mb-2 font-medium">Take in or count</h2>
      <Form method="post" {...post.form} className="space-y-3">
        <Refused sentence={post.sentence} />
        <div className="grid gap-3 sm:grid-cols-2">
          <Labelled label="Kind" problem={post.problem('kind')}>
            {(ids) => <OneOf {...ids} name="kind" value={kind} onValue={setKind} of={kinds} />}
          </Labelled>
          <Labelled label="Where" problem={post.problem('place')}>
            {(ids) => <OneOf {...ids} name="place" defaultValue={known(places, typed.place)} of={places} />}
          </Labelled>
        </div>
        {its?.marked ? (
          <Labelled label="Serial numbers" help="Scan or type them, one a line." problem={post.problem('marks')}>
            {(ids) => <textarea {...ids} key={kind} name="marks" rows={5} className="numbers input" defaultValue={typed.marks} />}
          </Labelled>
        ) : (
          <Labelled label="How many" problem={post.problem('number')}>
            {(ids) => (
              <input {...ids} key={kind} name="number" inputMode="numeric" className="numbers input w-28" maxLength={4} defaultValue={typed.number} />
            )}
          </Labelled>
        )}
        {counted && its && <FoundInCount counted={counted} kind={its.name} />}
        <div className="flex flex-wrap gap-2">
          <Button type="submit" name="act" value="arrive" disabled={busy}>
            Take these in as new
          </Button>
          <Button type="submit" name="act" value="count" weight={counted ? 'plain' : 'main'} disabled={busy}>
            Hold this count against the books
          </Button>
          {counted && (
            <Button type="submit" name="act" value="book" weight="main" disabled={busy}>
              Let the books follow this count
            </Button>
          )}
        </div>
      </Form>
    </section>
  );
}
