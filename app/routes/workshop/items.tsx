import { Ellipsis } from 'lucide-react';
import { useCallback, useEffect, useState } from 'react';
import { Form, Link, redirect, useFetcher, useNavigation, useSearchParams } from 'react-router';
import { templates } from '../../../core/items/index.ts';
import { Begun } from '../../../core/posts/index.ts';
import type { Viewer } from '../../../server/auth/viewer.ts';
import type { Refusal } from '../../../server/refusal.ts';
import { archiveItem, deleteItem, undeleteItem } from '../../../server/items/keeping.ts';
import { createItem } from '../../../server/items/commands.ts';
import { toast } from 'sonner';
import { lists, writeAsked } from '../../../core/lists/index.ts';
import { items as itemsQuery } from '../../../server/items/list.ts';
import { Button, ButtonLink } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Select } from '~/ui/select';
import { ListSheet, Place } from '~/ui/frame';
import { addressOf } from '~/ui/list/address';
import { List } from '~/ui/list/list';
import type { Cell } from '~/ui/list/table';
import { KeptViews } from '~/ui/list/views';
import { useNameTaken } from '~/ui/item-name';
import { NameField } from '~/ui/name-field';
import { usePost } from '~/ui/post';
import { StateMark } from '~/ui/state-mark';
import { Menu, MenuAct } from '~/ui/menu';
import { Time } from '~/ui/time';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { listFor } from '../list.server';
import { asked, documentIn, orNotFound, isId, posted, refused, signedIn, type Posted } from '../session.server';
import type { Route } from './+types/items';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Catalog items · Workshop · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const kind = asked(request, 'kind') === 'part' ? 'part' : 'item';
  const page = await listFor(viewer, request, kind === 'part' ? 'parts' : 'items', (wanted) => itemsQuery(viewer, kind, wanted));
  const offered = kind === 'item' ? templates.map(({ id, name, purpose }) => ({ id, name, purpose })) : [];
  return { ...orNotFound(page, 'The Workshop'), kind, templates: offered } as const;
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const act = form.get('act');
  if (act === 'archive' || act === 'bring-back' || act === 'delete' || act === 'undelete') return kept(viewer, act, form);
  const name = form.get('name');
  const copyOf = form.get('copyOf');
  const template = form.get('template');
  const result = await createItem(viewer, {
    name,
    copyOf: isId(copyOf) ? copyOf : undefined,
    template: template || undefined,
    kind: form.get('kind') === 'part' ? 'part' : 'item',
  });
  return result.ok ? redirect(`/workshop/items/${result.id}/ask`) : refused(result, { name, copyOf, template });
}

/** Puts an item away and back; deletes a draft and has it back. What was done is said, with the way back. */
async function kept(viewer: Viewer, act: 'archive' | 'bring-back' | 'delete' | 'undelete', form: Posted) {
  const id = form.get('id');
  if (act === 'delete') {
    const result = await deleteItem(viewer, id);
    return result.ok
      ? {
          did: `“${result.name}” is deleted`,
          back: { act: 'undelete', name: result.name, kind: result.kind, draft: JSON.stringify(result.draft) } as Fields,
        }
      : refused(result, { name: '', copyOf: '' });
  }
  if (act === 'undelete') {
    const draft = documentIn(form, 'draft');
    const result = await undeleteItem(viewer, { name: form.get('name'), kind: form.get('kind') === 'part' ? 'part' : 'item', draft });
    return result.ok ? { did: `“${form.get('name')}” is back`, back: undefined } : refused(result, { name: '', copyOf: '' });
  }
  const archived = act === 'archive';
  const result = await archiveItem(viewer, { id, archived });
  return result.ok
    ? {
        did: `“${result.name}” is ${archived ? 'archived: it is not offered any more' : 'back'}`,
        back: { act: archived ? 'bring-back' : 'archive', id },
      }
    : refused(result, { name: '', copyOf: '' });
}

type Row = Route.ComponentProps['loaderData']['list']['rows'][number];

const cells: Record<string, Cell<Row>> = {
  name: {
    width: 280,
    grows: true,
    of: (i) => (
      <span className="block truncate font-medium" data-tip={i.name}>
        {i.name}
      </span>
    ),
    under: (i) => i.summary,
  },
  category: { width: 140, wide: true, of: (i) => i.category },
  offered: {
    width: 164,
    of: (i) => (
      <>
        <span className="inline-flex items-center gap-1.5">
          <StateMark kind={i.archivedAt ? 'held' : i.published ? 'done' : 'empty'} size={12} />
          {i.archivedAt ? 'Archived' : i.published ? `Revision ${i.published}` : 'Not yet'}
        </span>
        <span className="block text-faint">{i.publishedAt && <Time at={i.publishedAt} />}</span>
      </>
    ),
  },
  open: { width: 90, of: (i) => <span className="numbers">{i.open}</span> },
  changed: {
    width: 160,
    wide: true,
    of: (i) => (
      <>
        <Time at={i.draftAt} relative />
        <span className="block truncate text-faint">{i.draftBy}</span>
      </>
    ),
  },
};

const keyOf = (i: Row) => i.id;
const hrefOf = (i: Row) => `/workshop/items/${i.id}/plan`;
const wordsOf = (i: Row) => i.name;
export default function Items({ loaderData, actionData }: Route.ComponentProps) {
  const { asked, list, views, kind, templates } = loaderData;
  const part = kind === 'part';
  const name = part ? 'parts' : 'items';
  const shape = lists[name];
  const [search] = useSearchParams();
  const said = writeAsked(shape, asked);
  const of = part ? 'kind=part' : '';
  const at = (asked: string) => addressOf('/workshop/items', of, asked);
  const also = (more: string) => addressOf('/workshop/items', of, said, more);
  const send = useKeeping();
  const refusal = actionData && 'refusal' in actionData ? actionData : undefined;
  const copyOf = search.get('copy') ?? refusal?.copyOf;
  const beginning = search.has('new') || search.has('copy') || refusal !== undefined;
  const begin = part ? 'Begin a part' : 'Begin an item';
  return (
    <Place
      marginLabel="Workshop"
      margin={
        <>
          <WorkshopMargin at={name} />
          <KeptViews list={name} views={views} to={at} />
        </>
      }
    >
      <ListSheet
        {...(beginning && {
          closeTo: at(said),
          of: copyOf ?? 'new',
          slip: (
            <aside aria-label={begin}>
              <Begin
                key={copyOf}
                templates={templates}
                part={part}
                original={list.rows.find((i) => i.id === copyOf)}
                typed={refusal?.name}
                template={refusal && 'template' in refusal ? String(refusal.template) : undefined}
                refusal={refusal?.refusal}
              />
            </aside>
          ),
        })}
      >
        <List
          name={name}
          path="/workshop/items"
          beside={of}
          title={part ? 'Parts' : 'Catalog items'}
          of={loaderData}
          cells={cells}
          keyOf={keyOf}
          hrefOf={hrefOf}
          wordsOf={wordsOf}
          acts={(i) => <ItemActs item={i} part={part} copyTo={also(`copy=${i.id}`)} send={send} />}
          open={beginning ? (copyOf ?? '') : undefined}
          empty={
            part
              ? 'Pieces of plans that several items share stand here. What a part is given it asks for as an item asks for answers.'
              : 'Items that employees can ask for stand here. Begin one blank, or copy a working one to learn by breaking the copy.'
          }
          first={<ButtonLink to={also('new')}>{begin}</ButtonLink>}
          nothing={part ? 'No part is like that.' : 'No item is like that.'}
          short
        >
          {!part && <ButtonLink to="/workshop/bring-in">Bring in a file</ButtonLink>}
          <ButtonLink to={also('new')} weight="main" className="ml-1">
            {begin}
          </ButtonLink>
        </List>
      </ListSheet>
    </Place>
  );
}

type Fields = Record<string, string>;

/** Does something with an item, says what was done, and offers the way back. */
function useKeeping(): (fields: Fields) => void {
  const { submit, data } = useFetcher<typeof action>();
  const send = useCallback((fields: Fields) => void submit(fields, { method: 'post', action: '/workshop/items' }), [submit]);
  useEffect(() => {
    if (data && 'refusal' in data) toast(data.refusal.sentence);
    if (!data || !('did' in data)) return;
    const { did, back } = data;
    toast(did, back && { action: { label: 'Undo', onClick: () => send(back) } });
  }, [data, send]);
  return send;
}

/** What can be done with an item besides opening it. */
function ItemActs({ item, part, copyTo, send }: { item: Row; part: boolean; copyTo: string; send: (fields: Fields) => void }) {
  return (
    <span className="inline-flex items-center gap-1">
      <Link to={copyTo} className="text-sea underline underline-offset-4">
        Begin a copy<span className="sr-only"> of {item.name}</span>
      </Link>
      {(!part || item.published === null) && (
        <Menu
          label={`More for ${item.name}`}
          opener={
            <button type="button" className="flex size-6 items-center justify-center rounded text-faint hover:text-sea" data-tip="More">
              <Ellipsis size={15} aria-hidden />
              <span className="sr-only">More for {item.name}</span>
            </button>
          }
        >
          {!part && (
            <MenuAct onSelect={() => send({ act: item.archivedAt ? 'bring-back' : 'archive', id: item.id })}>
              {item.archivedAt ? 'Bring it back' : item.published === null ? 'Archive' : 'Archive: not offered any more'}
            </MenuAct>
          )}
          {item.published === null && (
            <MenuAct destructive onSelect={() => send({ act: 'delete', id: item.id })}>
              Delete this draft
            </MenuAct>
          )}
        </Menu>
      )}
    </span>
  );
}

function Begin({
  templates,
  part,
  original,
  typed,
  template: chosen = '',
  refusal,
}: {
  /** What ships to begin from. */
  templates: { id: string; name: string; purpose: string }[];
  part: boolean;
  original: { id: string; name: string } | undefined;
  typed: string | undefined;
  /** What it was to begin from when it was refused. */
  template?: string | undefined;
  refusal: Refusal | undefined;
}) {
  const post = usePost(Begun, { refusal });
  const [name, setName] = useState(typed ?? (original ? `${original.name}, tried out` : ''));
  const [template, setTemplate] = useState(chosen);
  const taken = useNameTaken(name);
  const busy = useNavigation().formMethod === 'POST';
  return (
    <Form method="post" action="/workshop/items" {...post.form}>
      <h2 className="mb-1 font-serif text-xl">{original ? 'Begin a copy' : part ? 'Begin a part' : 'Begin an item'}</h2>
      <input type="hidden" name="kind" value={part ? 'part' : 'item'} />
      <p className="mb-4 text-faint">
        {original
          ? `A copy of “${original.name}”. The original is not touched, whatever you do to the copy.`
          : part
            ? 'Blank: first what it is given, then its steps.'
            : template
              ? 'What is in it is yours to change; the check names what is wanting still.'
              : 'Blank: first what it asks, then what happens.'}
      </p>
      {original && <input type="hidden" name="copyOf" value={original.id} />}
      {!original && templates.length > 0 && (
        <div className="mb-4">
          <Labelled label="Begin from" help={templates.find((t) => t.id === template)?.purpose}>
            {(ids) => (
              <Select {...ids} name="template" value={template} onValue={setTemplate}>
                <option value="">Nothing: blank</option>
                {templates.map((t) => (
                  <option key={t.id} value={t.id}>
                    {t.name}
                  </option>
                ))}
              </Select>
            )}
          </Labelled>
        </div>
      )}
      <Labelled
        label="Name"
        help={part ? 'What designers will look for.' : 'What people will look for at the Counter.'}
        problem={post.problem('name') ?? taken ?? post.sentence}
        required
      >
        {(ids) => <NameField {...ids} name="name" value={name} onChange={(e) => setName(e.target.value)} maxLength={80} autoFocus />}
      </Labelled>
      <p className="mt-4 flex gap-2">
        <Button type="submit" weight="main" disabled={busy || taken !== undefined}>
          {original ? 'Begin the copy' : template ? 'Begin from it' : 'Begin blank'}
        </Button>
        <ButtonLink to={part ? '/workshop/items?kind=part' : '/workshop/items'} weight="quiet">
          Leave it
        </ButtonLink>
      </p>
    </Form>
  );
}
