import { clsx } from 'clsx';
import { useState } from 'react';
import { Form, Link, redirect, useNavigation, useSearchParams } from 'react-router';
import { minutesWords } from '../../../core/calendar/index.ts';
import { promisedWords } from '../../../core/tickets/index.ts';
import { takeBackAsking } from '../../../server/tickets/asking.ts';
import { giveTicket, judgeTicket, writeOnTicket } from '../../../server/tickets/commands.ts';
import { ticketFor } from '../../../server/tickets/queries.ts';
import { joinTicket, linkTicket, partTicket, splitTicket } from '../../../server/tickets/related.ts';
import { answersRefused } from '../../../server/refusal.ts';
import { newToken } from '../../../server/auth/token.ts';
import { teamChoices } from '../../../server/people/find.ts';
import { Conversation } from '~/conversation/conversation';
import { Give, Judge } from '~/tickets/give-and-judge';
import { Asking } from '~/tickets/asking';
import { Readers } from '~/tickets/readers';
import { Related } from '~/tickets/related';
import { WriteBox } from '~/tickets/write-box';
import { Button } from '~/ui/button';
import { Live } from '~/ui/live';
import { useOutcome } from '~/ui/outcome';
import { Refused } from '~/ui/problem';
import { Said } from '~/ui/said';
import { TideLine } from '~/ui/tide-line';
import { Time } from '~/ui/time';
import { answersFrom, wordPosted } from '../counter/answers.server';
import { numberIn, orNotFound, refused, signedIn } from '../session.server';
import type { Route } from './+types/ticket';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.t.subject ?? 'Ticket'} · Desk · Nessmoor` }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const t = orNotFound(await ticketFor(viewer, numberIn(params.number)), 'This ticket');
  return { t, teams: await teamChoices(), once: newToken() };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const t = orNotFound(await ticketFor(viewer, numberIn(params.number)), 'This ticket');
  const { form, files, wrong } = await wordPosted(viewer, request);
  const act = form.get('act') || 'move';
  if (act === 'give' || act === 'take') {
    const holder = act === 'take' ? viewer.id : form.get('to') || undefined;
    const result = await giveTicket(viewer, { number: t.number, team: form.get('team') || undefined, holder, why: form.get('why') });
    if (!result.ok) return refused(result, { act, words: '', why: form.get('why') });
    // Who gives it out of their own teams does not see it any more.
    return act === 'give' && !(await ticketFor(viewer, t.number)) ? redirect('/desk/queue') : null;
  }
  if (act === 'judge') {
    const result = await judgeTicket(viewer, { number: t.number, impact: form.get('impact'), urgency: form.get('urgency'), why: form.get('why') });
    return result.ok ? null : refused(result, { act, words: '', why: form.get('why') });
  }
  if (act === 'unask') {
    const result = await takeBackAsking(viewer, { number: t.number });
    return result.ok ? { said: 'It is not asked any more.' } : refused(result, { act, words: '', why: '' });
  }
  if (act === 'part') {
    const result = await partTicket(viewer, { number: numberIn(form.get('other').replace(/^T-/, '')) || t.number });
    return result.ok ? { said: 'It goes on by itself again.' } : refused(result, { act, words: '', why: '' });
  }
  if (act === 'link' || act === 'unlink') {
    const other = form.get('other');
    const result = await linkTicket(viewer, { number: t.number, other, not: act === 'unlink' });
    return result.ok ? { said: act === 'link' ? 'Linked.' : 'Not linked any more.' } : refused(result, { act, other, words: '', why: '' });
  }
  if (act === 'join' || form.get('join') !== '') {
    const other = form.get('join') || form.get('other');
    const result = await joinTicket(viewer, { number: t.number, other });
    return result.ok
      ? redirect(`/desk/queue/tickets/${result.into}?joined=${t.number}`)
      : refused(result, { act: 'join', other, words: '', why: '' });
  }
  if (act === 'split') {
    const [subject, said] = [form.get('subject'), form.get('words')];
    const result = await splitTicket(viewer, {
      number: t.number,
      subject,
      words: said,
      wordId: form.get('word') || undefined,
      once: form.get('once'),
    });
    return result.ok ? redirect(`/desk/queue/tickets/${result.number}`) : refused(result, { act, subject, words: said, why: '' });
  }
  const to = form.get('move');
  const needed = t.moves.find((m) => m.to.id === to)?.needs ?? [];
  const fields = t.fields.filter((f) => needed.includes(f.id));
  const { answers } = await answersFrom(viewer, form, { fields });
  const words = form.get('words');
  if (wrong.length > 0) return refused(answersRefused(wrong), { act, words, why: '', filled: answers, files });
  const result = await writeOnTicket(viewer, {
    number: t.number,
    words,
    inside: act === 'note',
    move: to ? { to, from: form.get('from') } : undefined,
    filled: answers,
    files: files.map((f) => f.id),
    once: form.get('once'),
  });
  return result.ok
    ? {
        said:
          act === 'note' ? 'Noted.' : result.asked && to ? 'Asked. It goes there once it is agreed to.' : result.moved ? 'Sent and moved.' : 'Sent.',
        sent: form.get('once'),
      }
    : refused(result, { act, words, why: '', filled: answers, files });
}

export default function Ticket({ loaderData: { t, teams, once }, ...props }: Route.ComponentProps) {
  const actionData = useOutcome(props.actionData);
  const failed = actionData && 'refusal' in actionData ? actionData : undefined;
  const sent = actionData && 'sent' in actionData ? (actionData.sent ?? '') : '';
  const busy = useNavigation().formMethod === 'POST';
  const [writing, setWriting] = useState(false);
  // What was joined a moment ago, as long as it is in here.
  const justJoined = useSearchParams()[0].get('joined');
  const joined = t.joined.here.find((j) => String(j.number) === justJoined)?.number;
  const fulfilment = t.promised.find((p) => p.of === 'fulfilment');
  const response = t.promised.find((p) => p.of === 'response');
  return (
    <article key={t.number} className="max-w-2xl min-w-0">
      <Link to="/desk/queue" className="mb-4 inline-block text-sea underline underline-offset-4 lg:hidden">
        The queue
      </Link>
      <p className="pr-10 text-sm text-faint">
        <span className="numbers">T-{t.number}</span> · {t.kind.toLowerCase()} · {t.priority} · {t.status.name} <Live number={t.number} />
      </p>
      <h2 className="font-serif text-2xl break-words">{t.subject}</h2>
      <p className="mt-1">
        {[t.requester, t.job].filter(Boolean).join(', ')}
        {t.place && ` · ${t.place}`}
      </p>
      <p className="text-sm text-faint">
        {[t.department, t.email, t.category].filter(Boolean).join(' · ')}
        {' · '}
        {t.team ?? 'no team'}, {t.mine ? 'yours' : (t.holder ?? 'not taken')}
      </p>
      <Readers number={t.number} writes={writing} others={t.readers} />
      {t.joined.into !== undefined && (
        <Form method="post" className="my-3 flex flex-wrap items-center gap-3 border-l-3 border-sea bg-sea-wash px-3 py-2">
          <span>
            It went into{' '}
            <Link to={`/desk/queue/tickets/${t.joined.into}`} className="text-sea underline underline-offset-4">
              T-{t.joined.into}
            </Link>
            , and is dealt with there.
          </span>
          <Button type="submit" name="act" value="part" disabled={busy}>
            Take it out again
          </Button>
        </Form>
      )}
      {joined !== undefined && (
        <Form method="post" role="status" className="my-3 flex flex-wrap items-center gap-3 border-l-3 border-moss bg-moss-wash px-3 py-2">
          <span>T-{joined} went into this one.</span>
          <input type="hidden" name="other" value={`T-${joined}`} />
          <Button type="submit" name="act" value="part" disabled={busy}>
            Undo
          </Button>
        </Form>
      )}
      {fulfilment && (
        <div className="my-3">
          <TideLine standing={fulfilment.standing} tide={fulfilment.tide} large />
          <p className="flex flex-wrap justify-between gap-x-4 text-sm text-faint">
            <span>
              {t.answeredAt
                ? `${promisedWords.response} after ${minutesWords(response?.standing.used ?? 0)}`
                : response
                  ? response.standing.late
                    ? `first word ${minutesWords(-response.standing.left)} late`
                    : `first word within ${minutesWords(response.standing.left)}`
                  : 'no word yet'}
            </span>
            <Left p={fulfilment} />
          </p>
        </div>
      )}
      {t.asking && <Asking asking={t.asking} acts={t.acts} />}
      {t.helped && <p className="my-2 text-sm text-moss">{t.requester} says that it helped.</p>}
      <Refused sentence={failed?.refusal.problems?.length ? undefined : failed?.refusal.sentence} />
      {actionData && 'said' in actionData && (
        <p role="status" className="my-2 text-moss">
          {actionData.said}
        </p>
      )}
      {t.acts && !t.mine && t.joined.into === undefined && (
        <Form method="post" className="my-3">
          <Button type="submit" name="act" value="take" disabled={busy}>
            {t.holder ? `Take it over from ${t.holder}` : 'Take it'}
          </Button>
        </Form>
      )}
      <section aria-label="What was said" className="my-4 border-t pt-3">
        <Conversation words={t.words} held={t.held} waitsFor={t.requester} of={t.number} />
      </section>
      {t.acts && t.joined.into === undefined && (
        <WriteBox
          // What was sent from here empties the box; what happens elsewhere leaves it as it is.
          key={sent}
          sent={sent}
          t={t}
          once={once}
          onWriting={setWriting}
          failed={failed && (failed.act === 'send' || failed.act === 'note' || failed.act === 'move') ? failed : undefined}
        />
      )}
      {t.answers.length > 0 && (
        <section aria-label="What is known of it" className="border-t py-3">
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
      <Related t={t} once={once} failed={failed && 'act' in failed ? failed : undefined} />
      {t.acts && <Give t={t} teams={teams} failed={failed?.act === 'give' ? failed : undefined} />}
      {t.acts && <Judge t={t} failed={failed?.act === 'judge' ? failed : undefined} />}
      <details className="border-t py-3">
        <summary className="cursor-pointer text-sea">History, {t.history.length === 1 ? '1 entry' : `${t.history.length} entries`}</summary>
        <ol className="mt-2 space-y-1 text-sm">
          {t.history.map((h, i) => (
            <li key={i}>
              <Time at={h.at} /> <span className="text-faint">{h.by ?? 'Nessmoor'}</span> {h.words}
            </li>
          ))}
        </ol>
      </details>
    </article>
  );
}

type Loaded = Route.ComponentProps['loaderData'];

function Left({ p }: { p: Loaded['t']['promised'][number] }) {
  const { standing: s } = p;
  if (s.phase === 'stopped')
    return <span className={s.late ? 'text-coral' : 'text-moss'}>{s.late ? 'the promise was broken' : 'the promise was kept'}</span>;
  if (s.phase === 'held') return <span>held, {minutesWords(s.left)} left</span>;
  return (
    <span className={clsx(s.late ? 'text-coral' : s.warned && 'text-ochre')}>
      {s.late ? `${minutesWords(-s.left)} late` : `${minutesWords(s.left)} left`}
      {s.due && (
        <>
          , by <Time at={s.due} />
        </>
      )}
    </span>
  );
}
