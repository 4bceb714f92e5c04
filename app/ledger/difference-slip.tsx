import { useState } from 'react';
import { Form, Link, useNavigation } from 'react-router';
import { SettleDifference } from '../../core/posts/index.ts';
import type { Refusal } from '../../server/refusal.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { wordsOfThing } from '~/ui/holding-kind';
import { Picker, type Chosen } from '~/ui/picker';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { RadioGroup } from '~/ui/radio-group';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';
import { differsWords, settledWords, waysOf, type Difference } from './difference-words';

/** One difference: what it is, and what becomes of it. */
export function DifferenceSlip({ of: d, maySettle, refusal }: { of: Difference; maySettle: boolean; refusal: Refusal | undefined }) {
  const stands = d.state === 'open' || d.state === 'left';
  return (
    <article className="min-w-0">
      <p className="text-sm text-faint">
        {wordsOfThing(d.kind).name}, {d.systemName}
      </p>
      <h2 className="font-serif text-2xl break-words">{d.what}</h2>
      <p className="mt-1">{differsWords(d)}</p>
      <dl className="mt-4 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1 border-t pt-3">
        <dt className="text-faint">Found</dt>
        <dd>
          <Time at={d.foundAt} />
        </dd>
        {stands && (
          <>
            <dt className="text-faint">Last seen</dt>
            <dd>
              <Time at={d.seenAt} />
            </dd>
          </>
        )}
        {d.number !== null && (
          <>
            <dt className="text-faint">Request</dt>
            <dd>
              <Link to={`/ledger/${d.number}`} className="numbers text-sea underline underline-offset-4">
                R-{d.number}
              </Link>
            </dd>
          </>
        )}
      </dl>
      {d.how && (
        <p className="mt-3 flex items-start gap-2 border-t pt-3">
          <StateMark kind={d.how === 'leave' ? 'held' : 'done'} size={14} />
          <span>
            {settledWords[d.how]} by {d.settledBy ?? 'somebody'}
            {d.settledAt && (
              <>
                , <Time at={d.settledAt} />
              </>
            )}
            {d.why && <span className="block text-faint">“{d.why}”</span>}
          </span>
        </p>
      )}
      {d.state === 'gone' && <p className="mt-3 text-faint">A later reading did not find it any more.</p>}
      {stands &&
        (maySettle && d.sees ? (
          <Settle key={`${d.id} ${d.state}`} of={d} refusal={refusal} />
        ) : (
          <p className="mt-4 text-faint">An administrator decides what becomes of it.</p>
        ))}
    </article>
  );
}

function Settle({ of: d, refusal }: { of: Difference; refusal: Refusal | undefined }) {
  const ways = waysOf(d).filter((w) => d.state === 'open' || w.how !== 'leave');
  const [how, setHow] = useState<string>('');
  const [whose, setWhose] = useState<Chosen | undefined>(d.personId && d.who ? { id: d.personId, name: d.who } : undefined);
  const post = usePost(SettleDifference, { refusal });
  const busy = useNavigation().state !== 'idle';
  const way = ways.find((w) => w.how === how);
  return (
    <Form method="post" {...post.form} className="mt-4 space-y-4 border-t pt-4">
      <Refused sentence={post.sentence} />
      <input type="hidden" name="act" value="settle" />
      <input type="hidden" name="id" value={d.id} />
      <Labelled label="What becomes of it" required problem={post.problem('how')} help={way?.does}>
        {(ids) => <RadioGroup {...ids} name="how" value={how} options={ways.map((w) => ({ value: w.how, label: w.label }))} onValue={setHow} />}
      </Labelled>
      {d.is === 'unknown' && how !== 'leave' && (
        <Labelled
          label="Whose it is"
          help={how === 'takeBack' ? 'They are told that it is taken back.' : 'They hold it from now on.'}
          problem={post.problem('person')}
        >
          {(ids) => <Picker {...ids} kind="person" name="person" chosen={whose} onChoose={setWhose} />}
        </Labelled>
      )}
      <Labelled label="Why" required problem={post.problem('why')}>
        {(ids) => <input {...ids} name="why" className="input" maxLength={500} autoComplete="off" />}
      </Labelled>
      <Button type="submit" weight="main" disabled={busy}>
        {way?.button ?? 'Settle it'}
      </Button>
    </Form>
  );
}
