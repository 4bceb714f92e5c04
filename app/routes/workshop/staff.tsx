import { Form, useNavigation } from 'react-router';
import { dateWords } from '../../../core/calendar/index.ts';
import { staffFollowed, staffHappenings } from '../../../core/staff/index.ts';
import { has } from '../../../server/auth/viewer.ts';
import { followHappenings, readFeedNow } from '../../../server/staff/commands.ts';
import { staffCount, staffList } from '../../../server/staff/list.ts';
import { staffFeedFor } from '../../../server/staff/queries.ts';
import { FeedHead } from '~/staff/feed-head';
import { changedWords } from '~/staff/changed-words';
import { Button } from '~/ui/button';
import { ListSheet, Place } from '~/ui/frame';
import { addressOf } from '~/ui/list/address';
import { List } from '~/ui/list/list';
import type { Cell } from '~/ui/list/table';
import { KeptViews } from '~/ui/list/views';
import { useOutcome } from '~/ui/outcome';
import { Refused } from '~/ui/problem';
import { useReadOn } from '~/ui/read-anew';
import { Time } from '~/ui/time';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { listFor } from '../list.server';
import { orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/staff';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Staff feed · Workshop · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  // First how the reading stands: of one that has ended the list then has what it told.
  const feed = orNotFound(await staffFeedFor(viewer), 'The staff feed');
  const page = await listFor(
    viewer,
    request,
    'staff',
    (asked) => staffList(viewer, asked),
    (asked) => staffCount(viewer, asked),
  );
  return { ...orNotFound(page, 'The staff feed'), feed, designs: has(viewer, 'designer') };
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const act = form.get('act');
  const result = act === 'read' ? await readFeedNow(viewer) : await followHappenings(viewer, { ids: act === 'held' ? 'held' : [form.get('id')] });
  return result.ok ? null : refused(result, {});
}

type Row = Route.ComponentProps['loaderData']['list']['rows'][number];
const path = '/workshop/staff';

const line = (words: string, bold = false) => (
  <span className={bold ? 'block truncate font-medium' : 'block truncate'} data-tip={words}>
    {words}
  </span>
);
const cells: Record<string, Cell<Row>> = {
  when: { width: 156, of: (r) => <Time at={r.at} /> },
  who: { width: 140, of: (r) => line(r.name, true), under: (r) => r.staffNumber },
  what: { width: 190, grows: true, of: (r) => line(staffHappenings[r.kind]), under: changedWords },
  from: { width: 104, of: (r) => <span className="numbers">{dateWords(r.from)}</span> },
  followed: {
    width: 320,
    grows: true,
    of: (r) =>
      r.request === null ? (
        <span className={r.state === 'refused' ? 'text-coral' : r.state === 'held' ? 'text-ochre' : undefined}>{staffFollowed[r.state]}</span>
      ) : (
        line(`R-${r.request} ${r.item ?? ''}`)
      ),
    under: (r) => r.why ?? (r.asks === null ? '' : `asked for as ${r.asks}`),
  },
};

function Again({ of }: { of: Row }) {
  const busy = useNavigation().state !== 'idle';
  return (
    <Form method="post">
      <input type="hidden" name="id" value={of.id} />
      <Button type="submit" name="act" value="follow" weight="quiet" disabled={busy} aria-label={`Ask for it: ${wordsOf(of)}`}>
        Ask for it
      </Button>
    </Form>
  );
}

const keyOf = (r: Row) => r.id;
/** What followed, where anything did. */
const hrefOf = (r: Row, said: string) => (r.request === null ? addressOf(path, said) : `/ledger/${r.request}`);
const mayFollow: ReadonlySet<Row['state']> = new Set(['refused', 'held', 'noRule']);
const wordsOf = (r: Row) => `${r.name}, ${staffHappenings[r.kind]}`;

export default function Staff({ loaderData, ...props }: Route.ComponentProps) {
  const { feed, designs, views, list } = loaderData;
  const outcome = useOutcome(props.actionData);
  useReadOn(feed.underWay || list.rows.some((r) => r.state === 'open'));
  return (
    <Place
      marginLabel="Workshop"
      margin={
        <>
          <WorkshopMargin at="staff" designs={designs} />
          <KeptViews list="staff" views={views} to={(kept) => addressOf(path, kept)} />
        </>
      }
    >
      <ListSheet>
        <List
          name="staff"
          path={path}
          title="Staff feed"
          of={loaderData}
          cells={cells}
          acts={(r) => mayFollow.has(r.state) && feed.rules.has(r.kind) && <Again of={r} />}
          keyOf={keyOf}
          hrefOf={hrefOf}
          wordsOf={wordsOf}
          lead="Who starts, moves and leaves, as the feed tells it; it is read every five minutes, and what a rule names is asked for by itself."
          empty="What the feed tells stands here once it is read."
          nothing="Nothing it told is like that."
          notice={
            <>
              <Refused sentence={outcome && 'refusal' in outcome ? outcome.refusal.sentence : undefined} />
              <FeedHead feed={feed} designs={designs} />
            </>
          }
        />
      </ListSheet>
    </Place>
  );
}
