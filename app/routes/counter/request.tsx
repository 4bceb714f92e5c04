import { useState } from 'react';
import { Form, Link, useNavigation, useSearchParams } from 'react-router';
import { brokenRules, type Answers } from '../../../core/forms/index.ts';
import { answerQuestion, withdrawRequest } from '../../../server/requests/commands.ts';
import { myRequest } from '../../../server/requests/queries.ts';
import { Button, ButtonLink } from '~/ui/button';
import { formEncoding, FormFields } from '~/ui/form-fields';
import { Live } from '~/ui/live';
import { StateMark, RequestState } from '~/ui/state-mark';
import { useOutcome } from '~/ui/outcome';
import { Refused } from '~/ui/problem';
import { standingWords } from '~/ui/standing';
import { MessageWords } from '~/ui/rich-words';
import { Said } from '~/ui/said';
import { Time } from '~/ui/time';
import { orNotFound, isId, numberIn, refused, signedIn, type Posted } from '../session.server';
import { answersRefused } from '../../../server/refusal.ts';
import { attachedAnswers } from './answers.server';
import type { Route } from './+types/request';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ params }) => [{ title: `R-${params.number} · Counter · Nessmoor` }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  return orNotFound(await myRequest(signedIn(context, request), numberIn(params.number)), 'This request');
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const asked = async (data: Posted) => {
    const id = data.get('question');
    return id ? (await myRequest(viewer, numberIn(params.number)))?.questions.find((q) => q.id === id) : undefined;
  };
  const { data: form, answers, names, wrong } = await attachedAnswers(viewer, request, async (data) => (await asked(data))?.form ?? { fields: [] });
  const id = form.get('question');
  if (!id) {
    if (form.get('act') !== 'withdraw') throw new Response('Say what is to be done with this request. Nothing was changed.', { status: 400 });
    const result = await withdrawRequest(viewer, { number: numberIn(params.number) });
    return result.ok ? null : refused(result, { question: '', answers: {}, names: {} });
  }
  if (wrong.length > 0) return refused(answersRefused(wrong), { question: id, answers, names });
  const result = isId(id) ? await answerQuestion(viewer, { id, values: answers }) : undefined;
  return !result || result.ok ? null : refused(result, { question: id, answers, names });
}

export default function RequestPage({ loaderData: r, ...props }: Route.ComponentProps) {
  const actionData = useOutcome(props.actionData);
  const [search] = useSearchParams();
  return (
    <div className="max-w-3xl">
      <p className="flex gap-3 text-sm">
        <span className="numbers text-faint">R-{r.number}</span>
        {r.order && (
          <Link to={`/counter/orders/${r.order}`} className="text-sea underline underline-offset-4">
            of order R-{r.order}
          </Link>
        )}
        {!r.outcome && <Live number={r.number} />}
      </p>
      <h1 className="font-serif text-2xl">{r.item}</h1>
      {search.has('sent') && !r.outcome && (
        <p role="status" className="mt-3 border-l-3 border-moss bg-moss-wash px-3 py-2">
          Your request is on its way. You are told by mail as soon as it is decided.
        </p>
      )}
      <div className="mt-3">
        <Refused sentence={actionData?.question ? undefined : actionData?.refusal.sentence} />
      </div>
      <section aria-label="Where it stands" className="my-5 border-y py-4">
        <p className="text-lg">
          <RequestState outcome={r.outcome} stuck={r.standing?.stuck} />
        </p>
        {r.standing && (
          <p className="mt-1">
            {standingWords(r.standing)}, since <Time at={r.standing.since} /> (<Time at={r.standing.since} relative />)
          </p>
        )}
        {r.shown && <p className="mt-1">Now: {r.shown}</p>}
        {r.reason && <p className="mt-1">“{r.reason}”</p>}
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
              </li>
            ))}
          </ol>
        )}
      </section>
      {r.questions.map((q) => (
        <Question key={q.id} q={q} names={r.names} failed={actionData?.question === q.id ? actionData : undefined} />
      ))}

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
          <h2 className="mb-2 font-medium">Messages to you</h2>
          {r.told.length === 0 && <p className="text-faint">None yet.</p>}
          {r.told.map((m) => (
            <details key={m.id} className="mb-2 border-b pb-2">
              <summary className="py-1">
                {m.subject} <span className="text-faint">· {m.sentAt ? <Time at={m.sentAt} relative /> : 'on its way'}</span>
              </summary>
              <MessageWords content={m.content} text={m.text} />
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

type Asked = Route.ComponentProps['loaderData']['questions'][number];

/** A question to the requester, or their own form sent back; the clock is held until it is answered. */
function Question({
  q,
  names: known,
  failed,
}: {
  q: Asked;
  names: Record<string, string>;
  failed:
    { refusal: { sentence: string; problems?: { field: string; sentence: string }[] }; answers: Answers; names: Record<string, string> } | undefined;
}) {
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
            [...brokenRules(q.form, values, undefined, true), ...(failed?.refusal.problems ?? [])].map((p) => [p.field, p.sentence]),
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
