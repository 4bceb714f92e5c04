import { clsx } from 'clsx';
import { DateTime } from 'luxon';
import { useMemo, useState } from 'react';
import { Outlet, useNavigation, useParams, useSubmit } from 'react-router';
import { minutesShort } from '../../../core/calendar/index.ts';
import { lists, writeAsked } from '../../../core/lists/index.ts';
import { queueCount, queueFor } from '../../../server/queue/list.ts';
import { actOnSeveral } from '../../../server/queue/several.ts';
import { teamChoices } from '../../../server/people/find.ts';
import { SeveralDialog, type Several } from '~/tickets/several';
import { Button } from '~/ui/button';
import { ListSheet } from '~/ui/frame';
import { addressOf } from '~/ui/list/address';
import { List } from '~/ui/list/list';
import type { Cell } from '~/ui/list/table';
import { freshKey } from '~/ui/fresh-key';
import { useNow } from '~/ui/now';
import { useOutcome } from '~/ui/outcome';
import { Refused } from '~/ui/problem';
import { TideLine } from '~/ui/tide-line';
import { Time } from '~/ui/time';
import { listFor } from '../list.server';
import { orNotFound, posted, signedIn } from '../session.server';
import type { Route } from './+types/queue';

export { TroubleOnPage as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Queue · Desk · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const page = await listFor(
    viewer,
    request,
    'queue',
    (asked) => queueFor(viewer, asked),
    (asked) => queueCount(viewer, asked),
  );
  return { ...orNotFound(page, 'This list'), teams: await teamChoices() };
}

const acts = ['take', 'give', 'write', 'note', 'end'] as const;

/** Acts on several at once; what cannot be done with one of them is said, and the rest is done. */
export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const act = acts.find((a) => a === form.get('act')) ?? 'take';
  const result = await actOnSeveral(viewer, {
    entries: form.all('entry'),
    act,
    team: form.get('team') || undefined,
    holder: form.get('to') || undefined,
    why: form.get('why'),
    words: form.get('words'),
    once: form.get('once'),
  });
  return { ...result, act };
}

type Row = Route.ComponentProps['loaderData']['list']['rows'][number];

const numberOf = (r: Row): string => `${r.what === 'ticket' ? 'T' : 'R'}-${r.number}`;

const cells: Record<string, Cell<Row>> = {
  request: { width: 76, of: (r) => <span className="numbers">{numberOf(r)}</span> },
  task: {
    width: 200,
    grows: true,
    of: (r) => (
      <span className="block truncate font-medium" data-tip={r.name}>
        {r.name}
      </span>
    ),
    under: (r) => `${[r.item, r.requester, r.place].filter(Boolean).join(', ')}${r.priority ? ` · ${r.priority}` : ''}`,
  },
  status: {
    width: 124,
    of: (r) => <span className="block truncate">{r.status ?? (r.holder ? 'Taken' : 'Not taken')}</span>,
    under: (r) => (r.mine ? 'mine' : (r.holder ?? 'nobody')),
  },
  tide: {
    width: 200,
    wide: true,
    of: (r) => r.standing && r.tide && <TideLine standing={r.standing} tide={r.tide} />,
    under: (r) => r.ofRequest && 'of the whole request',
  },
  left: {
    width: 104,
    of: (r) =>
      r.held ? (
        <span className="text-faint">held</span>
      ) : (
        r.left !== undefined && (
          <span className={clsx('numbers whitespace-nowrap', r.left < 0 ? 'text-coral' : r.standing?.warned && 'text-ochre')}>
            {r.left < 0 ? `${minutesShort(-r.left)} late` : minutesShort(r.left)}
          </span>
        )
      ),
  },
  team: { width: 150, wide: true, of: (r) => r.team ?? (r.holder ? 'given to a person' : 'nobody’s') },
  due: { width: 156, wide: true, of: (r) => r.dueAt && <Time at={r.dueAt} /> },
  opened: { width: 156, wide: true, of: (r) => <Time at={r.openedAt} /> },
};

const keyOf = (r: Row) => (r.what === 'ticket' ? numberOf(r) : r.id);
const wordsOf = (r: Row) => `${numberOf(r)}, ${r.name}`;

const hrefOf = (r: Row, said: string) => addressOf(r.what === 'ticket' ? `/desk/queue/tickets/${r.number}` : `/desk/queue/tasks/${r.id}`, said);

export default function Queue({ loaderData, ...props }: Route.ComponentProps) {
  const actionData = useOutcome(props.actionData);
  const { id, number } = useParams();
  const open = number === undefined ? id : `T-${number}`;
  const { now, zone } = useNow();
  const submit = useSubmit();
  const busy = useNavigation().formMethod === 'POST';
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const { asked } = loaderData;
  const here = addressOf('/desk/queue', writeAsked(lists.queue, asked));
  const groupOf = useMemo(() => {
    const today = DateTime.fromJSDate(now).setZone(zone).startOf('day');
    return (r: Row) => {
      if (r.dueAt === null) return { words: 'Without a date' };
      // By working time: what falls due at the close is not late until the desk opens again.
      if (r.left !== undefined && r.left < 0 && !r.held) return { words: r.what === 'ticket' ? 'Past the promise' : 'Past its date', late: true };
      const days = DateTime.fromJSDate(r.dueAt).setZone(zone).startOf('day').diff(today, 'days').days;
      return { words: days < 1 ? 'Today' : days < 2 ? 'Tomorrow' : days < 7 ? 'Within seven days' : 'Later' };
    };
  }, [now, zone]);
  const [more, setMore] = useState(false);
  const send = (act: 'take' | Several) => {
    const form = new FormData();
    for (const key of chosen) form.append('entry', key);
    for (const [name, value] of Object.entries(act === 'take' ? { act } : act)) form.append(name, value);
    form.append('once', freshKey('several'));
    setChosen(new Set());
    setMore(false);
    void submit(form, { method: 'post', action: here, preventScrollReset: true });
  };
  const whose = asked.wanted['whose'];
  return (
    <ListSheet {...(open !== undefined && { slip: <Outlet />, closeTo: here, of: open })}>
      <List
        name="queue"
        path="/desk/queue"
        title={whose?.includes('mine') ? 'Mine' : whose ? 'Not taken' : 'My teams'}
        of={loaderData}
        cells={cells}
        keyOf={keyOf}
        hrefOf={hrefOf}
        wordsOf={wordsOf}
        open={open}
        chosen={{ keys: chosen, onChange: setChosen }}
        groupOf={asked.sort.by === 'due' && !asked.sort.down ? groupOf : undefined}
        notice={
          actionData && actionData.refused.length === 0 && actionData.act !== 'take' ? (
            <p role="status" className="my-2 text-moss">
              {doneWords(actionData)}
            </p>
          ) : (
            <Refused
              sentence={
                actionData && actionData.refused.length > 0
                  ? `${doneWords(actionData)} ${[...new Set(actionData.refused)].slice(0, 3).join(' ')}`
                  : undefined
              }
            />
          )
        }
        empty="Nothing is to be done. Tickets and tasks of yours and of your teams stand here, the one due first on top; take one and it is yours."
        nothing="Nothing in the queue is like that."
        live
      >
        {chosen.size > 0 && (
          <>
            <Button weight="main" disabled={busy} onClick={() => send('take')}>
              Take {chosen.size === 1 ? 'this one' : `these ${chosen.size}`}
            </Button>
            <Button disabled={busy} onClick={() => setMore(true)}>
              Give or write …
            </Button>
          </>
        )}
      </List>
      <SeveralDialog open={more} count={chosen.size} teams={loaderData.teams} onClose={() => setMore(false)} onAct={send} />
    </ListSheet>
  );
}

const did = { take: 'taken', give: 'given on', write: 'written to', note: 'noted on', end: 'ended' } as const;
const doneWords = ({ done, act }: { done: number; act: keyof typeof did }): string =>
  done === 0 ? `None was ${did[act]}.` : done === 1 ? `One was ${did[act]}.` : `${done} were ${did[act]}.`;
