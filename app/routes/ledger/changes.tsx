import { Form, Link } from 'react-router';
import { changedObjects } from '../../../core/lists/index.ts';
import { changeOf, changes, mayReadLog, verifyLog } from '../../../server/changes/queries.ts';
import { Button } from '~/ui/button';
import { ListSheet, MarginLine, Place } from '~/ui/frame';
import { addressOf } from '~/ui/list/address';
import { List } from '~/ui/list/list';
import type { Cell } from '~/ui/list/table';
import { KeptViews } from '~/ui/list/views';
import { useOutcome } from '~/ui/outcome';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';
import { listFor } from '../list.server';
import { asked, orNotFound, numberIn, posted, signedIn } from '../session.server';
import type { Route } from './+types/changes';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Log of changes · Ledger · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const entry = numberIn(asked(request, 'entry'));
  const [page, open] = await Promise.all([
    listFor(viewer, request, 'changes', (wanted) => changes(viewer, wanted)),
    entry ? changeOf(viewer, entry) : undefined,
  ]);
  return { ...orNotFound(page, 'The log of changes'), open: entry ? orNotFound(open, 'This entry') : undefined };
}

/** Walking the whole chain takes a while: it is asked for, not done at every look. */
export async function action({ context, request }: Route.ActionArgs) {
  orNotFound(mayReadLog(signedIn(context, request)) ? true : undefined, 'The log of changes');
  await posted(request, 1000);
  return { verified: await verifyLog() };
}

type Data = Route.ComponentProps['loaderData'];
type Row = Data['list']['rows'][number];

/** `sign-in-failed` as it is read. */
const actWords = (action: string) => action.replaceAll('-', ' ');
const whoWords = (who: string | null) => who ?? 'Nessmoor itself';

const cells: Record<string, Cell<Row>> = {
  when: { width: 196, of: (r) => <Time at={r.at} seconds /> },
  who: {
    width: 190,
    of: (r) => (
      <span className="block truncate" data-tip={whoWords(r.who)}>
        {whoWords(r.who)}
      </span>
    ),
  },
  did: { width: 150, of: (r) => <span className="font-medium">{actWords(r.action)}</span> },
  to: {
    width: 200,
    of: (r) => (
      <>
        {changedObjects[r.object]} <span className="numbers text-xs text-faint">{r.objectId.slice(0, 8)}</span>
      </>
    ),
  },
  more: {
    width: 320,
    grows: true,
    wide: true,
    of: (r) => (
      <span className="block truncate text-faint" data-tip={detailWords(r.detail)}>
        {detailWords(r.detail)}
      </span>
    ),
  },
};
const keyOf = (r: Row) => String(r.id);
const hrefOf = (r: Row, said: string) => addressOf('/ledger/changes', said, `entry=${r.id}`);
const wordsOf = (r: Row) => `${actWords(r.action)}, ${changedObjects[r.object]}`;

export default function Changes({ loaderData, ...props }: Route.ComponentProps) {
  const { open, views, asked: now } = loaderData;
  const verified = useOutcome(props.actionData)?.verified;
  return (
    <Place
      marginLabel="Ledger"
      margin={
        <>
          <div className="flex flex-wrap py-2 md:block md:py-4">
            <MarginLine here={false} to="/ledger">
              Requests
            </MarginLine>
            <MarginLine here to="/ledger/changes">
              Log of changes
            </MarginLine>
          </div>
          <KeptViews list="changes" views={views} to={(kept) => addressOf('/ledger/changes', kept)} />
        </>
      }
    >
      <ListSheet closeTo={addressOf('/ledger/changes', '') || '/ledger/changes'} {...(open && { of: String(open.id), slip: <Entry entry={open} /> })}>
        <List
          name="changes"
          path="/ledger/changes"
          title="Log of changes"
          of={{ ...loaderData, asked: now }}
          cells={cells}
          keyOf={keyOf}
          hrefOf={hrefOf}
          wordsOf={wordsOf}
          open={open && String(open.id)}
          lead="Who did what to which object. Entries are only ever added, and each carries a hash over itself and the one before."
          empty="Nothing was done yet."
          nothing="Nothing like that stands in the log."
          notice={verified && <Chain verified={verified} />}
        >
          <Form method="post" className="ml-2 shrink-0">
            <Button type="submit">Verify the chain</Button>
          </Form>
        </List>
      </ListSheet>
    </Place>
  );
}

function Chain({ verified: v }: { verified: NonNullable<Route.ComponentProps['actionData']>['verified'] }) {
  return (
    <p role="status" className={`mb-2 border-l-3 px-3 py-2 ${v.ok ? 'border-moss bg-moss-wash' : 'border-coral bg-coral-wash'}`}>
      <StateMark kind={v.ok ? 'done' : 'failed'} size={12} />{' '}
      {v.ok ? (
        <>
          All {v.entries.toLocaleString('en')} entries are as they were written. The chain ends with{' '}
          <span className="numbers text-sm break-all">{v.head}</span>; noted elsewhere, it also shows whether entries are cut off later.
        </>
      ) : (
        `The chain breaks at link ${v.at}: ${v.sentence}`
      )}
    </p>
  );
}

/** One entry, whole. */
function Entry({ entry: e }: { entry: NonNullable<Data['open']> }) {
  const detail = Object.entries(e.detail).filter(([, x]) => x !== null && x !== '');
  return (
    <article className="min-w-0">
      <p className="numbers text-sm text-faint">Entry {e.id}</p>
      <h2 className="font-serif text-2xl first-letter:uppercase">{actWords(e.action)}</h2>
      <p className="mt-1 text-faint">
        {whoWords(e.who)}, <Time at={e.at} seconds />
      </p>
      <dl className="mt-4 border-t pt-3">
        <dt className="text-sm text-faint">To</dt>
        <dd className="mb-3">
          {changedObjects[e.object]} <span className="numbers text-sm break-all">{e.objectId}</span>
          <Link to={addressOf('/ledger/changes', `q=${encodeURIComponent(e.objectId)}`)} className="block text-sea underline underline-offset-4">
            All that was done to it
          </Link>
        </dd>
        {detail.map(([name, x]) => (
          <div key={name} className="mb-3">
            <dt className="text-sm text-faint first-letter:uppercase">{nameWords(name)}</dt>
            <dd className="wrap-anywhere whitespace-pre-wrap">{typeof x === 'string' ? x : JSON.stringify(x, null, 1)}</dd>
          </div>
        ))}
        <dt className="text-sm text-faint">In the chain</dt>
        <dd>
          {e.link === null ? (
            'It waits to be hung in.'
          ) : (
            <>
              Link {e.link.toLocaleString('en')}, <span className="numbers text-sm whitespace-normal break-all">{e.hash}</span>
            </>
          )}
        </dd>
      </dl>
    </article>
  );
}

const nameWords = (name: string) => name.replace(/[A-Z]/g, (c) => ` ${c.toLowerCase()}`);
/** What an entry adds, name by name. A hash by its beginning, as everywhere; nothing for what is not there. */
const detailWords = (detail: Record<string, unknown>): string =>
  Object.entries(detail)
    .filter(([, x]) => x !== null && x !== '')
    .map(([name, x]) => {
      const said = typeof x === 'string' ? (/^[0-9a-f]{64}$/.test(x) ? x.slice(0, 16) : x) : JSON.stringify(x);
      return `${nameWords(name)}: ${said}`;
    })
    .join(' · ')
    .slice(0, 300);
