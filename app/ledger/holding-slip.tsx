import { Form, Link, useNavigation } from 'react-router';
import { dateWords } from '../../core/calendar/index.ts';
import { GiveBack } from '../../core/posts/index.ts';
import type { holdingFor } from '../../server/holdings/list.ts';
import type { Refusal } from '../../server/refusal.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { wordsOfThing } from '~/ui/holding-kind';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';

type Holding = NonNullable<Awaited<ReturnType<typeof holdingFor>>>;

/** One thing that somebody holds or held: how it came, who agreed, and taking it back. */
export function HoldingSlip({ of: h, mayTake, refusal }: { of: Holding; mayTake: boolean; refusal: Refusal | undefined }) {
  const words = wordsOfThing(h.kind);
  return (
    <article className="min-w-0">
      <p className="text-sm text-faint">{words.name}</p>
      <h2 className="font-serif text-2xl break-words">{h.what}</h2>
      <p className="mt-1">
        {h.who}
        {h.job && <span className="text-faint">, {h.job}</span>}
        {h.hasLeft ? (
          <span className="text-ochre">, has left</span>
        ) : (
          h.lastDay && <span className="text-ochre">, leaves on {dateWords(h.lastDay)}</span>
        )}
      </p>
      {h.outgrown && <p className="mt-1 text-ochre">From a job they had before: as they work now they could not ask for it.</p>}
      <dl className="mt-4 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1 border-t pt-3">
        <dt className="text-faint">Since</dt>
        <dd>
          <Time at={h.since} />
          {h.until && (
            <>
              , {words.until} <span className="numbers">{dateWords(h.until)}</span>
            </>
          )}
        </dd>
        <dt className="text-faint">By</dt>
        <dd>
          {h.item},{' '}
          <Link to={`/ledger/${h.number}`} className="numbers text-sea underline underline-offset-4">
            R-{h.number}
          </Link>
        </dd>
        {h.costs.length > 0 && (
          <>
            <dt className="text-faint">Costs</dt>
            <dd className="numbers">{h.costs.join(' and ')}</dd>
          </>
        )}
        {h.changes.map((c) => (
          <div key={`${c.number} ${c.at.toISOString()}`} className="contents">
            <dt className="text-faint">Then</dt>
            <dd>
              {c.did},{' '}
              <Link to={`/ledger/${c.number}`} className="numbers text-sea underline underline-offset-4">
                R-{c.number}
              </Link>
              , <Time at={c.at} />
              {c.until && (
                <span className="block">
                  until <span className="numbers">{dateWords(c.until)}</span>
                  {c.was && (
                    <>
                      , <span className="numbers">{dateWords(c.was)}</span> before
                    </>
                  )}
                </span>
              )}
            </dd>
          </div>
        ))}
        {h.standing && (
          <>
            <dt className="text-faint">In {h.standing.system}</dt>
            <dd>
              {h.standing.differs ? (
                <Link to={`/ledger/differences?difference=${h.standing.differs.id}`} className="text-coral underline underline-offset-4">
                  {h.standing.differs.is === 'missing' ? 'not there' : 'lent until another day'}
                </Link>
              ) : (
                'there'
              )}{' '}
              when it was read, <Time at={h.standing.at} />
            </dd>
          </>
        )}
        {h.agreed.map((a) => (
          <div key={`${a.name} ${a.at.toISOString()}`} className="contents">
            <dt className="text-faint">Agreed</dt>
            <dd>
              {a.name}, <Time at={a.at} />
              {a.comment && <span className="block text-faint">“{a.comment}”</span>}
            </dd>
          </div>
        ))}
      </dl>
      {(h.endedAt ?? h.endingAt) && (
        <p className="mt-3 flex items-start gap-2 border-t pt-3">
          <StateMark kind={h.endedAt ? 'done' : 'half'} size={14} />
          <span>
            {h.endedAt ? 'Given back' : words.back.under[h.byHolder ? 'mine' : 'theirs']}
            {h.endingBy && !h.byHolder && `, taken by ${h.endingBy}`}, <Time at={(h.endedAt ?? h.endingAt)!} />
            {h.endingWhy && <span className="block text-faint">“{h.endingWhy}”</span>}
          </span>
        </p>
      )}
      {mayTake && h.sees && !h.endedAt && !h.endingAt && <TakeBack of={h} refusal={refusal} />}
    </article>
  );
}

function TakeBack({ of: h, refusal }: { of: Holding; refusal: Refusal | undefined }) {
  const post = usePost(GiveBack, { refusal });
  const busy = useNavigation().state !== 'idle';
  const words = wordsOfThing(h.kind);
  return (
    <Form method="post" {...post.form} className="mt-4 space-y-3 border-t pt-4">
      <Refused sentence={post.sentence} />
      <input type="hidden" name="id" value={h.id} />
      <input type="hidden" name="whose" value="theirs" />
      <Labelled label={`Why it is taken back from ${h.who}`} help="They are told." required problem={post.problem('why')}>
        {(ids) => <input {...ids} name="why" className="input" maxLength={500} autoComplete="off" />}
      </Labelled>
      <Button type="submit" disabled={busy}>{`${words.backOf.theirs} ${h.what}`}</Button>
    </Form>
  );
}
