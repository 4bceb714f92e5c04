import { useState } from 'react';
import { Form, useNavigation } from 'react-router';
import { dateWords } from '../../core/calendar/index.ts';
import { ApartException } from '../../core/posts/index.ts';
import type { Apart } from '../../server/apart/queries.ts';
import { Button } from '~/ui/button';
import { DateField } from '~/ui/date-field';
import { Labelled } from '~/ui/field';
import { Picker, type Chosen } from '~/ui/picker';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';
import type { ApartOutcome } from '~/routes/desk/apart';

/** Two groups that are kept apart: why, who has both, the exceptions, and making one. */
export function Pair({ pair, mayKeep, outcome }: { pair: Apart; mayKeep: boolean; outcome: ApartOutcome | undefined }) {
  const busy = useNavigation().state !== 'idle';
  const called = pair.groups.join(' and ');
  return (
    <li aria-label={called} className="border-b py-4">
      <p className="flex items-center gap-2">
        <StateMark kind={pair.ended ? 'lapsed' : 'held'} size={14} />
        <span className="font-serif text-lg break-words">{called}</span>
      </p>
      <p>{pair.why}</p>
      <p className="text-sm text-faint">
        {pair.ended
          ? 'Not kept apart any more.'
          : pair.excepters.length > 0
            ? `An exception is made by: ${pair.excepters.map((e) => e.name).join(', ')}`
            : 'Nobody is named who could make an exception.'}
      </p>
      {pair.both.length > 0 && <p className="mt-1 text-sm text-coral">In both, without an exception: {pair.both.join(', ')}</p>}
      {!outcome?.typed && <Refused sentence={outcome?.refusal?.sentence} />}
      {pair.exceptions.length > 0 && (
        <ul aria-label={`Exceptions from ${called}`} className="mt-2 border-t text-sm">
          {pair.exceptions.map((x) => (
            <li key={x.id} className="flex flex-wrap items-center gap-x-2 border-b py-1">
              <span className="min-w-0 flex-1">
                {x.name} may have both{x.until && ` until ${dateWords(x.until)}`}
                {!x.holds && ', which is over'}: “{x.why}”
                <span className="text-faint">
                  {' '}
                  {x.by}, <Time at={new Date(x.at)} />
                </span>
              </span>
              {pair.mayExcept && (
                <Form method="post">
                  <input type="hidden" name="id" value={pair.id} />
                  <input type="hidden" name="exception" value={x.id} />
                  <Button type="submit" name="act" value="endException" weight="quiet" disabled={busy}>
                    End the exception <span className="sr-only">of {x.name}</span>
                  </Button>
                </Form>
              )}
            </li>
          ))}
        </ul>
      )}
      {pair.mayExcept && <Except key={pair.exceptions.length} pair={pair} outcome={outcome} />}
      {mayKeep && (
        <Form method="post" className="mt-2">
          <input type="hidden" name="id" value={pair.id} />
          <Button type="submit" name="act" value={pair.ended ? 'again' : 'end'} weight="quiet" disabled={busy}>
            {pair.ended ? 'Keep them apart again' : 'Keep them apart no longer'}
            <span className="sr-only"> ({called})</span>
          </Button>
        </Form>
      )}
    </li>
  );
}

/** Lets somebody have both all the same. */
function Except({ pair, outcome }: { pair: Apart; outcome: ApartOutcome | undefined }) {
  const post = usePost(ApartException, { refusal: outcome?.typed && outcome.refusal });
  const busy = useNavigation().state !== 'idle';
  const [person, setPerson] = useState<Chosen | undefined>(outcome?.picked?.['person']);
  const [until, setUntil] = useState(outcome?.typed?.until ?? '');
  return (
    <details className="mt-2 text-sm" open={outcome?.typed !== undefined || undefined}>
      <summary className="cursor-pointer py-0.5 text-sea">Make an exception …</summary>
      <Form method="post" {...post.form} className="mt-1 max-w-xl space-y-3">
        <Refused sentence={post.sentence} />
        <input type="hidden" name="act" value="except" />
        <input type="hidden" name="id" value={pair.id} />
        <Labelled label="Who may have both" required problem={post.problem('person')}>
          {(ids) => <Picker {...ids} kind="person" name="person" chosen={person} onChoose={setPerson} />}
        </Labelled>
        <Labelled label="Until" help="Left empty, for good." problem={post.problem('until')}>
          {(ids) => <DateField {...ids} name="until" value={until} onValue={setUntil} />}
        </Labelled>
        <Labelled label="Why" required problem={post.problem('why')}>
          {(ids) => <input {...ids} name="why" className="input" maxLength={300} autoComplete="off" defaultValue={outcome?.typed?.why} />}
        </Labelled>
        <Button type="submit" disabled={busy}>
          Make this exception
        </Button>
      </Form>
    </details>
  );
}
