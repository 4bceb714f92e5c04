import { Form, redirect, useNavigation } from 'react-router';
import { Begun } from '../../../core/posts/index.ts';
import { createTable } from '../../../server/tables/commands.ts';
import { tables } from '../../../server/tables/list.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { ListSheet, Place } from '~/ui/frame';
import { addressOf } from '~/ui/list/address';
import { List } from '~/ui/list/list';
import type { Cell } from '~/ui/list/table';
import { KeptViews } from '~/ui/list/views';
import { usePost } from '~/ui/post';
import { Time } from '~/ui/time';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { listFor } from '../list.server';
import { orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/tables';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Reference tables · Workshop · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  return orNotFound(await listFor(viewer, request, 'tables', (asked) => tables(viewer, asked)), 'The Workshop');
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const name = (await posted(request)).get('name');
  const result = await createTable(viewer, { name });
  return result.ok ? redirect(`/workshop/tables/${result.id}`) : refused(result, { name });
}

type Row = Route.ComponentProps['loaderData']['list']['rows'][number];

const cells: Record<string, Cell<Row>> = {
  name: {
    width: 320,
    grows: true,
    of: (p) => (
      <span className="block truncate font-medium" data-tip={p.name}>
        {p.name}
      </span>
    ),
    under: (p) => p.purpose,
  },
  columns: { width: 90, wide: true, of: (p) => <span className="numbers">{p.columns}</span> },
  rows: { width: 80, of: (p) => <span className="numbers">{p.rows}</span> },
  changed: { width: 180, of: (p) => <Time at={p.changedAt} relative />, under: (p) => p.changedBy },
};
const keyOf = (p: Row) => p.id;
const hrefOf = (p: Row) => `/workshop/tables/${p.id}`;
const wordsOf = (p: Row) => p.name;

export default function Tables({ loaderData, actionData }: Route.ComponentProps) {
  const busy = useNavigation().formMethod === 'POST';
  const post = usePost(Begun, { refusal: actionData?.refusal });
  return (
    <Place
      marginLabel="Workshop"
      margin={
        <>
          <WorkshopMargin at="tables" />
          <KeptViews list="tables" views={loaderData.views} to={(kept) => addressOf('/workshop/tables', kept)} />
        </>
      }
    >
      <ListSheet>
        <List
          name="tables"
          path="/workshop/tables"
          title="Reference tables"
          of={loaderData}
          cells={cells}
          keyOf={keyOf}
          hrefOf={hrefOf}
          wordsOf={wordsOf}
          lead="Facts that plans read at the moment they use them: sizes and prices, who covers what, what a new colleague gets. A change counts from the next use on; no item is touched."
          empty="No table yet. Begin one below, and let a form offer its rows."
          nothing="No table is like that."
          short
        />
        <Form method="post" {...post.form} className="flex max-w-md items-end gap-2 border-t py-3">
          <div className="grow">
            <Labelled label="Begin a table" problem={post.problem('name') ?? post.sentence}>
              {(ids) => <input {...ids} name="name" className="input" maxLength={80} defaultValue={actionData?.name} placeholder="Its name" />}
            </Labelled>
          </div>
          <Button type="submit" disabled={busy}>
            Begin
          </Button>
        </Form>
      </ListSheet>
    </Place>
  );
}
