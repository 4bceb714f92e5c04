import { Form, Link, useSubmit } from 'react-router';
import { Button } from '~/ui/button';
import { Empty } from '~/ui/frame';
import { asked, signedIn } from '../session.server';
import type { Route } from './+types/browse';
import { browse } from '../../../server/items/offered.ts';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Counter · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  signedIn(context, request);
  const q = asked(request, 'q', 100);
  return { q, items: await browse(q) };
}

export default function Browse({ loaderData: { q, items } }: Route.ComponentProps) {
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
