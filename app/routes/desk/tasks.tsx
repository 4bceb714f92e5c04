import { clsx } from 'clsx';
import { DateTime } from 'luxon';
import { useMemo, useState } from 'react';
import { Outlet, useNavigation, useParams, useSubmit } from 'react-router';
import { minutesShort } from '../../../core/calendar/index.ts';
import { lists, writeAsked } from '../../../core/lists/index.ts';
import { takeTask } from '../../../server/tasks/commands.ts';
import { taskCount, tasksFor } from '../../../server/tasks/list.ts';
import { Button } from '~/ui/button';
import { ListSheet } from '~/ui/frame';
import { addressOf } from '~/ui/list/address';
import { List } from '~/ui/list/list';
import type { Cell } from '~/ui/list/table';
import { useNow } from '~/ui/now';
import { useOutcome } from '~/ui/outcome';
import { Refused } from '~/ui/problem';
import { Time } from '~/ui/time';
import { listFor } from '../list.server';
import { orNotFound, posted, signedIn } from '../session.server';
import type { Route } from './+types/tasks';

export { TroubleOnPage as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Tasks · Desk · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const page = await listFor(
    viewer,
    request,
    'tasks',
    (asked) => tasksFor(viewer, asked),
    (asked) => taskCount(viewer, asked),
  );
  return orNotFound(page, 'This list');
}

/** Takes several at once; what somebody else was quicker with is said, and the rest is taken. */
export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const refused: string[] = [];
  let taken = 0;
  for (const id of form.all('task').map(String).slice(0, 100)) {
    const result = await takeTask(viewer, { id, give: false });
    if (result.ok) taken++;
    else refused.push(result.sentence);
  }
  return { taken, refused };
}

type Row = Route.ComponentProps['loaderData']['list']['rows'][number];

const cells: Record<string, Cell<Row>> = {
  request: { width: 76, of: (r) => <span className="numbers">R-{r.number}</span> },
  task: {
    width: 200,
    grows: true,
    of: (r) => (
      <span className="block truncate font-medium" data-tip={r.name}>
        {r.name}
      </span>
    ),
    under: (r) => `${r.item}, ${r.requester}`,
  },
  team: { width: 150, wide: true, of: (r) => r.team ?? 'given to a person' },
  holder: { width: 120, of: (r) => (r.mine ? 'mine' : (r.takenBy ?? <span className="text-faint">nobody</span>)) },
  due: { width: 156, wide: true, of: (r) => r.dueAt && <Time at={r.dueAt} /> },
  left: {
    width: 104,
    of: (r) =>
      r.left !== undefined && (
        <span className={clsx('numbers whitespace-nowrap', r.left < 0 ? 'text-coral' : r.left < 120 && 'text-ochre')}>
          {r.left < 0 ? `${minutesShort(-r.left)} late` : minutesShort(r.left)}
        </span>
      ),
  },
  opened: { width: 156, wide: true, of: (r) => <Time at={r.openedAt} /> },
};

const keyOf = (r: Row) => r.id;
const wordsOf = (r: Row) => `R-${r.number}, ${r.name}`;

const hrefOf = (r: Row, said: string) => addressOf(`/desk/tasks/${r.id}`, said);

export default function Tasks({ loaderData, ...props }: Route.ComponentProps) {
  const actionData = useOutcome(props.actionData);
  const open = useParams()['id'];
  const { now, zone } = useNow();
  const submit = useSubmit();
  const busy = useNavigation().formMethod === 'POST';
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const { asked } = loaderData;
  const here = addressOf('/desk/tasks', writeAsked(lists.tasks, asked));
  const groupOf = useMemo(() => {
    const today = DateTime.fromJSDate(now).setZone(zone).startOf('day');
    return (r: Row) => {
      if (r.dueAt === null) return { words: 'Without a date' };
      if (r.dueAt < now) return { words: 'Past its date', late: true };
      const days = DateTime.fromJSDate(r.dueAt).setZone(zone).startOf('day').diff(today, 'days').days;
      return { words: days < 1 ? 'Today' : days < 2 ? 'Tomorrow' : days < 7 ? 'Within seven days' : 'Later' };
    };
  }, [now, zone]);
  const take = () => {
    const form = new FormData();
    for (const id of chosen) form.append('task', id);
    setChosen(new Set());
    void submit(form, { method: 'post', action: here, preventScrollReset: true });
  };
  return (
    <ListSheet {...(open !== undefined && { slip: <Outlet />, closeTo: here, of: open })}>
      <List
        name="tasks"
        path="/desk/tasks"
        title="Tasks"
        of={loaderData}
        cells={cells}
        keyOf={keyOf}
        hrefOf={hrefOf}
        wordsOf={wordsOf}
        open={open}
        chosen={{ keys: chosen, onChange: setChosen }}
        groupOf={asked.sort.by === 'due' && !asked.sort.down ? groupOf : undefined}
        notice={<Refused sentence={actionData && actionData.refused.length > 0 ? takenWords(actionData) : undefined} />}
        empty="Nothing is to be done. Tasks of yours and of your teams stand here, the one due first on top; take one and it is yours."
        nothing="No task is like that."
        live
      >
        {chosen.size > 0 && (
          <Button weight="main" disabled={busy} onClick={take}>
            Take {chosen.size === 1 ? 'this one' : `these ${chosen.size}`}
          </Button>
        )}
      </List>
    </ListSheet>
  );
}

const takenWords = ({ taken, refused }: { taken: number; refused: string[] }): string =>
  `${taken === 0 ? 'None was taken.' : taken === 1 ? 'One was taken.' : `${taken} were taken.`} ${[...new Set(refused)].slice(0, 3).join(' ')}`;
