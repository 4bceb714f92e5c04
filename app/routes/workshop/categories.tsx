import { Form, Link, useNavigation } from 'react-router';
import { pictures } from '../../../core/items/index.ts';
import { pictureCategory } from '../../../server/categories/commands.ts';
import { categoriesOf } from '../../../server/categories/queries.ts';
import { Button } from '~/ui/button';
import { Empty, Page, Place } from '~/ui/frame';
import { CategoryPicture } from '~/ui/pictures';
import { Refused } from '~/ui/problem';
import { Select } from '~/ui/select';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/categories';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Categories · Workshop · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  return { categories: orNotFound(await categoriesOf(signedIn(context, request)), 'The Workshop') };
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const result = await pictureCategory(viewer, { path: form.get('path'), picture: form.get('picture') });
  return result.ok ? null : refused(result, {});
}

export default function Categories({ loaderData: { categories }, actionData }: Route.ComponentProps) {
  const busy = useNavigation().formMethod === 'POST';
  return (
    <Place marginLabel="Workshop" margin={<WorkshopMargin at="categories" />}>
      <Page>
        <div className="max-w-3xl">
          <h1 className="font-serif text-2xl">Categories</h1>
          <p className="mt-1 mb-5 text-faint">
            What items stand under at the Counter. An item says its own on the leaf Ask; a stroke parts one from what lies within it: Access / Groups.
          </p>
          <Refused sentence={actionData?.refusal.sentence} />
          {categories.length === 0 ? (
            <Empty>No item has a category yet. Give one to an item on its leaf Ask.</Empty>
          ) : (
            <ul className="border-t">
              {categories.map((c) => (
                <li key={c.path} className="flex items-center justify-between gap-4 border-b py-1.5" style={{ paddingLeft: c.depth * 24 }}>
                  <span className="flex min-w-0 items-center gap-2">
                    <CategoryPicture picture={c.picture} />
                    <Link to={`/counter?in=${encodeURIComponent(c.path)}`} className="truncate hover:text-sea">
                      {c.name}
                    </Link>
                    <span className="numbers text-sm text-faint">{c.count}</span>
                  </span>
                  <Form method="post" className="flex shrink-0 items-center gap-2">
                    <input type="hidden" name="path" value={c.path} />
                    <Select key={c.picture ?? ''} aria-label={`Picture of ${c.path}`} name="picture" defaultValue={c.picture ?? ''} className="w-44">
                      <option value="">No picture</option>
                      {Object.entries(pictures).map(([name, words]) => (
                        <option key={name} value={name}>
                          {words}
                        </option>
                      ))}
                    </Select>
                    <Button type="submit" disabled={busy}>
                      Keep<span className="sr-only"> the picture of {c.path}</span>
                    </Button>
                  </Form>
                </li>
              ))}
            </ul>
          )}
        </div>
      </Page>
    </Place>
  );
}
