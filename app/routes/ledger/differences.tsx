import { lists } from '../../../core/lists/index.ts';
import { has } from '../../../server/auth/viewer.ts';
import { askReading, leaveAll, settleDifference } from '../../../server/differences/commands.ts';
import { differenceCount, differenceFor, differenceList } from '../../../server/differences/list.ts';
import { readings } from '../../../server/differences/queries.ts';
import { DifferenceSlip } from '~/ledger/difference-slip';
import { lentWords, settledWords } from '~/ledger/difference-words';
import { LedgerSheet } from '~/ledger/ledger-sheet';
import { Readings } from '~/ledger/readings';
import { wordsOfThing } from '~/ui/holding-kind';
import { addressOf } from '~/ui/list/address';
import type { Cell } from '~/ui/list/table';
import { useOutcome } from '~/ui/outcome';
import { Refused } from '~/ui/problem';
import { Time } from '~/ui/time';
import { foundFrom } from '../counter/answers.server';
import { listFor } from '../list.server';
import { asked, orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/differences';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Differences · Ledger · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const wanted = asked(request, 'difference');
  // First how the readings stand: of one that has ended the list then has what it found.
  const read = await readings(viewer);
  const [page, open] = await Promise.all([
    listFor(
      viewer,
      request,
      'differences',
      (of) => differenceList(viewer, of),
      (of) => differenceCount(viewer, of),
    ),
    wanted ? differenceFor(viewer, wanted) : undefined,
  ]);
  return {
    ...orNotFound(page, 'The Ledger'),
    readings: read,
    may: has(viewer, 'administrator'),
    open: wanted ? orNotFound(open, 'This difference') : undefined,
  };
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const act = form.get('act');
  const system = form.get('system');
  if (act === 'read') {
    const result = await askReading(viewer, system);
    return result.ok ? null : refused(result, { of: 'list' });
  }
  if (act === 'leaveAll') {
    const result = await leaveAll(viewer, { system, why: form.get('why'), foundBy: form.get('foundBy') });
    return result.ok ? null : refused(result, { of: system });
  }
  const whose = await foundFrom(viewer, form, 'person', 'person');
  const result = await settleDifference(viewer, { id: form.get('id'), how: form.get('how'), why: form.get('why'), person: whose?.id ?? '' });
  return result.ok ? null : refused(result, { of: 'slip' });
}

type Data = Route.ComponentProps['loaderData'];
type Row = Data['list']['rows'][number];
const path = '/ledger/differences';

const line = (words: string, bold = false) => (
  <span className={bold ? 'block truncate font-medium' : 'block truncate'} data-tip={words}>
    {words}
  </span>
);
const { is, state } = lists.differences.filters;
const cells: Record<string, Cell<Row>> = {
  what: { width: 200, grows: true, of: (r) => line(r.what, true), under: (r) => wordsOfThing(r.kind).name },
  who: { width: 160, of: (r) => line(r.who ?? 'nobody says'), under: (r) => r.job ?? '' },
  is: { width: 250, of: (r) => line(is.options[r.is]), under: (r) => (r.is === 'until' ? lentWords(r) : '') },
  system: { width: 130, wide: true, of: (r) => line(r.systemName) },
  found: { width: 150, of: (r) => <Time at={r.foundAt} /> },
  state: {
    width: 170,
    wide: true,
    of: (r) => (r.how && r.state !== 'open' && r.state !== 'gone' ? settledWords[r.how] : state.options[r.state]),
    under: (r) => (r.why ? `“${r.why}”` : ''),
  },
};
const keyOf = (r: Row) => r.id;
const hrefOf = (r: Row, said: string) => addressOf(path, said, `difference=${r.id}`);
const wordsOf = (r: Row) => `${r.what}, ${r.who ?? 'nobody'}, ${is.options[r.is]}`;

export default function Differences({ loaderData, ...props }: Route.ComponentProps) {
  const { open, may } = loaderData;
  const outcome = useOutcome(props.actionData);
  const refusalOf = (of: string) => (outcome && 'refusal' in outcome && outcome.of === of ? outcome.refusal : undefined);
  return (
    <LedgerSheet
      name="differences"
      views={loaderData.views}
      of={loaderData}
      cells={cells}
      keyOf={keyOf}
      hrefOf={hrefOf}
      wordsOf={wordsOf}
      empty="What systems have otherwise than it is held here stands here once they are read."
      nothing="No difference is like that."
      open={open?.id}
      lead="What systems have is read each night, and compared with what people were given here."
      notice={
        <>
          <Refused sentence={refusalOf('list')?.sentence} />
          <Readings all={loaderData.readings} may={may} refusalOf={refusalOf} />
        </>
      }
      {...(open && { slip: <DifferenceSlip key={open.id} of={open} maySettle={may} refusal={refusalOf('slip')} /> })}
    />
  );
}
