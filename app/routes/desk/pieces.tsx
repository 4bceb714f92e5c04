import { Link } from 'react-router';
import { takeIn } from '../../../server/equipment/commands.ts';
import { pieceCount, pieceFor, pieceList } from '../../../server/equipment/list.ts';
import { changePiece } from '../../../server/equipment/pieces.ts';
import { placesKept } from '../../../server/equipment/whose.ts';
import { PieceSlip } from '~/equipment/piece-slip';
import { pieceStates } from '~/equipment/piece-words';
import { dateWords } from '../../../core/calendar/index.ts';
import { lists, writeAsked } from '../../../core/lists/index.ts';
import { ListSheet } from '~/ui/frame';
import { addressOf } from '~/ui/list/address';
import { List } from '~/ui/list/list';
import type { Cell } from '~/ui/list/table';
import { useOutcome } from '~/ui/outcome';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';
import { listFor } from '../list.server';
import { asked, orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/pieces';

export { TroubleOnPage as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Pieces of equipment · Desk · Nessmoor' }];

const path = '/desk/equipment/pieces';

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const wanted = asked(request, 'piece');
  const [page, open, places] = await Promise.all([
    listFor(
      viewer,
      request,
      'pieces',
      (of) => pieceList(viewer, of),
      (of) => pieceCount(viewer, of),
    ),
    wanted ? pieceFor(viewer, wanted) : undefined,
    placesKept(viewer),
  ]);
  return { ...orNotFound(page, 'This list'), open: wanted ? orNotFound(open, 'This piece') : undefined, places };
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const note = form.get('note');
  const done =
    form.get('act') === 'takeIn'
      ? await takeIn(viewer, { issue: form.get('issue'), place: form.get('place'), how: form.get('how'), note })
      : await changePiece(viewer, { piece: form.get('piece'), state: form.get('state'), note });
  return done.ok ? null : refused(done, {});
}

type Row = Route.ComponentProps['loaderData']['list']['rows'][number];

const marks: Record<Row['state'], 'empty' | 'half' | 'held' | 'done' | 'failed' | 'lapsed'> = {
  free: 'empty',
  setAside: 'held',
  out: 'half',
  repair: 'held',
  missing: 'failed',
  retired: 'lapsed',
};

const whole = (words: string, bold = false) => (
  <span className={bold ? 'block truncate font-medium' : 'block truncate'} data-tip={words}>
    {words}
  </span>
);

const cells: Record<string, Cell<Row>> = {
  what: { width: 220, grows: true, of: (r) => whole(r.kind, true), under: (r) => r.mark ?? '' },
  state: {
    width: 150,
    of: (r) => (
      <span className="flex items-center gap-2">
        <StateMark kind={marks[r.state]} size={12} /> {pieceStates[r.state]}
      </span>
    ),
    under: (r) => (r.due ? 'to come back' : ''),
  },
  place: { width: 160, of: (r) => whole(r.place) },
  who: { width: 190, of: (r) => r.who && whole(r.who), under: (r) => (r.until ? `until ${dateWords(r.until)}` : '') },
  since: { width: 156, wide: true, of: (r) => <Time at={r.since} /> },
};

const keyOf = (r: Row) => r.id;
const hrefOf = (r: Row, said: string) => addressOf(path, said, `piece=${r.id}`);
const wordsOf = (r: Row) => [r.kind, r.mark].filter(Boolean).join(' ');

export default function Pieces({ loaderData, ...props }: Route.ComponentProps) {
  const { open, places } = loaderData;
  const outcome = useOutcome(props.actionData);
  return (
    <ListSheet
      closeTo={addressOf(path, writeAsked(lists.pieces, loaderData.asked))}
      {...(open && { of: open.id, slip: <PieceSlip key={`${open.id} ${open.state}`} of={open} places={places} refusal={outcome?.refusal} /> })}
    >
      <p>
        <Link to="/desk/equipment" className="text-sea underline underline-offset-4">
          Equipment
        </Link>
      </p>
      <List
        name="pieces"
        path={path}
        title="Pieces of equipment"
        of={loaderData}
        cells={cells}
        keyOf={keyOf}
        hrefOf={hrefOf}
        wordsOf={wordsOf}
        empty="What is taken in under Stock stands here, piece by piece. There is nothing yet."
        nothing="No piece is like that."
        open={open?.id}
      />
    </ListSheet>
  );
}
