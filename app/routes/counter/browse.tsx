import { clsx } from 'clsx';
import { useRef } from 'react';
import { Form, Link, useSubmit } from 'react-router';
import { categoryPath, isWithin, type Picture } from '../../../core/items/index.ts';
import { pictured, type Pictured } from '../../../server/categories/queries.ts';
import { Button } from '~/ui/button';
import { useTakenAlong } from '~/ui/choices';
import { Empty } from '~/ui/frame';
import { CategoryPicture } from '~/ui/pictures';
import { asked, signedIn } from '../session.server';
import type { Route } from './+types/browse';
import { askedBefore, browse, offeredCategories } from '../../../server/items/offered.ts';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Counter · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const [q, within] = [asked(request, 'q', 100), categoryPath(asked(request, 'in', 100))];
  return {
    q,
    within,
    items: await browse(viewer, q, undefined, within),
    categories: await pictured(await offeredCategories(viewer)),
    ...(q === '' && within === '' && (await askedBefore(viewer))),
  };
}

export default function Browse({ loaderData: { q, within, items, categories, lately = [], most = [] } }: Route.ComponentProps) {
  const submit = useSubmit();
  const box = useRef<HTMLInputElement>(null);
  // What was typed before scripts came is searched for, and not only once the box is left, when what was found moves under the pointer.
  useTakenAlong(box, ({ value, form }) => value !== q && void submit(form, { replace: true }));
  const under = new Map<string, typeof items>();
  for (const i of items) {
    const key = categoryPath(i.category).toLowerCase();
    under.set(key, [...(under.get(key) ?? []), i]);
  }
  const bare = under.get('') ?? [];
  const pictureIn = (path: string) => categories.find((c) => c.path.toLowerCase() === path.split(' / ')[0]!.toLowerCase())?.picture;
  return (
    <div className="max-w-3xl">
      <h1 className="font-serif text-2xl">What do you need?</h1>
      <Form role="search" className="my-5 flex gap-2" onChange={(e) => void submit(e.currentTarget, { replace: q !== '' })}>
        <input
          ref={box}
          className="input"
          type="search"
          name="q"
          defaultValue={q}
          aria-label="Search what can be asked for"
          placeholder="Search by name or purpose"
        />
        {within && <input type="hidden" name="in" value={within} />}
        <Button type="submit">Search</Button>
      </Form>
      <p className="sr-only" role="status">
        {items.length} found
      </p>
      <Categories all={categories} within={within} q={q} />
      <Few title="You asked lately" items={lately} />
      <Few title="Asked most" items={most.filter((m) => !lately.some((l) => l.id === m.id))} />
      {categories.map((c) => {
        const its = under.get(c.path.toLowerCase());
        return its && <Section key={c.path} title={c.path} picture={c.picture ?? pictureIn(c.path)} items={its} />;
      })}
      {bare.length > 0 && <Section title="Other" picture={undefined} items={bare} />}
      {items.length === 0 && (
        <Empty>
          {within && !q
            ? `Nothing that can be asked for stands under “${within}”.`
            : q
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

function Section({ title, picture, items }: { title: string; picture: Picture | undefined; items: { id: string; name: string; summary: string }[] }) {
  return (
    <section className="mb-8">
      <h2 className="flex items-center gap-2 border-b pb-1 text-sm text-faint">
        <CategoryPicture picture={picture} /> {title}
      </h2>
      <ul>
        {items.map((i) => (
          <li key={i.id} className="border-b">
            <Link to={`/counter/ask/${i.id}`} className="group block py-3">
              <span className="font-serif text-lg group-hover:text-sea">{i.name}</span>
              <span className="block text-faint">{i.summary}</span>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** The widest categories, and of the one that is chosen what lies within it. */
function Categories({ all, within, q }: { all: Pictured[]; within: string; q: string }) {
  if (all.length < 2) return null;
  const to = (path: string) => `?${new URLSearchParams({ ...(q && { q }), ...(path && { in: path }) }).toString()}`;
  const parts = within === '' ? [] : within.split(' / ');
  const levels = Array.from({ length: parts.length + 1 }, (_, depth) => {
    const around = parts.slice(0, depth).join(' / ');
    return all.filter((c) => c.depth === depth && (depth === 0 || isWithin(c.path, around)));
  });
  return (
    <nav aria-label="Categories" className="-mx-1.5 mb-5 space-y-1">
      {levels
        .filter((level) => level.length > 0)
        .map((level, depth) => (
          <p key={depth} className="flex flex-wrap gap-x-4 gap-y-1">
            {level.map((c) => {
              const chosen = within !== '' && isWithin(within, c.path);
              return (
                <Link
                  key={c.path}
                  to={to(chosen ? c.path.split(' / ').slice(0, -1).join(' / ') : c.path)}
                  aria-current={chosen ? 'true' : undefined}
                  className={clsx('flex items-center gap-1.5 rounded px-1.5 py-0.5 hover:text-sea', chosen && 'bg-sea-wash font-medium')}
                >
                  <CategoryPicture picture={c.picture} /> {c.name} <span className="numbers text-sm text-faint">{c.count}</span>
                </Link>
              );
            })}
          </p>
        ))}
    </nav>
  );
}
