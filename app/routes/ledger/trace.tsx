import type { ReactNode } from 'react';
import { Form, Link } from 'react-router';
import { ByHand as ByHandPost } from '../../../core/posts/index.ts';
import { retryStep, skipStep, takeOverStep } from '../../../server/runs/commands.ts';
import { has } from '../../../server/auth/viewer.ts';
import { mayReadLog } from '../../../server/changes/queries.ts';
import { trace } from '../../../server/runs/queries.ts';
import { Conversation } from '~/conversation/conversation';
import { CallOfStep } from '~/ledger/call-of-step';
import { More } from '~/ledger/more';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Frame } from '~/ui/frame';
import { Live } from '~/ui/live';
import { StateMark, RequestState, type StateMarkKind } from '~/ui/state-mark';
import { useOutcome } from '~/ui/outcome';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { MessageWords } from '~/ui/rich-words';
import { Said } from '~/ui/said';
import { PromiseLine } from '~/ui/promise-line';
import { elapsed, Time } from '~/ui/time';
import { orNotFound, numberIn, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/trace';
import { Select } from '~/ui/select';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ params }) => [{ title: `Trace of R-${params.number} · Ledger · Nessmoor` }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const run = orNotFound(await trace(viewer, numberIn(params.number)), 'This request');
  return { run, mayReadLog: mayReadLog(viewer), mayRetry: has(viewer, 'teamMember', 'administrator'), maySkip: has(viewer, 'administrator') };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const at = { number: numberIn(params.number), key: form.get('key') };
  const act = form.get('act');
  const comment = form.get('comment');
  const outputs = Object.fromEntries(form.entries().flatMap(([name, v]) => (name.startsWith('o.') ? [[name.slice(2), v]] : [])));
  const result =
    act === 'skip'
      ? await skipStep(viewer, { ...at, comment })
      : act === 'takeOver'
        ? await takeOverStep(viewer, { ...at, comment, outputs })
        : await retryStep(viewer, at);
  return result.ok ? null : refused(result, { key: at.key, comment });
}

type Run = Extract<Route.ComponentProps['loaderData']['run'], { sealed: false }>;
type Step = Run['steps'][number];

/** Which request it is and how it stands. */
function Head({
  run,
  stuck,
  children,
}: {
  run: { number: number; item: string; outcome: Run['outcome']; requester: string; forWhom?: string | undefined; openedAt: Date };
  stuck: boolean;
  children?: ReactNode;
}) {
  return (
    <>
      <Link to="/ledger" className="text-sea underline underline-offset-4">
        Ledger
      </Link>
      <h1 className="mt-2 font-serif text-2xl">
        <span className="numbers text-xl">R-{run.number}</span> {run.item}
      </h1>
      <p className="mt-1 flex flex-wrap items-center gap-x-6 gap-y-1">
        <RequestState outcome={run.outcome} stuck={stuck} />
        <span>
          {run.requester}
          {run.forWhom !== undefined && ` for ${run.forWhom}`}
        </span>
        <span>
          Opened <Time at={run.openedAt} />
        </span>
        {children}
        {!run.outcome && <Live number={run.number} />}
      </p>
    </>
  );
}

/** A confidential request, to somebody who was not asked: that it exists, and how it stands. */
function Sealed({ run }: { run: Extract<Route.ComponentProps['loaderData']['run'], { sealed: true }> }) {
  return (
    <Frame>
      <Head run={run} stuck={run.stuck} />
      <p className="mt-6 max-w-xl border-l-3 border-ochre bg-ochre-wash px-3 py-2">
        This request is confidential. What was asked and said is for its requester, those who were asked, the teams that work on it, and the readers
        its item names.
      </p>
    </Frame>
  );
}

export default function Trace({ loaderData, ...props }: Route.ComponentProps) {
  const actionData = useOutcome(props.actionData);
  const { run, mayReadLog: readsLog, mayRetry, maySkip } = loaderData;
  if (run.sealed) return <Sealed run={run} />;
  return (
    <Frame>
      <div className="max-w-5xl">
        <Head run={run} stuck={run.steps.some((s) => s.stuckCause)}>
          {run.endedAt && (
            <span>
              Ended <Time at={run.endedAt} />, after <span className="numbers">{elapsed(run.openedAt, run.endedAt)}</span>
            </span>
          )}
          <span className="text-faint" data-tip={`Content hash ${run.contentHash}`}>
            Revision {run.revision} · {run.events} events
          </span>
          {readsLog && (
            <Link to={`/ledger/decisions?q=R-${run.number}`} className="text-sea underline underline-offset-4">
              Its decisions, as evidence
            </Link>
          )}
        </Head>
        {run.reason && <p className="mt-1">“{run.reason}”</p>}
        {run.promised && <PromiseLine {...run.promised} ended={run.outcome !== null} waitsFor="they have" />}
        <div className="mt-3">
          <Refused sentence={actionData?.refusal.sentence} />
        </div>
        <Values title="Answers" values={run.answers} />
        <ol className="mt-6 border-t">
          {run.steps.map((s) => (
            <StepRow key={s.key} s={s} mayRetry={mayRetry} maySkip={maySkip} />
          ))}
          {run.outcome && (
            <li className="grid grid-cols-[172px_20px_minmax(0,1fr)] gap-x-3 border-b py-3 max-sm:grid-cols-[20px_minmax(0,1fr)]">
              <span className="max-sm:col-span-2 max-sm:pl-8">{run.endedAt && <Time at={run.endedAt} seconds />}</span>
              <StateMark kind="done" />
              <span>
                Ended as <strong className="font-medium">{run.outcome}</strong>
              </span>
            </li>
          )}
        </ol>
        {run.words.length > 0 && (
          <section aria-label="What was said" className="mt-6 max-w-3xl">
            <h2 className="mb-2 font-medium">What was said</h2>
            <Conversation words={run.words} of={run.number} />
          </section>
        )}
        {run.ignored.length > 0 && (
          <section className="mt-6">
            <h2 className="mb-1 font-medium">Came too late or twice, and changed nothing</h2>
            <ul>
              {run.ignored.map((e, i) => (
                <li key={i}>
                  <Time at={e.at} /> {ignoredWords[e.what] ?? e.what} {e.who && `by ${e.who}`} ({reasonWords[e.reason] ?? e.reason})
                </li>
              ))}
            </ul>
          </section>
        )}
      </div>
    </Frame>
  );
}

const ignoredWords: Record<string, string> = {
  decided: 'A decision',
  answered: 'An answer of a system',
  callFailed: 'A failure of a system',
  withdrawn: 'A withdrawal',
  retried: 'A retry',
  begin: 'A beginning',
  found: 'A look-up',
  sentBack: 'A sending back',
  resubmitted: 'A corrected request',
  taskDone: 'A finished task',
  replied: 'An answer',
  timer: 'A timer',
  skipped: 'A skip',
  takenOver: 'A taking over',
  added: 'An addition',
};
const reasonWords: Record<string, string> = {
  ended: 'the request had ended',
  'not-open': 'the step was no longer open',
  'not-asked': 'this person was not asked',
  'decided-already': 'already answered',
  'begun-already': 'already begun',
  'not-yours': 'not their request',
  'no-return': 'past the point of no return',
  'not-allowed': 'not allowed there',
  'milestone-ended': 'the milestone had been reached',
};
const endWords: Record<string, string> = {
  withdrawn: 'no longer needed',
  takenOver: 'taken over by hand',
  returned: 'sent back',
  passed: 'passed by itself',
};

const markOf = (s: Step): StateMarkKind =>
  s.stuckCause
    ? 'failed'
    : !s.endedAt
      ? 'half'
      : s.end === 'declined'
        ? 'declined'
        : s.end === 'lapsed'
          ? 'lapsed'
          : s.end === 'failed'
            ? 'failed'
            : s.end === 'withdrawn' || s.end === 'skipped'
              ? 'empty'
              : 'done';

function StepRow({ s, mayRetry, maySkip }: { s: Step; mayRetry: boolean; maySkip: boolean }) {
  return (
    <li id={s.key} className="grid grid-cols-[172px_20px_minmax(0,1fr)] gap-x-3 border-b py-3 max-sm:grid-cols-[20px_minmax(0,1fr)]">
      <span className="text-faint max-sm:col-span-2 max-sm:pl-8">
        <Time at={s.beganAt} seconds />
        {s.endedAt && new Date(s.endedAt).getTime() !== new Date(s.beganAt).getTime() && (
          <span className="block text-sm">took {elapsed(s.beganAt, s.endedAt)}</span>
        )}
      </span>
      <span className="pt-0.5">
        <StateMark kind={markOf(s)} />
      </span>
      <div className="min-w-0">
        <h2>
          <strong className="font-medium">{s.name}</strong>{' '}
          <span className="text-sm text-faint">
            {s.verb} · {s.stuckCause ? 'stuck' : s.end ? (endWords[s.end] ?? s.end) : 'under way'}
          </span>
        </h2>
        {s.note && <p>{s.note}</p>}
        {s.stuckCause && (
          <div className="my-2 border-l-3 border-coral bg-coral-wash px-3 py-2">
            <p>{s.stuckCause}</p>
            {mayRetry && (
              <Form method="post" className="mt-2">
                <input type="hidden" name="key" value={s.key} />
                <Button type="submit">Try “{s.name}” again</Button>
              </Form>
            )}
            {mayRetry && !s.isFirm && <ByHand s={s} maySkip={maySkip} />}
          </div>
        )}
        {s.taken && (
          <p className="text-sm">
            Went on: <span className="text-moss">{s.taken}</span>
          </p>
        )}
        {s.notTaken.length > 0 && (
          <details className="text-sm text-faint">
            <summary>{s.notTaken.length === 1 ? 'One way was not taken' : `${s.notTaken.length} ways were not taken`}</summary>
            <ul className="ml-4">
              {s.notTaken.map((words) => (
                <li key={words}>{words}</li>
              ))}
            </ul>
          </details>
        )}
        {s.work && <Work work={s.work} />}
        {s.approvals.length > 0 && (
          <ul className="mt-1 text-sm">
            {s.approvals.map((a) => (
              <li key={a.name}>
                {a.name}
                {a.insteadOf && ` (in place of ${a.insteadOf})`}: {answerWords[a.status] ?? a.status}
                {a.via && ` ${a.via}`} {a.decidedAt && <Time at={a.decidedAt} seconds />} {a.comment && `“${a.comment}”`}
              </li>
            ))}
          </ul>
        )}
        <div className="grid gap-x-8 sm:grid-cols-2">
          <Values title="In" values={s.inputs} />
          <Values title="Out" values={s.outputs} />
        </div>
        {s.calls.map((c) => (
          <CallOfStep key={c.id} call={c} />
        ))}
        {s.messages.map((m) => (
          <More key={m.id} summary={`${m.via === 'chat' ? 'Chat message' : 'Mail'} to ${m.to}: ${m.subject}`} colour="">
            <p className="text-faint">
              {m.via === 'mail' && <>{m.address} · </>}
              {m.sentAt ? (
                <>
                  sent <Time at={m.sentAt} />
                </>
              ) : m.failedAt ? (
                `not sent: ${m.lastError}`
              ) : (
                `on its way${m.lastError ? `: ${m.lastError}` : ''}`
              )}
            </p>
            <MessageWords content={m.content} text={m.text} />
          </More>
        ))}
      </div>
    </li>
  );
}

/** When trying again will not help: somebody did it by hand, or it is not needed. */
function ByHand({ s, maySkip }: { s: Step; maySkip: boolean }) {
  const post = usePost(ByHandPost);
  return (
    <details className="mt-2">
      <summary className="cursor-pointer text-sea">Take over{maySkip ? ' or skip' : ''} …</summary>
      <Form method="post" {...post.form} className="mt-2 max-w-md space-y-3">
        <input type="hidden" name="key" value={s.key} />
        {s.wants.map((w) => (
          <label key={w.name} className="block">
            <span className="mb-1 block font-medium">{w.label}</span>
            {w.type === 'boolean' ? (
              <Select name={`o.${w.name}`} defaultValue="">
                <option value="">Choose …</option>
                <option value="true">yes</option>
                <option value="false">no</option>
              </Select>
            ) : (
              <input name={`o.${w.name}`} className="input" inputMode={w.type === 'number' ? 'decimal' : 'text'} autoComplete="off" />
            )}
          </label>
        ))}
        <Labelled label="Why, and what was done" problem={post.problem('comment')}>
          {(ids) => <textarea {...ids} name="comment" rows={2} className="input" maxLength={2000} />}
        </Labelled>
        <div className="flex flex-wrap gap-2">
          <Button type="submit" name="act" value="takeOver">
            It was done by hand; go on
          </Button>
          {maySkip && (
            <Button type="submit" name="act" value="skip" weight="decline">
              Go on without it
            </Button>
          )}
        </div>
      </Form>
    </details>
  );
}

const answerWords: Record<string, string> = {
  released: 'released without an answer',
  waiting: 'has not answered',
  later: 'is asked after the others',
};

/** What was done about a task: who took it and when, which lines are checked off, what is filled in. */
function Work({ work }: { work: NonNullable<Step['work']> }) {
  return (
    <div className="mt-1 text-sm">
      <ul>
        {work.moves.map((m, i) => (
          <li key={i}>
            {m.who ?? 'Somebody'} {m.words} <Time at={m.at} seconds />
          </li>
        ))}
      </ul>
      {work.checklist.length > 0 && (
        <ul className="mt-1">
          {work.checklist.map((c) => (
            <li key={c.words}>
              <StateMark kind={c.checked ? 'done' : 'empty'} size={12} /> {c.words}
              <span className="sr-only">{c.checked ? ' (checked off)' : ' (not checked off)'}</span>
            </li>
          ))}
        </ul>
      )}
      <Values title="Filled in so far" values={work.filled} />
    </div>
  );
}

function Values({ title, values }: { title: string; values: { label: string; words: string }[] }) {
  if (values.length === 0) return null;
  return (
    <div className="mt-2">
      <p className="text-xs text-faint">{title}</p>
      <dl className="text-sm">
        {values.map((v) => (
          <div key={v.label} className="flex gap-2">
            <dt className="shrink-0 text-faint">{v.label}</dt>
            <dd className="min-w-0 break-words">{v.words ? <Said {...v} /> : '–'}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}
