import { Form, Link, useNavigation } from 'react-router';
import { dateWords } from '../../core/calendar/index.ts';
import { PieceChange } from '../../core/posts/index.ts';
import type { pieceFor } from '../../server/equipment/list.ts';
import type { Refusal } from '../../server/refusal.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { Select } from '~/ui/select';
import { Time } from '~/ui/time';
import { pieceStates } from './piece-words';
import { TakeIn } from './to-take-in';

type Piece = NonNullable<Awaited<ReturnType<typeof pieceFor>>>;

const happened: Record<Piece['events'][number]['what'], string> = {
  arrived: 'Arrived',
  setAside: 'Set aside',
  putBack: 'Not needed, put back',
  handedOut: 'Handed over',
  cameBack: 'Came back',
  found: 'Found in a count',
  mended: 'Free again',
  repair: 'To be repaired',
  missing: 'Missing',
  retired: 'Gone for good',
};

/** One piece: where it is, who has it, what became of it, and what whoever keeps it can say of it. */
export function PieceSlip({ of: p, places, refusal }: { of: Piece; places: { id: string; name: string }[]; refusal: Refusal | undefined }) {
  const what = [p.kind, p.mark].filter(Boolean).join(' ');
  return (
    <article className="min-w-0">
      <p className="text-sm text-faint">{p.kind}</p>
      <h2 className="font-serif text-2xl break-words">{what}</h2>
      <p className="mt-1">
        {pieceStates[p.state]}
        {p.who && `, ${p.state === 'setAside' ? 'for' : 'with'} ${p.who}`}
        {p.until && `, until ${dateWords(p.until)}`}
        {p.due && <span className="text-ochre">, to come back</span>}
      </p>
      <p className="text-sm text-faint">
        {p.state === 'out' ? `From ${p.place}` : p.place}, since <Time at={p.since} />
      </p>
      {p.state === 'out' && (
        <p className={p.denied && !p.received ? 'text-sm text-coral' : 'text-sm text-faint'}>
          {p.received ? (
            <>
              They said that they have it, <Time at={p.received} />
            </>
          ) : p.denied ? (
            <>
              They said that they have it not, <Time at={p.denied} />
            </>
          ) : (
            'They have not said yet that they have it.'
          )}
        </p>
      )}
      <h3 className="mt-4 mb-1 font-medium">What became of it</h3>
      <ol className="border-t text-sm">
        {p.events.map((e) => (
          <li key={`${e.at.toISOString()} ${e.what}`} className="border-b py-1">
            {happened[e.what]}
            {e.who && `, ${e.what === 'cameBack' ? 'from' : 'for'} ${e.who}`}
            {e.place && `, ${e.place}`}
            {e.number !== null && (
              <>
                ,{' '}
                <Link to={`/ledger/${e.number}`} className="numbers text-sea underline underline-offset-4">
                  R-{e.number}
                </Link>
              </>
            )}
            {e.note && <span className="block text-faint">“{e.note}”</span>}
            <span className="block text-faint">
              {e.by && `${e.by}, `}
              <Time at={e.at} />
            </span>
          </li>
        ))}
      </ol>
      {p.keeps && p.state === 'out' && p.issue && (
        <div className="mt-4 border-t pt-4">
          <TakeIn issue={p.issue} what={what} places={places} at={p.placeId} refusal={refusal} />
        </div>
      )}
      {p.keeps && p.state !== 'out' && <Change of={p} what={what} refusal={refusal} />}
    </article>
  );
}

function Change({ of: p, what, refusal }: { of: Piece; what: string; refusal: Refusal | undefined }) {
  const post = usePost(PieceChange, { refusal });
  const busy = useNavigation().state !== 'idle';
  const others = (['free', 'repair', 'missing', 'retired'] as const).filter((s) => s !== p.state && !(s === 'free' && p.state === 'setAside'));
  return (
    <Form method="post" {...post.form} className="mt-4 space-y-3 border-t pt-4">
      <Refused sentence={post.sentence} />
      <input type="hidden" name="piece" value={p.id} />
      <Labelled label="What became of it" problem={post.problem('state')}>
        {(ids) => (
          <Select {...ids} name="state" defaultValue={others[0]}>
            {others.map((s) => (
              <option key={s} value={s}>
                {pieceStates[s]}
              </option>
            ))}
          </Select>
        )}
      </Labelled>
      <Labelled label="Note" problem={post.problem('note')}>
        {(ids) => <input {...ids} name="note" className="input" maxLength={300} autoComplete="off" />}
      </Labelled>
      <Button type="submit" name="act" value="change" disabled={busy}>
        Say so of {what}
      </Button>
    </Form>
  );
}
