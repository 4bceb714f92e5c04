import { decisionCount, decisionList } from '../../../server/evidence/list.ts';
import { fileNaming, nameFilesSo } from '../../../server/evidence/naming.ts';
import { FileText } from 'lucide-react';
import { mostOnPaper } from '../../../core/evidence/index.ts';
import { lists, writeAsked } from '../../../core/lists/index.ts';
import { FileNaming } from '~/ledger/file-naming';
import { LedgerSheet } from '~/ledger/ledger-sheet';
import { caseNumber } from '~/ui/case-number';
import { addressOf } from '~/ui/list/address';
import type { Listed } from '~/ui/list/list';
import type { Cell } from '~/ui/list/table';
import { useOutcome } from '~/ui/outcome';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';
import { listFor } from '../list.server';
import { orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/decisions';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Decisions · Ledger · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const page = await listFor(
    viewer,
    request,
    'decisions',
    (of) => decisionList(viewer, of),
    (of) => decisionCount(viewer, of),
  );
  return { ...orNotFound(page, 'This list'), pattern: await fileNaming() };
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const pattern = (await posted(request)).get('pattern');
  const named = await nameFilesSo(viewer, { pattern });
  return named.ok ? null : refused(named, { pattern });
}

type Row = Route.ComponentProps['loaderData']['list']['rows'][number];

const line = (words: string, bold = false) => (
  <span className={bold ? 'block truncate font-medium' : 'block truncate'} data-tip={words}>
    {words}
  </span>
);
const ways: Record<string, string> = lists.decisions.filters.way.options;

const cells: Record<string, Cell<Row>> = {
  decided: { width: 156, of: (r) => <Time at={r.at} /> },
  who: { width: 148, of: (r) => line(r.who, true), under: (r) => (r.instead === null ? '' : `instead of ${r.instead}`) },
  decision: {
    width: 112,
    of: (r) => (
      <span className="flex items-center gap-2">
        <StateMark kind={r.status === 'approved' ? 'done' : 'declined'} size={12} /> {r.status === 'approved' ? 'Approved' : 'Declined'}
      </span>
    ),
  },
  words: { width: 150, grows: true, of: (r) => r.comment && line(r.comment) },
  gate: { width: 160, of: (r) => line(r.gate) },
  request: {
    width: 176,
    of: (r) => <span className="numbers">{caseNumber(r.kind, r.number)}</span>,
    under: (r) => `${r.item}, asked by ${r.requester}`,
  },
  way: { width: 144, wide: true, of: (r) => line(ways[(r.via ?? '').replaceAll(' ', '-')] ?? r.via ?? '') },
  entry: { width: 90, of: (r) => <span className="numbers">{r.entry}</span> },
  link: { width: 120, of: (r) => <span className="numbers">{r.link}</span> },
  hash: { width: 200, of: (r) => r.hash && <span className="numbers">{line(r.hash)}</span> },
};

const keyOf = (r: Row) => r.id;
const hrefOf = (r: Row) => (r.kind === 'ticket' ? `/desk/queue/tickets/${r.number}` : `/ledger/${r.number}`);
const wordsOf = (r: Row) => `${r.who}, ${r.gate}, ${caseNumber(r.kind, r.number)}`;

export default function Decisions({ loaderData, ...props }: Route.ComponentProps) {
  const outcome = useOutcome(props.actionData);
  return (
    <LedgerSheet
      name="decisions"
      views={loaderData.views}
      log
      of={loaderData}
      cells={cells}
      keyOf={keyOf}
      hrefOf={hrefOf}
      wordsOf={wordsOf}
      empty="Who agreed to what, or declined it, stands here, with their words. Nothing was decided yet."
      nothing="No decision is like that."
      foot={<FileNaming key={loaderData.pattern} pattern={loaderData.pattern} refusal={outcome?.refusal} typed={outcome?.pattern} />}
    >
      <AsPaper of={loaderData} />
    </LedgerSheet>
  );
}

/** What is asked for as a PDF. */
function AsPaper({ of: { asked, count } }: { of: Listed<Row> }) {
  if (count === '0') return null;
  // No more than are counted go on one paper.
  if (count?.startsWith('over'))
    return <span className="px-2 text-sm text-faint">As PDF: narrow them to {mostOnPaper.toLocaleString('en')} first</span>;
  return (
    <a
      href={addressOf('/ledger/decisions.pdf', writeAsked(lists.decisions, asked))}
      download
      data-tip="As PDF, with the proof of the chain"
      className="inline-flex h-8 items-center gap-1.5 rounded px-2 text-sm text-sea hover:bg-sea-wash"
    >
      <FileText size={15} aria-hidden /> PDF
    </a>
  );
}
