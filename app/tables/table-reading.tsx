import { Form, useNavigation } from 'react-router';
import { spanWords } from '../../core/calendar/index.ts';
import type { readingOf } from '../../server/tables/queries.ts';
import { Button } from '~/ui/button';
import { Refused } from '~/ui/problem';
import { useReadOn } from '~/ui/read-anew';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';

type Reading = NonNullable<Awaited<ReturnType<typeof readingOf>>>;

/** Where the rows of a table are read from, how that went, and having them read now. */
export function TableReading({ reading: r, refusal }: { reading: Reading; refusal: string | undefined }) {
  const busy = useNavigation().state !== 'idle';
  useReadOn(r.underWay);
  return (
    <div className="border-b py-2">
      <Refused sentence={refusal} />
      <div className="flex items-start gap-x-3">
        <span className="leading-5">
          <StateMark kind={r.underWay ? 'half' : r.cause ? 'failed' : r.odd ? 'held' : 'done'} size={12} />
        </span>
        <p role="status" className="min-w-0">
          Read from <span className="font-medium">{r.system}</span> ({r.list}) every {spanWords({ length: r.every, counted: 'always' })}
          {r.underWay ? '; being read now' : r.endedAt && ', last '}
          {!r.underWay && r.endedAt && <Time at={r.endedAt} relative />}.
        </p>
        <Form method="post" className="ml-auto shrink-0" preventScrollReset>
          <Button type="submit" name="act" value="read" disabled={busy || r.underWay}>
            Read it now
          </Button>
        </Form>
      </div>
      {r.followed && (
        <p className="mt-1 text-sm text-faint">
          {(r.followed.asked ?? 0) === 0 ? 'Nothing was asked for yet on what a row said' : `${r.followed.asked} asked for on what a row said`}
          {(r.followed.refused ?? 0) > 0 && <span className="text-coral">; {r.followed.refused} could not be: see the row</span>}.
        </p>
      )}
      {!r.underWay && r.cause && (
        <p className="mt-1 text-sm text-coral">
          {r.cause} The rows stand as they were read before
          {r.soundAt && (
            <>
              {' '}
              (<Time at={r.soundAt} />)
            </>
          )}
          .
        </p>
      )}
      {!r.underWay && !r.cause && (r.problems?.length ?? 0) > 0 && (
        <details className="mt-1 text-sm">
          <summary className="cursor-pointer text-ochre">{leftWords(r.odd ?? 0, r.listed ?? 0)}</summary>
          <ul className="mt-1">
            {r.problems!.map((p, at) => (
              <li key={at}>{p}</li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}

/** What of a list is not in the table as it stands there. */
const leftWords = (odd: number, listed: number): string =>
  odd === 0
    ? 'Some of its cells name what is not known here, and are empty'
    : `${odd === 1 ? 'One of its rows' : `${odd.toLocaleString('en')} of its ${listed.toLocaleString('en')} rows`} cannot be taken; nothing is taken off meanwhile`;
