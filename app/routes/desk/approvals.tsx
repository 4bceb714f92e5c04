import { Outlet, useParams } from 'react-router';
import { lists, writeAsked } from '../../../core/lists/index.ts';
import { approvalCount, approvalsFor } from '../../../server/approvals/list.ts';
import { caseNumber } from '~/ui/case-number';
import { ListSheet } from '~/ui/frame';
import { addressOf } from '~/ui/list/address';
import { List } from '~/ui/list/list';
import type { Cell } from '~/ui/list/table';
import { StateMark, type StateMarkKind } from '~/ui/state-mark';
import { Time } from '~/ui/time';
import { listFor } from '../list.server';
import { orNotFound, signedIn } from '../session.server';
import type { Route } from './+types/approvals';

export { TroubleOnPage as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Approvals for me · Desk · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const page = await listFor(
    viewer,
    request,
    'approvals',
    (asked) => approvalsFor(viewer, asked),
    (asked) => approvalCount(viewer, asked),
  );
  return orNotFound(page, 'This list');
}

type Row = Route.ComponentProps['loaderData']['list']['rows'][number];

const answers: Record<Row['status'], { mark: StateMarkKind; words: string }> = {
  waiting: { mark: 'half', words: 'waits for you' },
  approved: { mark: 'done', words: 'approved' },
  declined: { mark: 'declined', words: 'declined' },
  released: { mark: 'empty', words: 'not needed any more' },
};

const cells: Record<string, Cell<Row>> = {
  request: { width: 76, of: (r) => <span className="numbers">{caseNumber(r.kind, r.number)}</span> },
  item: {
    width: 190,
    grows: true,
    of: (r) => (
      <span className="block truncate font-medium" data-tip={r.item}>
        {r.item}
      </span>
    ),
    under: (r) => [r.subject, r.requester].filter(Boolean).join(', '),
  },
  gate: {
    width: 180,
    grows: true,
    wide: true,
    of: (r) => (
      <span className="block truncate" data-tip={r.gate}>
        {r.gate}
      </span>
    ),
  },
  asked: { width: 110, of: (r) => <Time at={r.askedAt} relative /> },
  lapses: { width: 156, wide: true, of: (r) => r.lapsesAt && <Time at={r.lapsesAt} /> },
  decision: {
    width: 170,
    wide: true,
    of: (r) => (
      <span className="inline-flex items-center gap-1.5">
        <StateMark kind={answers[r.status].mark} size={12} /> {answers[r.status].words}
      </span>
    ),
  },
};

const keyOf = (r: Row) => r.id;
const wordsOf = (r: Row) =>
  `${caseNumber(r.kind, r.number)}, ${[r.item, r.subject, r.requester].filter(Boolean).join(', ')}, ${answers[r.status].words}`;

const hrefOf = (r: Row, said: string) => addressOf(`/desk/approvals/${r.id}`, said);

export default function Approvals({ loaderData }: Route.ComponentProps) {
  const open = useParams()['id'];
  const { asked } = loaderData;
  return (
    <ListSheet {...(open !== undefined && { slip: <Outlet />, closeTo: addressOf('/desk/approvals', writeAsked(lists.approvals, asked)), of: open })}>
      <List
        name="approvals"
        path="/desk/approvals"
        title={asked.wanted['state']?.join() === 'over' ? 'Answered by me' : 'Approvals for me'}
        of={loaderData}
        cells={cells}
        keyOf={keyOf}
        hrefOf={hrefOf}
        wordsOf={wordsOf}
        open={open}
        empty="Nothing waits for your decision. When somebody asks for something you must agree to, it stands here and comes by mail."
        nothing="No approval is like that."
        live
      />
    </ListSheet>
  );
}
