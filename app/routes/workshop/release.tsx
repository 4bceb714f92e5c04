import { useState } from 'react';
import { Form, useNavigation } from 'react-router';
import type { releaseOf } from '../../../server/items/queries.ts';
import { Button } from '~/ui/button';
import { useHydrated } from '~/ui/choices';
import { DateField } from '~/ui/date-field';
import { Labelled } from '~/ui/field';
import { RadioGroup } from '~/ui/radio-group';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';
import { TimeField } from '~/ui/time-field';

/** When a revision is published: at once, or on a day. */
export function PublishWhen({
  later,
  typed,
  problem,
  onLater,
}: {
  later: boolean;
  /** What was typed and refused. */
  typed: { day: string; time: string } | undefined;
  problem: string | undefined;
  onLater: (later: boolean) => void;
}) {
  const [day, setDay] = useState(typed?.day ?? '');
  // Before scripts load, what a day needs is there to be filled in.
  const hydrated = useHydrated();
  const [time, setTime] = useState(typed?.time ?? '08:00');
  return (
    <fieldset className="mt-4">
      <legend className="mb-1 font-medium">When</legend>
      <RadioGroup
        name="when"
        aria-label="When"
        value={later ? 'later' : 'now'}
        onValue={(v) => onLater(v === 'later')}
        options={[
          { value: 'now', label: 'At once' },
          { value: 'later', label: 'On a day, as the draft is now' },
        ]}
      />
      {(later || !hydrated) && (
        <div className="mt-2 flex flex-wrap items-start gap-4">
          <Labelled label="Day" problem={problem}>
            {(ids) => <DateField {...ids} name="day" value={day} onValue={setDay} />}
          </Labelled>
          <Labelled label="Time">{(ids) => <TimeField {...ids} name="time" value={time} onValue={setTime} />}</Labelled>
        </div>
      )}
    </fieldset>
  );
}

type Waiting = NonNullable<Awaited<ReturnType<typeof releaseOf>>>;

/** A revision that is to be published, or that was stopped when its time had come. */
export function Release({ action, ...r }: Waiting & { action: string }) {
  const busy = useNavigation().formMethod === 'POST';
  if (r.stopped !== undefined)
    return (
      <p className="mb-5 flex items-start gap-2 border-l-3 border-coral bg-coral-wash px-3 py-2">
        <StateMark kind="failed" />
        <span>
          What {r.by} wanted to have published{r.due ? ` on ${r.due}` : ''} was not: {r.stopped}
        </span>
      </p>
    );
  const missing = r.wantsSecond && !r.second;
  return (
    <section aria-label="To be published" className="mb-5 border-l-3 border-ochre bg-ochre-wash px-3 py-2">
      <p className="flex items-center gap-2">
        <StateMark kind="half" />
        {r.due ? `To be published ${r.due}` : 'To be published'}
        {missing ? (r.due ? ', once a second designer has agreed' : ' once a second designer has agreed') : ''}
        {r.second ? `; ${r.second} has agreed` : ''}
      </p>
      <p className="text-sm text-faint">
        Asked by {r.by}, <Time at={r.askedAt} />, of the draft as it was then. {r.note}
      </p>
      <Form method="post" action={action} className="mt-2 flex gap-3">
        <input type="hidden" name="release" value={r.id} />
        {missing && !r.mine && (
          <Button type="submit" name="act" value="agree" weight="main" disabled={busy}>
            {r.due ? 'Agree that it is published then' : 'Agree, and publish it now'}
          </Button>
        )}
        <Button type="submit" name="act" value="take-back" disabled={busy}>
          Take it back
        </Button>
      </Form>
    </section>
  );
}
