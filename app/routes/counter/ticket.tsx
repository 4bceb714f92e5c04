import { useState } from 'react';
import { Form, Link, useNavigation, useSearchParams } from 'react-router';
import { answersRefused } from '../../../server/refusal.ts';
import { newToken } from '../../../server/auth/token.ts';
import { sayWhetherHelped, writeOnTicket } from '../../../server/tickets/commands.ts';
import { myTicket } from '../../../server/tickets/queries.ts';
import { Conversation } from '~/conversation/conversation';
import { WordFiles } from '~/conversation/word-files';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Live } from '~/ui/live';
import { useOutcome } from '~/ui/outcome';
import type { Chosen } from '~/ui/picker';
import { Refused } from '~/ui/problem';
import { Said } from '~/ui/said';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';
import { wordPosted } from './answers.server';
import { numberIn, orNotFound, refused, signedIn } from '../session.server';
import type { Route } from './+types/ticket';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.t.subject ?? 'Ticket'} · Counter · Nessmoor` }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  return { t: orNotFound(await myTicket(viewer, numberIn(params.number)), 'This ticket'), once: newToken() };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const number = numberIn(params.number);
  const { form, files, wrong } = await wordPosted(viewer, request);
  const act = form.get('act');
  if (act === 'helped') {
    const result = await sayWhetherHelped(viewer, { number, helped: true });
    return result.ok ? { said: 'Thank you. The desk knows.' } : refused(result, { words: '' });
  }
  const words = form.get('words');
  const closing = act === 'close';
  if (wrong.length > 0) return refused(answersRefused(wrong), { words, files });
  const result = await writeOnTicket(viewer, {
    number,
    words,
    inside: false,
    move: closing ? { to: form.get('closes'), from: form.get('from') } : undefined,
    files: files.map((f) => f.id),
    once: form.get('once'),
    asRequester: true,
  });
  if (!result.ok) return refused(result, { words, files });
  return {
    said: closing ? (result.asked ? 'Asked. It is closed once that is agreed to.' : 'It is closed.') : 'Sent to the desk.',
    sent: form.get('once'),
  };
}

const marks = { runs: 'half', answers: 'half', holds: 'held', ends: 'done' } as const;

export default function MyTicket({ loaderData: { t, once }, ...props }: Route.ComponentProps) {
  const actionData = useOutcome(props.actionData);
  const failed = actionData && 'refusal' in actionData ? actionData : undefined;
  const sent = actionData && 'sent' in actionData ? (actionData.sent ?? '') : '';
  const [search] = useSearchParams();
  return (
    <div className="max-w-3xl">
      <p className="text-sm text-faint">
        <span className="numbers">T-{t.number}</span> · {t.kind.toLowerCase()} <Live number={t.number} />
      </p>
      <h1 className="font-serif text-2xl break-words">{t.subject}</h1>
      <p className="mt-2 flex flex-wrap items-center gap-x-2">
        <StateMark kind={marks[t.clock]} /> <span className="font-medium">{t.status}</span>
      </p>
      <p className="text-faint">
        {[t.holder ?? t.team, t.place].filter(Boolean).join(' · ')}
        {t.clock !== 'holds' && t.due && (
          <>
            {' · '}we promise it by <Time at={t.due} />
          </>
        )}
        {t.endedAt && (
          <>
            {' · '}
            <Time at={t.endedAt} />
          </>
        )}
      </p>
      {search.has('sent') && (
        <p role="status" className="mt-4 border-l-3 border-moss bg-moss-wash px-3 py-2">
          It has come in as T-{t.number}. Whatever is written about it stands here, and comes to you{' '}
          {t.inChat ? 'in chat, in the thread you began' : 'by mail'}.
        </p>
      )}
      {t.clock === 'holds' && (
        <p className="mt-4 border-l-3 border-ochre bg-ochre-wash px-3 py-2">
          The desk waits for your answer. The time you take does not count against it.
        </p>
      )}
      <section aria-label="What was said" className="my-5 border-t pt-4">
        <Conversation words={t.words} />
      </section>
      <Refused sentence={failed?.refusal.problems?.length ? undefined : failed?.refusal.sentence} />
      {actionData && 'said' in actionData && (
        <p role="status" className="mb-3 flex items-center gap-2 text-moss">
          <StateMark kind="done" size={12} /> {actionData.said}
        </p>
      )}
      {t.endedAt && t.helped === null && !t.over && (
        <Form method="post" className="mb-4 flex flex-wrap items-center gap-3">
          <span className="font-medium">Did it help?</span>
          <Button type="submit" name="act" value="helped">
            Yes, it did
          </Button>
          <span className="text-faint">If not, write what is still wrong: it is taken up again.</span>
        </Form>
      )}
      {t.over ? (
        <p className="text-faint">
          This is closed for good.{' '}
          <Link to="/counter/report" className="text-sea underline underline-offset-4">
            Report it anew
          </Link>{' '}
          if it comes again.
        </p>
      ) : (
        // What was sent from here empties the box; what happens elsewhere leaves it as it is.
        <Write key={sent} sent={sent} t={t} once={once} failed={failed} />
      )}
      {t.answers.length > 0 && (
        <section aria-label="What you said of it" className="mt-6 border-t pt-4">
          <dl className="grid gap-x-8 sm:grid-cols-2">
            {t.answers.map((x) => (
              <div key={x.label} className="mb-2">
                <dt className="text-sm text-faint">{x.label}</dt>
                <dd className="break-words whitespace-pre-wrap">
                  <Said {...x} />
                </dd>
              </div>
            ))}
          </dl>
        </section>
      )}
    </div>
  );
}

type Loaded = Route.ComponentProps['loaderData'];

function Write({
  t,
  once,
  sent,
  failed,
}: {
  t: Loaded['t'];
  once: string;
  /** The key of what was sent last. */
  sent: string;
  failed: { refusal: { problems?: { field: string; sentence: string }[] }; words: string; files?: Chosen[] } | undefined;
}) {
  // A page that is read anew while somebody writes must not make another sending of it.
  // Once something was sent the page has the key of that still, for the moment until it is read anew.
  const [sending] = useState(sent === once ? `${once}~` : once);
  const [files, setFiles] = useState<Chosen[]>(failed?.files ?? []);
  const busy = useNavigation().formMethod === 'POST';
  const reopens = t.clock === 'ends';
  return (
    <Form method="post" encType="multipart/form-data" className="border-t pt-4">
      <input type="hidden" name="once" value={sending} />
      <input type="hidden" name="from" value={t.statusId} />
      <Labelled
        label={t.clock === 'holds' ? 'Your answer' : reopens ? 'It is not done: what is still wrong' : 'Write to the desk'}
        problem={failed?.refusal.problems?.find((p) => p.field === 'words')?.sentence}
      >
        {(ids) => <textarea {...ids} name="words" rows={3} className="input" maxLength={8000} defaultValue={failed?.words} />}
      </Labelled>
      <WordFiles files={files} problem={failed?.refusal.problems?.find((p) => p.field === 'file')?.sentence} onChange={setFiles} />
      <div className="mt-3 flex flex-wrap gap-3">
        <Button type="submit" name="act" value="write" weight="main" disabled={busy}>
          {t.clock === 'holds' ? 'Send my answer' : reopens ? 'Send, and take it up again' : 'Send'}
        </Button>
        {reopens && t.closes !== undefined && t.helped !== false && (
          <>
            <input type="hidden" name="closes" value={t.closes} />
            <Button type="submit" name="act" value="close" disabled={busy}>
              Close it for good
            </Button>
          </>
        )}
      </div>
    </Form>
  );
}
