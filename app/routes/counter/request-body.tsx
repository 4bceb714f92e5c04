import type { ServiceHours } from '../../../core/calendar/index.ts';
import { listWords } from '../../../core/values/index.ts';
import { PromisedBy, PromiseLine } from '~/ui/promise-line';
import { useAskedOn } from '~/ask/use-asked-on';
import { useState, type ReactNode } from 'react';
import { Form, Link, useNavigation } from 'react-router';
import { brokenRules, type Answers } from '../../../core/forms/index.ts';
import type { myRequest } from '../../../server/requests/queries.ts';
import type { Refusal } from '../../../server/refusal.ts';
import { Letters } from '~/letters/letters';
import { Meetings } from '~/meetings/meetings';
import { Conversation } from '~/conversation/conversation';
import { WriteWords, type WordRefused } from '~/conversation/write-words';
import type { Chosen } from '~/ui/picker';
import { Button, ButtonLink } from '~/ui/button';
import { formEncoding, FormFields } from '~/ui/form-fields';
import { StateMark, RequestState } from '~/ui/state-mark';
import { useOutcome } from '~/ui/outcome';
import { Refused } from '~/ui/problem';
import { standingWords } from '~/ui/standing';
import { MessageWords } from '~/ui/rich-words';
import { Said } from '~/ui/said';
import { Time } from '~/ui/time';

type Followed = NonNullable<Awaited<ReturnType<typeof myRequest>>>;
/** What was refused here, and what was typed: of a question, by its id. */
interface RefusedHere {
  refusal: Refusal;
  question: string;
  answers: Answers;
  names: Record<string, string>;
  /** What they wrote about it. */
  words: string | undefined;
  files?: Chosen[];
}

/** A request as whoever asked for it follows it. */
export function RequestBody({
  r,
  once,
  outcome,
  sent,
  beside,
  waits,
  isOutside = false,
}: {
  r: Followed;
  /** A key for what they write, made anew with each reading. */
  once: string;
  /** What came of what they did here. */
  outcome: RefusedHere | { sent: string } | null | undefined;
  /** They have just sent it. */
  sent: boolean;
  /** What stands beside its number. */
  beside?: ReactNode;
  /** What waits for them here, before how it stands. */
  waits?: ReactNode;
  /** Who follows it from outside: they bring no files, and have no other page. */
  isOutside?: boolean;
}) {
  const came = useOutcome(outcome);
  const actionData = came && 'refusal' in came ? came : undefined;
  const written = came && 'sent' in came ? came.sent : '';
  return (
    <div className="max-w-3xl">
      <p className="flex gap-3 text-sm">
        <span className="numbers text-faint">R-{r.number}</span>
        {beside}
      </p>
      <h1 className="font-serif text-2xl">{r.item}</h1>
      {sent && !r.outcome && (
        <p role="status" className="mt-3 border-l-3 border-moss bg-moss-wash px-3 py-2">
          Your request is on its way. You are told by mail as soon as it is decided.
        </p>
      )}
      <div className="mt-3">
        <Refused sentence={actionData?.question || actionData?.words !== undefined ? undefined : actionData?.refusal.sentence} />
      </div>
      {waits}
      <section aria-label="Where it stands" className="my-5 border-y py-4">
        <p className="text-lg">
          <RequestState outcome={r.outcome} stuck={r.standing?.stuck} />
        </p>
        {r.standing && (
          <p className="mt-1">
            {standingWords(r.standing)}, since <Time at={r.standing.since} /> (<Time at={r.standing.since} relative />)
          </p>
        )}
        {r.standing?.progress && <p className="mt-1 text-violet">“{r.standing.progress}”</p>}
        {r.shown && <p className="mt-1">Now: {r.shown}</p>}
        {r.reason && <p className="mt-1">“{r.reason}”</p>}
        {r.promised && <PromiseLine {...r.promised} ended={r.outcome !== null} waitsFor="you have" />}
        {r.again && (
          <p className="mt-3">
            <ButtonLink to={`/counter/ask/${r.again}?again=${r.number}`}>Ask for it again</ButtonLink>
          </p>
        )}
        {r.milestones.length > 0 && (
          <ol aria-label="Milestones" className="mt-3 flex flex-wrap gap-x-5 gap-y-1">
            {r.milestones.map((m) => (
              <li key={m.id} className={m.reached ? '' : 'text-faint'}>
                <StateMark kind={m.reached ? 'done' : 'empty'} size={12} /> {m.words}
                <span className="sr-only">{m.reached ? ' (reached)' : ' (to come)'}</span>
                {m.standing && !r.outcome && !m.reached && <PromisedBy standing={m.standing} waitsFor="you have" />}
              </li>
            ))}
          </ol>
        )}
      </section>
      {r.questions.map((q) => (
        <Question key={q.id} q={q} hours={r.hours} names={r.names} failed={actionData?.question === q.id ? actionData : undefined} />
      ))}

      <Talk
        r={r}
        once={once}
        written={written}
        failed={actionData?.words !== undefined ? { ...actionData, words: actionData.words } : undefined}
        isOutside={isOutside}
      />
      <h2 className="mb-2 font-medium">What has happened</h2>
      <ol className="mb-6 border-l pl-4">
        <li className="mb-2">
          <StateMark kind="done" size={12} /> {r.askedBy ? `${r.askedBy} asked for you` : r.forWhom ? `You asked for ${r.forWhom}` : 'You asked'}{' '}
          <span className="text-faint">
            · <Time at={r.openedAt} />
          </span>
        </li>
        {r.steps.map((s) => (
          <li key={s.key} className="mb-2">
            <StateMark kind={s.stuck ? 'failed' : !s.endedAt ? 'half' : markOfEnd(s.end)} size={12} /> {s.name}
            {s.end === 'withdrawn' && ' (no longer needed)'}
            {s.end === 'lapsed' && ' (nobody answered in time)'}
            {s.end === 'returned' && ' (sent back to you)'}
            {!s.endedAt && ' (under way)'}{' '}
            <span className="text-faint">
              · <Time at={s.endedAt ?? s.beganAt} />
            </span>
            {r.decisions
              .filter((d) => d.key === s.key)
              .map((d) => (
                <span key={d.name} className="block text-sm text-faint">
                  {d.name}: {d.status}
                  {d.comment && `, “${d.comment}”`}
                </span>
              ))}
          </li>
        ))}
      </ol>

      <div className="grid gap-8 sm:grid-cols-2">
        <section>
          <h2 className="mb-2 font-medium">{r.askedBy ? 'What was asked for' : 'What you asked for'}</h2>
          <dl>
            {r.answers.map((a) => (
              <div key={a.label} className="mb-2">
                <dt className="text-sm text-faint">{a.label}</dt>
                <dd className="break-words whitespace-pre-wrap">
                  <Said {...a} />
                </dd>
              </div>
            ))}
          </dl>
        </section>
        <section>
          <Meetings meetings={r.meetings} named={!isOutside} />
          <Letters letters={r.letters} led={!isOutside} />
          <h2 className="mb-2 font-medium">Messages to you</h2>
          {r.told.length === 0 && <p className="text-faint">None yet.</p>}
          {r.told.map((m) => (
            <details key={m.id} className="mb-2 border-b pb-2">
              <summary className="py-1">
                {m.subject} <span className="text-faint">· {m.sentAt ? <Time at={m.sentAt} relative /> : 'on its way'}</span>
              </summary>
              <MessageWords content={m.content} text={m.text} />
              {m.files.length > 0 && (
                <p className="mt-2 text-sm">
                  <span className="text-faint">With it:</span> {isOutside ? m.files.map((f) => f.name).join(', ') : <Said words="" files={m.files} />}
                </p>
              )}
            </details>
          ))}
        </section>
      </div>

      {r.mayWithdraw && (
        <details className="mt-8 border-t pt-4">
          <summary className="py-1 text-coral">Withdraw this request …</summary>
          <Form method="post" className="mt-3">
            <input type="hidden" name="act" value="withdraw" />
            <p className="mb-3">
              Those who were asked are told that it is no longer needed. Nothing further is changed. You can ask again at any time.
            </p>
            <Button type="submit" weight="decline">
              Withdraw R-{r.number}
            </Button>
          </Form>
        </details>
      )}
    </div>
  );
}

/** What was said about it, and where they write to those who deal with it now. */
function Talk({
  r,
  once,
  written,
  failed,
  isOutside,
}: {
  r: Followed;
  once: string;
  /** The key of what they have just sent. */
  written: string;
  failed: WordRefused | undefined;
  isOutside: boolean;
}) {
  const writes = r.mine && r.readBy.length > 0;
  // What they are asked stands above, to be answered there.
  const words = r.words.filter((w) => !r.questions.some((q) => q.id === w.id));
  // What could not be sent is still here, whoever reads it.
  if (!writes && words.length === 0 && !failed && (isOutside || !r.mine)) return null;
  const one = r.readBy.length === 1;
  const label = writes && !r.deskReads ? `Write to ${listWords(r.readBy)}` : 'Write to the desk';
  const write = (
    <WriteWords
      key={written}
      label={label}
      help={writes ? `${listWords(r.readBy)} ${one ? 'reads it, and is' : 'read it, and are'} told at once.` : ''}
      once={once}
      sent={written}
      failed={failed}
      // Those at a system open no files here.
      files={!isOutside && (r.deskReads || !writes)}
    />
  );
  return (
    <section aria-label="What was said" className="my-5">
      {words.length > 0 && <h2 className="mb-2 font-medium">What was said</h2>}
      <Conversation words={words} of={r.number} opensFiles={!isOutside} />
      {(writes || failed) && (words.length > 0 || failed ? write : <Folded label={label}>{write}</Folded>)}
      {!writes && r.mine && !isOutside && (
        <p className="mt-2 text-faint">
          {r.outcome ? 'It has ended. ' : r.questions.length > 0 ? 'It waits for your answer above. ' : 'Nobody has anything to do for it just now. '}
          <Link to={`/counter/report?about=${r.number}`} className="text-sea underline underline-offset-4">
            Report something about it
          </Link>
        </p>
      )}
    </section>
  );
}

/** As long as nothing was said, what could be takes one line. */
const Folded = ({ label, children }: { label: string; children: ReactNode }) => (
  <details>
    <summary className="cursor-pointer py-1 text-sea">{label}</summary>
    {children}
  </details>
);

const markOfEnd = (end: string | null) =>
  end === 'declined'
    ? 'declined'
    : end === 'lapsed'
      ? 'lapsed'
      : end === 'failed'
        ? 'failed'
        : end === 'withdrawn' || end === 'skipped'
          ? 'empty'
          : 'done';

type Asked = Followed['questions'][number];

/** A question to the requester, or their own form sent back; the clock is held until it is answered. */
function Question({
  q,
  hours,
  names: known,
  failed,
}: {
  q: Asked;
  hours: ServiceHours | undefined;
  names: Record<string, string>;
  failed: RefusedHere | undefined;
}) {
  // The day of asking is past.
  const { desk } = useAskedOn(hours);
  const [values, setValues] = useState<Answers>({ ...q.answers, ...failed?.answers });
  const [names, setNames] = useState({ ...known, ...failed?.names });
  const busy = useNavigation().formMethod === 'POST';
  return (
    <section aria-label={q.name} className="my-5 border-l-3 border-ochre bg-ochre-wash px-4 py-3">
      <h2 className="font-medium">{q.back ? 'Sent back to you to be corrected' : 'A question to you'}</h2>
      <p className="mb-3 whitespace-pre-line">{q.words}</p>
      <Form method="post" encType={formEncoding(q.form.fields)} noValidate>
        <input type="hidden" name="question" value={q.id} />
        <Refused sentence={failed?.refusal.sentence} />
        <FormFields
          form={q.form}
          answers={values}
          names={names}
          problems={Object.fromEntries(
            [...brokenRules(q.form, values, { desk }, true), ...(failed?.refusal.problems ?? [])].map((p) => [p.field, p.sentence]),
          )}
          onChange={(field, value, chosen) => {
            setValues((v) => ({ ...v, [field]: value }));
            if (chosen) setNames((n) => ({ ...n, [chosen.id]: chosen.name }));
          }}
        />
        <div className="mt-4 flex flex-wrap items-center gap-x-4 gap-y-2">
          <Button type="submit" weight="main" className="shrink-0" disabled={busy}>
            {q.back ? 'Send it again' : 'Send my answer'}
          </Button>
          <span className="text-sm text-faint">
            Asked <Time at={q.openedAt} relative />. The time you take does not count against the desk.
          </span>
        </div>
      </Form>
    </section>
  );
}
