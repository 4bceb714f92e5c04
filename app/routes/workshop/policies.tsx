import { Form, redirect, useNavigation } from 'react-router';
import { createPolicy } from '../../../server/policies/commands.ts';
import { policies } from '../../../server/policies/list.ts';
import { lists, writeAsked } from '../../../core/lists/index.ts';
import { Button, ButtonLink } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Empty, ListSheet, Place } from '~/ui/frame';
import { addressOf } from '~/ui/list/address';
import { ListBar } from '~/ui/list/bar';
import { ListTable, type Cell } from '~/ui/list/table';
import { usePages } from '~/ui/list/use-pages';
import { KeptViews } from '~/ui/list/views';
import { Time } from '~/ui/time';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { listFor } from '../list.server';
import { found, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/policies';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Approval policies · Workshop · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  return found(await listFor(viewer, request, 'policies', (asked) => policies(viewer, asked)), 'The Workshop');
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const name = (await posted(request)).get('name');
  const result = await createPolicy(viewer, { name });
  return result.ok ? redirect(`/workshop/policies/${result.id}`) : refused(result, { name });
}

type Row = Route.ComponentProps['loaderData']['list']['rows'][number];

const cells: Record<string, Cell<Row>> = {
  name: {
    width: 320,
    grows: true,
    of: (p) => (
      <span className="block truncate font-medium" title={p.name}>
        {p.name}
      </span>
    ),
    under: (p) => p.purpose,
  },
  lines: { width: 80, of: (p) => <span className="numbers">{p.lines}</span> },
  version: { width: 90, wide: true, of: (p) => <span className="numbers">{p.version}</span> },
  changed: { width: 180, of: (p) => <Time at={p.changedAt} relative />, under: (p) => p.changedBy },
};
const keyOf = (p: Row) => p.id;
const hrefOf = (p: Row) => `/workshop/policies/${p.id}`;
const wordsOf = (p: Row) => p.name;

export default function Policies({ loaderData: { asked, list, named, views }, actionData }: Route.ComponentProps) {
  const busy = useNavigation().formMethod === 'POST';
  const said = writeAsked(lists.policies, asked);
  const pages = usePages<Row>(list, '/workshop/policies', said);
  const { rows } = pages;
  return (
    <Place
      marginLabel="Workshop"
      margin={
        <>
          <WorkshopMargin at="policies" />
          <KeptViews list="policies" views={views} to={(kept) => addressOf('/workshop/policies', kept)} />
        </>
      }
    >
      <ListSheet>
        <ListBar
          title="Approval policies"
          name="policies"
          shape={lists.policies}
          asked={asked}
          named={named}
          count={pages.next === undefined ? String(rows.length) : undefined}
          exportTo="/export/policies"
        />
        <p className="pb-2 text-faint">
          Who has to agree, by amount, size or category, kept in one place. A change works everywhere from the next gate on; no item is touched.
        </p>
        {rows.length === 0 ? (
          <Empty act={said ? <ButtonLink to="/workshop/policies">Show all policies</ButtonLink> : undefined}>
            {said ? 'No policy is like that.' : 'No policy yet. Begin one below, and let gates follow it.'}
          </Empty>
        ) : (
          <ListTable
            shape={lists.policies}
            asked={asked}
            name="policies"
            label="Approval policies"
            rows={rows}
            cells={cells}
            keyOf={keyOf}
            hrefOf={hrefOf}
            wordsOf={wordsOf}
            {...(pages.next !== undefined && {
              more: { read: pages.read, loading: pages.loading, to: addressOf('/workshop/policies', said, `after=${pages.next}`) },
            })}
          />
        )}
        <Form method="post" className="flex max-w-md items-end gap-2 border-t py-3">
          <div className="grow">
            <Labelled label="Begin a policy" problem={actionData?.refusal.sentence}>
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
