import { has } from '../../../server/auth/viewer.ts';
import { systems } from '../../../server/systems/list.ts';
import { ButtonLink } from '~/ui/button';
import { ListSheet, Place } from '~/ui/frame';
import { addressOf } from '~/ui/list/address';
import { List } from '~/ui/list/list';
import type { Cell } from '~/ui/list/table';
import { KeptViews } from '~/ui/list/views';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { listFor } from '../list.server';
import { orNotFound, signedIn } from '../session.server';
import type { Route } from './+types/systems';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Systems · Workshop · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const page = await listFor(viewer, request, 'systems', (asked) => systems(viewer, asked));
  return { ...orNotFound(page, 'The Workshop'), mayKeep: has(viewer, 'administrator'), designs: has(viewer, 'designer') };
}

type Row = Route.ComponentProps['loaderData']['list']['rows'][number];

const cells: Record<string, Cell<Row>> = {
  name: {
    width: 300,
    grows: true,
    of: (s) => (
      <span className="block truncate font-medium" data-tip={s.name}>
        {s.name}
      </span>
    ),
    under: (s) => s.address ?? 'Built in',
  },
  actions: { width: 90, of: (s) => <span className="numbers">{s.actions.length}</span> },
  owners: {
    width: 260,
    grows: true,
    of: (s) =>
      s.owners.length > 0 ? (
        <span className="block truncate" data-tip={s.owners.join(', ')}>
          {s.owners.join(', ')}
        </span>
      ) : (
        <span className="flex items-center gap-1.5 text-ochre">
          <StateMark kind="empty" size={12} /> Nobody yet
        </span>
      ),
  },
  changed: { width: 180, of: (s) => s.changedAt && <Time at={s.changedAt} relative />, under: (s) => s.changedBy },
};
const keyOf = (s: Row) => s.id;
const hrefOf = (s: Row) => `/workshop/systems/${s.id}`;
const wordsOf = (s: Row) => s.name;

export default function Systems({ loaderData }: Route.ComponentProps) {
  const { mayKeep, designs, views } = loaderData;
  return (
    <Place
      marginLabel="Workshop"
      margin={
        <>
          <WorkshopMargin at="systems" designs={designs} />
          <KeptViews list="systems" views={views} to={(kept) => addressOf('/workshop/systems', kept)} />
        </>
      }
    >
      <ListSheet>
        <List
          name="systems"
          path="/workshop/systems"
          title="Systems"
          of={loaderData}
          cells={cells}
          keyOf={keyOf}
          hrefOf={hrefOf}
          wordsOf={wordsOf}
          lead="What plans act on. Any service that speaks HTTP and JSON can be registered; calls carry an Idempotency-Key, so a repeat changes nothing twice."
          empty="No system is there."
          nothing="No system is like that."
          short
        >
          {mayKeep && (
            <ButtonLink to="/workshop/systems/new" weight="main" className="ml-2 shrink-0">
              Register a system
            </ButtonLink>
          )}
        </List>
      </ListSheet>
    </Place>
  );
}
