import { Form, redirect, useNavigation } from 'react-router';
import { Begun } from '../../../core/posts/index.ts';
import { createPolicy } from '../../../server/policies/commands.ts';
import { policies } from '../../../server/policies/list.ts';
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
import type { Route } from './+types/policies';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Approval policies · Workshop · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  return orNotFound(await listFor(viewer, request, 'policies', (asked) => policies(viewer, asked)), 'The Workshop');
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
      <span className="block truncate font-medium" data-tip={p.name}>
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

export default function Policies({ loaderData, actionData }: Route.ComponentProps) {
  const busy = useNavigation().formMethod === 'POST';
  const post = usePost(Begun, { refusal: actionData?.refusal });
  return (
    <Place
      marginLabel="Workshop"
      margin={
        <>
          <WorkshopMargin at="policies" />
          <KeptViews list="policies" views={loaderData.views} to={(kept) => addressOf('/workshop/policies', kept)} />
        </>
      }
    >
      <ListSheet>
        <List
          name="policies"
          path="/workshop/policies"
          title="Approval policies"
          of={loaderData}
          cells={cells}
          keyOf={keyOf}
          hrefOf={hrefOf}
          wordsOf={wordsOf}
          lead="Who has to agree, by amount, size or category, kept in one place. A change works everywhere from the next gate on; no item is touched."
          empty="No policy yet. Begin one below, and let gates follow it."
          nothing="No policy is like that."
          short
        />
        <Form method="post" {...post.form} className="flex max-w-md items-end gap-2 border-t py-3">
          <div className="grow">
            <Labelled label="Begin a policy" problem={post.problem('name') ?? post.sentence}>
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
