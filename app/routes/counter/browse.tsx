import { Form, Link, useSubmit } from 'react-router';
import { Button } from '~/ui/button';
import { Empty } from '~/ui/frame';
import { asked, signedIn } from '../session.server';
import type { Route } from './+types/browse';
import { askedBefore, browse } from '../../../server/items/offered.ts';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Counter · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const q = asked(request, 'q', 100);
  return { q, items: await browse(viewer, q), ...(q === '' && (await askedBefore(viewer))) };
}

export default function Browse({ loaderData: { q, items, lately = [], most = [] } }: Route.ComponentProps) {
  const submit = useSubmit();
  const categories = [...new Set(items.map((i) => i.category))];
  return (
    <div className="max-w-3xl">
      <h1 className="font-serif text-2xl">What do you need?</h1>
      <Form role="search" className="my-5 flex gap-2" onChange={(e) => void submit(e.currentTarget, { replace: q !== '' })}>
        <input
          className="input"
          type="search"
          name="q"
          defaultValue={q}
          aria-label="Search what can be asked for"
          placeholder="Search by name or purpose"
        />
        <Button type="submit">Search</Button>
      </Form>
      <p className="sr-only" role="status">
        {items.length} found
      </p>
      <Few title="You asked lately" items={lately} />
      <Few title="Asked most" items={most.filter((m) => !lately.some((l) => l.id === m.id))} />
      {categories.map((c) => (
        <section key={c} className="mb-8">
          <h2 className="border-b pb-1 text-sm text-faint">{c || 'Other'}</h2>
          <ul>
            {items
              .filter((i) => i.category === c)
              .map((i) => (
                <li key={i.id} className="border-b">
                  <Link to={`/counter/ask/${i.id}`} className="group block py-3">
                    <span className="font-serif text-lg group-hover:text-sea">{i.name}</span>
                    <span className="block text-faint">{i.summary}</span>
                  </Link>
                </li>
              ))}
          </ul>
        </section>
      ))}
      {items.length === 0 && (
        <Empty>
          {q
            ? `Nothing that can be asked for matches “${q}”. Try a shorter word.`
            : 'Nothing can be asked for yet. A designer publishes items in the Workshop.'}
        </Empty>
      )}
    </div>
  );
}

/** A few items by name, in a line. */
function Few({ title, items }: { title: string; items: { id: string; name: string }[] }) {
  if (items.length === 0) return null;
  return (
    <nav aria-label={title} className="mb-2 flex flex-wrap gap-x-3 gap-y-1 text-sm last-of-type:mb-7">
      <span className="text-faint">{title}:</span>
      {items.map((i) => (
        <Link key={i.id} to={`/counter/ask/${i.id}`} className="text-sea underline underline-offset-4">
          {i.name}
        </Link>
      ))}
    </nav>
  );
}
