import { dateWords } from '../../../core/calendar/index.ts';
import { has } from '../../../server/auth/viewer.ts';
import { giveBack } from '../../../server/holdings/commands.ts';
import { holdingCount, holdingFor, holdingList } from '../../../server/holdings/list.ts';
import { wordsOfThing } from '~/ui/holding-kind';
import { HoldingSlip } from '~/ledger/holding-slip';
import { LedgerSheet } from '~/ledger/ledger-sheet';
import { addressOf } from '~/ui/list/address';
import type { Cell } from '~/ui/list/table';
import { useOutcome } from '~/ui/outcome';
import { Time } from '~/ui/time';
import { listFor } from '../list.server';
import { asked, orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/holdings';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Holdings · Ledger · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const wanted = asked(request, 'holding');
  const [page, open] = await Promise.all([
    listFor(
      viewer,
      request,
      'holdings',
      (of) => holdingList(viewer, of),
      (of) => holdingCount(viewer, of),
    ),
    wanted ? holdingFor(viewer, wanted) : undefined,
  ]);
  return {
    ...orNotFound(page, 'The Ledger'),
    may: has(viewer, 'administrator'),
    open: wanted ? orNotFound(open, 'This holding') : undefined,
  };
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const result = await giveBack(viewer, { id: form.get('id'), why: form.get('why') });
  return result.ok ? null : refused(result, {});
}

type Row = Route.ComponentProps['loaderData']['list']['rows'][number];

const line = (words: string, bold = false) => (
  <span className={bold ? 'block truncate font-medium' : 'block truncate'} data-tip={words}>
    {words}
  </span>
);

/** Whoever has left, or leaves on a day that is known. */
const standingOf = (r: Row) => (r.hasLeft ? 'has left' : r.lastDay ? `leaves on ${dateWords(r.lastDay)}` : undefined);

const cells: Record<string, Cell<Row>> = {
  who: { width: 180, of: (r) => line(r.who), under: (r) => standingOf(r) ?? r.job ?? '' },
  what: { width: 200, grows: true, of: (r) => line(r.what, true), under: (r) => wordsOfThing(r.kind).name },
  since: { width: 156, of: (r) => <Time at={r.since} />, under: (r) => (r.until ? `until ${dateWords(r.until)}` : '') },
  request: { width: 180, of: (r) => <span className="numbers">R-{r.number}</span>, under: (r) => r.item },
  costs: { width: 132, wide: true, of: (r) => <span className="numbers">{r.costs.join(' and ')}</span> },
  agreed: {
    width: 220,
    wide: true,
    of: (r) => line(r.agreed.map((a) => a.name).join(', ')),
    under: (r) =>
      r.agreed
        .map((a) => a.comment)
        .filter(Boolean)
        .map((c) => `“${c}”`)
        .join(' '),
  },
  ended: { width: 156, wide: true, of: (r) => (r.endedAt ? <Time at={r.endedAt} /> : r.endingAt && 'being given back') },
};

const keyOf = (r: Row) => r.id;
const hrefOf = (r: Row, said: string) => addressOf('/ledger/holdings', said, `holding=${r.id}`);
const wordsOf = (r: Row) => `${r.who}, ${r.what}, R-${r.number}`;

export default function Holdings({ loaderData, ...props }: Route.ComponentProps) {
  const { open, may } = loaderData;
  const outcome = useOutcome(props.actionData);
  return (
    <LedgerSheet
      name="holdings"
      views={loaderData.views}
      of={loaderData}
      cells={cells}
      keyOf={keyOf}
      hrefOf={hrefOf}
      wordsOf={wordsOf}
      empty="What requests gave to people stands here, with who agreed to it. Nothing was given yet."
      nothing="Nothing that is held is like that."
      open={open?.id}
      {...(open && { slip: <HoldingSlip key={open.id} of={open} mayTake={may} refusal={outcome?.refusal} /> })}
    />
  );
}
