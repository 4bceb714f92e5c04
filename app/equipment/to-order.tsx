import { useState } from 'react';
import { Form, useNavigation } from 'react-router';
import { dateWords } from '../../core/calendar/index.ts';
import { Ordered } from '../../core/posts/index.ts';
import type { counterOf } from '../../server/equipment/queries.ts';
import { Button, ButtonLink } from '~/ui/button';
import { DateField } from '~/ui/date-field';
import { Labelled } from '~/ui/field';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { Time } from '~/ui/time';
import { Line } from './line';
import type { LineOutcome } from './to-hand-out';

type Order = NonNullable<Awaited<ReturnType<typeof counterOf>>>['orders'][number];

/** More of a kind that runs low: to be ordered, or ordered and awaited. */
export function ToOrder({ order, outcome }: { order: Order; outcome: LineOutcome | undefined }) {
  const post = usePost(Ordered, { refusal: outcome?.refusal });
  const busy = useNavigation().state !== 'idle';
  const [expected, setExpected] = useState(outcome?.typed?.['expected'] ?? '');
  const called = `${order.wanted} ${order.kind} for ${order.place}`;
  return (
    <Line
      label={called}
      mark={order.ordered ? 'half' : 'empty'}
      title={
        <>
          <span className="numbers font-medium">{order.wanted}</span> <span className="font-medium">{order.kind}</span> for {order.place}
        </>
      }
      known={
        <p className="text-sm">
          {order.ordered ? (
            <>
              Ordered as <span className="numbers">{order.reference}</span>
              {order.expected && `, expected on ${dateWords(order.expected)}`}
            </>
          ) : (
            <>
              Fewer are free than there are to be, since <Time at={order.since} />
            </>
          )}
        </p>
      }
    >
      {order.ordered ? (
        <div>
          <ButtonLink to={`/desk/equipment/stock?kind=${order.kindId}&place=${order.placeId}`}>
            Take in what has arrived<span className="sr-only"> ({called})</span>
          </ButtonLink>
        </div>
      ) : (
        <Form method="post" {...post.form} className="space-y-2">
          <Refused sentence={post.sentence} />
          <input type="hidden" name="order" value={order.id} />
          <div className="grid gap-2 sm:grid-cols-2">
            <Labelled label="Order number" problem={post.problem('reference')}>
              {(ids) => (
                <input
                  {...ids}
                  name="reference"
                  className="numbers input"
                  maxLength={80}
                  autoComplete="off"
                  defaultValue={outcome?.typed?.['reference']}
                />
              )}
            </Labelled>
            <Labelled label="Expected on" problem={post.problem('expected')}>
              {(ids) => <DateField {...ids} name="expected" value={expected} onValue={setExpected} />}
            </Labelled>
          </div>
          <div className="flex flex-wrap gap-2">
            <Button type="submit" name="act" value="order" disabled={busy}>
              It is ordered<span className="sr-only"> ({called})</span>
            </Button>
          </div>
        </Form>
      )}
      {!order.ordered && (
        <Form method="post">
          <input type="hidden" name="order" value={order.id} />
          <Button type="submit" name="act" value="drop" weight="quiet" disabled={busy}>
            No more are needed<span className="sr-only"> ({called})</span>
          </Button>
        </Form>
      )}
    </Line>
  );
}
