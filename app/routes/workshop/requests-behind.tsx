import { Form, Link, useNavigation, useSearchParams } from 'react-router';
import type { Behind } from '../../../server/items/going-over.ts';
import { Button } from '~/ui/button';

const many = (n: number) => (n === 1 ? '1 request' : `${n} requests`);

/** Requests under way on earlier revisions: which can go over to the one that is offered, and why the others cannot. */
export function RequestsBehind({ to, requests, next }: { to: number; requests: Behind[]; next: number | undefined }) {
  const [search] = useSearchParams();
  const busy = useNavigation().formMethod === 'POST';
  const can = requests.filter((r) => r.why === undefined);
  const stay = requests.filter((r) => r.why !== undefined);
  const moved = Number(search.get('moved') ?? NaN);
  const after = Number(search.get('behind') ?? 0);
  return (
    <section aria-label="Requests on earlier revisions" className="mb-6 border-b pb-4">
      <h3 className="mb-2 font-medium">Requests on earlier revisions</h3>
      {Number.isFinite(moved) && (
        <p role="status" className="mb-3 border-l-3 border-moss bg-moss-wash px-3 py-2">
          {moved === 0 ? 'No request went over.' : `${many(moved)} went over to revision ${to}.`}
        </p>
      )}
      {requests.length === 0 && <p className="text-faint">None is under way on an earlier revision{after > 0 ? ' beyond these' : ''}.</p>}
      {can.length > 0 && (
        <>
          <p className="mb-1">
            What {can.length === 1 ? 'this one has' : 'these have'} done is the same in revision {to}; {can.length === 1 ? 'it' : 'each'} can go on
            there from where it stands:
          </p>
          <ul className="mb-3 flex flex-wrap gap-x-3 gap-y-1">
            {can.map((r) => (
              <li key={r.number}>
                <Numbered {...r} />
              </li>
            ))}
          </ul>
          <Form method="post" action="?behind=0" preventScrollReset className="mb-4">
            <input type="hidden" name="act" value="go-over" />
            <input type="hidden" name="to" value={to} />
            <Button type="submit" disabled={busy}>
              {next === undefined && after === 0 ? `Move ${many(can.length)} to revision ${to}` : `Move all that can go over to revision ${to}`}
            </Button>
          </Form>
        </>
      )}
      {stay.length > 0 && (
        <>
          <p className="mb-1">These stay on the revision they began with:</p>
          <ul>
            {stay.map((r) => (
              <li key={r.number} className="flex gap-3 border-b py-1 last:border-b-0">
                <Numbered {...r} />
                <span className="min-w-0 break-words text-faint">{r.why}</span>
              </li>
            ))}
          </ul>
        </>
      )}
      {next !== undefined && (
        <Link to={`?behind=${next}`} className="mt-2 inline-block text-sea underline underline-offset-4">
          The next of them
        </Link>
      )}
    </section>
  );
}

function Numbered({ number, revision }: Behind) {
  return (
    <span className="shrink-0 whitespace-nowrap">
      <Link to={`/ledger/${number}`} className="numbers text-sea underline underline-offset-4">
        R-{number}
      </Link>{' '}
      <span className="text-faint">revision {revision}</span>
    </span>
  );
}
