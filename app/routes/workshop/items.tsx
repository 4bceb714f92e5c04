import { useState } from 'react';
import { Form, Link, redirect, useNavigation, useSearchParams, useSubmit } from 'react-router';
import { createItem } from '../../../server/items/commands.ts';
import { items as itemsQuery } from '../../../server/items/queries.ts';
import { Button, ButtonLink } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Empty, Frame } from '~/ui/frame';
import { useNameTaken } from '~/ui/item-name';
import { Mark } from '~/ui/mark';
import { Time } from '~/ui/time';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { asked, found, isId, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/items';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Catalog items · Workshop · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const q = asked(request, 'q', 100);
  const kind = asked(request, 'kind') === 'part' ? 'part' : 'item';
  return { q, kind, items: found(await itemsQuery(viewer, q, kind), 'The Workshop') } as const;
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const name = form.get('name');
  const copyOf = form.get('copyOf');
  const result = await createItem(viewer, { name, copyOf: isId(copyOf) ? copyOf : undefined, kind: form.get('kind') === 'part' ? 'part' : 'item' });
  return result.ok ? redirect(`/workshop/items/${result.id}/ask`) : refused(result, { name, copyOf });
}

export default function Items({ loaderData: { q, kind, items }, actionData }: Route.ComponentProps) {
  const part = kind === 'part';
  const here = part ? '?kind=part&' : '?';
  const [search] = useSearchParams();
  const submit = useSubmit();
  const copyOf = search.get('copy') ?? actionData?.copyOf;
  const beginning = search.has('new') || search.has('copy') || actionData !== undefined;
  return (
    <Frame
      marginLabel="Workshop"
      margin={<WorkshopMargin at={part ? 'parts' : 'items'} />}
      slip={
        beginning ? (
          <aside aria-label={part ? 'Begin a part' : 'Begin an item'} className="border-l bg-paper px-5 py-5">
            <Begin
              key={copyOf}
              part={part}
              original={items.find((i) => i.id === copyOf)}
              typed={actionData?.name}
              refusal={actionData?.refusal.sentence}
            />
          </aside>
        ) : undefined
      }
    >
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="font-serif text-2xl">{part ? 'Parts' : 'Catalog items'}</h1>
        <Form role="search" className="ml-auto flex gap-2" onChange={(e) => void submit(e.currentTarget, { replace: true })}>
          {part && <input type="hidden" name="kind" value="part" />}
          <input className="input w-56" type="search" name="q" defaultValue={q} aria-label="Search items" placeholder="Search by name" />
        </Form>
        <ButtonLink to={`${here}new`} weight="main">
          {part ? 'Begin a part' : 'Begin an item'}
        </ButtonLink>
      </div>
      {items.length === 0 ? (
        <Empty act={<ButtonLink to={`${here}new`}>{part ? 'Begin a part' : 'Begin an item'}</ButtonLink>}>
          {q
            ? `Nothing is called “${q}”.`
            : part
              ? 'Pieces of plans that several items share stand here. What a part is given it asks for as an item asks for answers.'
              : 'Items that employees can ask for stand here. Begin one blank, or copy a working one to learn by breaking the copy.'}
        </Empty>
      ) : (
        <div className="overflow-x-auto">
          <table className="w-full text-sm">
            <thead>
              <tr className="border-b text-left text-faint [&>th]:py-1.5 [&>th]:pr-4 [&>th]:font-normal">
                <th>{part ? 'Part' : 'Item'}</th>
                <th>{part ? 'Published' : 'Offered at the Counter'}</th>
                <th>Under way</th>
                <th>Draft last changed</th>
                <th>
                  <span className="sr-only">Copy</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {items.map((i) => (
                <tr key={i.id} className="border-b align-top [&>td]:py-2 [&>td]:pr-4">
                  <td>
                    <Link to={`/workshop/items/${i.id}/plan`} className="font-serif text-lg hover:text-sea">
                      {i.name}
                    </Link>
                    <span className="block max-w-md text-faint">{i.summary}</span>
                  </td>
                  <td className="whitespace-nowrap">
                    <Mark kind={i.published ? 'done' : 'empty'} size={12} /> {i.published ? `Revision ${i.published}` : 'Not yet'}
                    <span className="block text-faint">{i.publishedAt && <Time at={i.publishedAt} />}</span>
                  </td>
                  <td className="numbers">{i.open}</td>
                  <td>
                    <Time at={i.draftAt} relative />
                    <span className="block text-faint">{i.draftBy}</span>
                  </td>
                  <td className="text-right">
                    <Link to={`${here}copy=${i.id}`} className="text-sea underline underline-offset-4">
                      Begin a copy<span className="sr-only"> of {i.name}</span>
                    </Link>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </Frame>
  );
}

function Begin({
  part,
  original,
  typed,
  refusal,
}: {
  part: boolean;
  original: { id: string; name: string } | undefined;
  typed: string | undefined;
  refusal: string | undefined;
}) {
  const [name, setName] = useState(typed ?? (original ? `${original.name}, tried out` : ''));
  const taken = useNameTaken(name);
  const busy = useNavigation().formMethod === 'POST';
  return (
    <Form method="post" action="/workshop/items">
      <h2 className="mb-1 font-serif text-xl">{original ? 'Begin a copy' : part ? 'Begin a part' : 'Begin an item'}</h2>
      <input type="hidden" name="kind" value={part ? 'part' : 'item'} />
      <p className="mb-4 text-faint">
        {original
          ? `A copy of “${original.name}”. The original is not touched, whatever you do to the copy.`
          : part
            ? 'Blank: first what it is given, then its steps.'
            : 'Blank: first what it asks, then what happens.'}
      </p>
      {original && <input type="hidden" name="copyOf" value={original.id} />}
      <Labelled
        label="Name"
        help={part ? 'What designers will look for.' : 'What people will look for at the Counter.'}
        problem={taken ?? refusal}
        required
      >
        {(ids) => <input {...ids} name="name" className="input" value={name} onChange={(e) => setName(e.target.value)} maxLength={80} autoFocus />}
      </Labelled>
      <p className="mt-4 flex gap-2">
        <Button type="submit" weight="main" disabled={busy || taken !== undefined || name.trim() === ''}>
          {original ? 'Begin the copy' : 'Begin blank'}
        </Button>
        <ButtonLink to={part ? '/workshop/items?kind=part' : '/workshop/items'} weight="quiet">
          Leave it
        </ButtonLink>
      </p>
    </Form>
  );
}
