import { Form, Link, useNavigation } from 'react-router';
import { staffHappenings, type Happening } from '../../core/staff/index.ts';
import type { staffFeedFor } from '../../server/staff/queries.ts';
import { Button } from '~/ui/button';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';

type Feed = NonNullable<Awaited<ReturnType<typeof staffFeedFor>>>;

/** How the feed stands, and what follows what it tells. */
export function FeedHead({ feed: f, designs }: { feed: Feed; designs: boolean }) {
  const busy = useNavigation().state !== 'idle';
  return (
    <>
      <div className="mb-3 flex flex-wrap items-center gap-x-4 gap-y-2 border-t border-b py-2">
        <p role="status" className="mr-auto">
          <State f={f} />
        </p>
        {f.held > 0 && (
          <Form method="post">
            <Button type="submit" name="act" value="held" disabled={busy}>
              Ask for what follows the {f.held} that wait
            </Button>
          </Form>
        )}
        {f.isSetUp && (
          <Form method="post">
            <Button type="submit" name="act" value="read" disabled={busy || f.underWay}>
              Read the feed now
            </Button>
          </Form>
        )}
      </div>
      <ul aria-label="Rules" className="mb-4 grid gap-x-8 lg:grid-cols-2">
        {(Object.keys(staffHappenings) as Happening[]).map((kind) => {
          const item = f.rules.get(kind);
          return (
            <li key={kind} className="flex items-baseline gap-2 border-b py-1">
              <span className="shrink-0">{staffHappenings[kind]}:</span>
              <span className={item === undefined ? 'truncate text-faint' : 'truncate font-medium'} data-tip={item}>
                {item ?? 'nothing follows'}
              </span>
              {designs && (
                <Link
                  to={`/workshop/staff/${kind}`}
                  aria-label={`${item === undefined ? 'Make a rule' : 'Change the rule'}: ${staffHappenings[kind]}`}
                  className="ml-auto shrink-0 text-sea underline underline-offset-4"
                >
                  {item === undefined ? 'Make a rule' : 'Change'}
                </Link>
              )}
            </li>
          );
        })}
      </ul>
    </>
  );
}

function State({ f }: { f: Feed }) {
  if (!f.isSetUp) return <span className="text-faint">No staff feed is set up here: the host has not set STAFF_URL.</span>;
  if (f.underWay)
    return (
      <span className="flex items-center gap-2">
        <StateMark kind="half" size={12} /> Being read.
      </span>
    );
  if (!f.feed?.endedAt) return <span className="text-faint">Not read yet.</span>;
  return f.feed.cause === null ? (
    <span className="flex items-center gap-2">
      <StateMark kind="done" size={12} />
      <span>
        Read <Time at={f.feed.endedAt} relative />, to its end. <span className="numbers">{f.people}</span> people are known by it.
      </span>
    </span>
  ) : (
    <span className="flex items-center gap-2 text-coral">
      <StateMark kind="failed" size={12} />
      <span>
        Not read to its end <Time at={f.feed.endedAt} relative />: {f.feed.cause} It is tried again every five minutes.
      </span>
    </span>
  );
}
