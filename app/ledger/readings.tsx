import { Form, useNavigation } from 'react-router';
import { LeaveAll } from '../../core/posts/index.ts';
import type { readings } from '../../server/differences/queries.ts';
import type { Refusal } from '../../server/refusal.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { useReadOn } from '~/ui/read-anew';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';

type Reading = Awaited<ReturnType<typeof readings>>[number];

/** The systems that say what they have: when each was read, what came of it, and having it read now. */
export function Readings({ all, may, refusalOf }: { all: Reading[]; may: boolean; refusalOf: (system: string) => Refusal | undefined }) {
  const busy = useNavigation().state !== 'idle';
  useReadOn(all.some((r) => r.underWay));
  return (
    <ul aria-label="Readings" className="mb-3 border-t">
      {all.map((r) => (
        <li key={r.id} className="border-b py-2">
          <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
            <StateMark kind={r.underWay ? 'half' : r.cause ? 'failed' : r.readAt ? 'done' : 'empty'} size={12} />
            <span className="font-medium">{r.name}</span>
            <span role="status" className="text-faint">
              <Said of={r} />
            </span>
            {may && (
              <Form method="post" className="ml-auto shrink-0">
                <input type="hidden" name="system" value={r.id} />
                <Button type="submit" name="act" value="read" disabled={busy}>
                  Read {r.name} now
                </Button>
              </Form>
            )}
          </div>
          {r.cause && !r.underWay && <p className="mt-1 text-sm text-coral">{r.cause}</p>}
          {may && r.unknown > 1 && !r.underWay && <LeaveThem of={r} refusal={refusalOf(r.id)} />}
        </li>
      ))}
    </ul>
  );
}

function Said({ of: r }: { of: Reading }) {
  if (r.underWay) return <>is being read</>;
  if (!r.readAt) return <>not read yet; it is each night</>;
  return (
    <>
      read <Time at={r.readAt} />
      {!r.cause && (
        <>
          : <span className="numbers">{r.things.toLocaleString('en')}</span> things,{' '}
          {r.open === 0 ? 'none differs' : `${r.open.toLocaleString('en')} open`}
        </>
      )}
    </>
  );
}

/** Much that was there before anybody asked here is left in one act. */
function LeaveThem({ of: r, refusal }: { of: Reading; refusal: Refusal | undefined }) {
  const post = usePost(LeaveAll, { refusal });
  return (
    <details className="mt-1 text-sm" open={refusal !== undefined || undefined}>
      <summary className="cursor-pointer py-0.5 text-sea">
        Leave all {r.unknown.toLocaleString('en')} that nobody was given here as they are …
      </summary>
      <Form method="post" {...post.form} className="mt-1 max-w-xl space-y-2">
        <Refused sentence={post.sentence} />
        <input type="hidden" name="system" value={r.id} />
        <input type="hidden" name="foundBy" value={(r.readAt ?? new Date(0)).toISOString()} />
        <Labelled label="Why" required problem={post.problem('why')}>
          {(ids) => <input {...ids} name="why" className="input" maxLength={500} autoComplete="off" placeholder="They were there before." />}
        </Labelled>
        <Button type="submit" name="act" value="leaveAll">
          Leave them as they are
        </Button>
      </Form>
    </details>
  );
}
