import { Form, useNavigation } from 'react-router';
import type { ticketFor } from '../../server/tickets/queries.ts';
import { Button } from '~/ui/button';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';

type Ticket = NonNullable<Awaited<ReturnType<typeof ticketFor>>>;

const marks = { waiting: 'half', later: 'empty', approved: 'done', declined: 'declined', released: 'empty' } as const;
const said = {
  waiting: 'has not answered',
  later: 'is asked after the others',
  approved: 'agreed',
  declined: 'did not agree',
  released: 'is not asked any more',
};

/** A move that waits at its gate: where the ticket is to go, and what each who was asked has said. */
export function Asking({ asking, acts }: { asking: NonNullable<Ticket['asking']>; acts: boolean }) {
  const busy = useNavigation().formMethod === 'POST';
  return (
    <section aria-label="What is asked" className="my-3 border-l-3 border-ochre bg-ochre-wash px-3 py-2">
      <p>
        It goes to “{asking.to}” once it is agreed to, asked <Time at={asking.since} />
        {asking.lapsesAt && (
          <>
            , until <Time at={asking.lapsesAt} />
          </>
        )}
        . {asking.gate}:
      </p>
      <ul className="my-1">
        {asking.people.map((p) => (
          <li key={p.name} className="flex flex-wrap items-center gap-2">
            <StateMark kind={marks[p.status]} size={12} /> {p.name} {said[p.status]}
            {p.comment && <span>“{p.comment}”</span>}
          </li>
        ))}
      </ul>
      {acts && (
        <Form method="post">
          <Button type="submit" name="act" value="unask" disabled={busy}>
            Ask no more
          </Button>
        </Form>
      )}
    </section>
  );
}
