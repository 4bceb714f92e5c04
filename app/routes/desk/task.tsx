import { useState } from 'react';
import { Form, Link, redirect, useNavigation } from 'react-router';
import type { Answers } from '../../../core/forms/index.ts';
import { addToRequest, type Addition } from '../../../server/requests/additions.ts';
import { correctRequest, finishTask, handOver, writeFromTask, saveTask, takeTask } from '../../../server/tasks/commands.ts';
import { taskFor } from '../../../server/tasks/queries.ts';
import { newToken } from '../../../server/auth/token.ts';
import { has } from '../../../server/auth/viewer.ts';
import { Letters } from '~/letters/letters';
import { Meetings } from '~/meetings/meetings';
import { Conversation } from '~/conversation/conversation';
import { alsoRead, WriteWords } from '~/conversation/write-words';
import { Button } from '~/ui/button';
import { formEncoding, FormFields } from '~/ui/form-fields';
import { StateMark } from '~/ui/state-mark';
import { useNow } from '~/ui/now';
import { useOutcome } from '~/ui/outcome';
import { Refused } from '~/ui/problem';
import { RichWords } from '~/ui/rich-words';
import { Said } from '~/ui/said';
import { PromiseLine } from '~/ui/promise-line';
import { Time } from '~/ui/time';
import { answersRefused } from '../../../server/refusal.ts';
import { attachedAnswers, wordFilesIn } from '../counter/answers.server';
import { orNotFound, isId, refused, signedIn } from '../session.server';
import { Add, Correct, HandOver } from './task-beside';
import type { Route } from './+types/task';
import { teamChoices } from '../../../server/people/find.ts';
import { Checkbox } from '~/ui/checkbox';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.task.name ?? 'Task'} · Desk · Nessmoor` }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const task = orNotFound(isId(params.id) ? await taskFor(viewer, params.id) : undefined, 'This task');
  return { task, mayAdd: has(viewer, 'teamMember', 'administrator'), teams: await teamChoices(), once: newToken() };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const task = orNotFound(isId(params.id) ? await taskFor(viewer, params.id) : undefined, 'This task');
  const correctable = { fields: task.correctable.fields.map((f) => ({ ...f, visibleWhen: undefined, held: undefined })) };
  const {
    data: form,
    answers,
    wrong,
  } = await attachedAnswers(viewer, request, (data) => (data.get('act') === 'correct' ? correctable : { fields: task.fields }));
  const act = form.get('act');
  if (act === 'correct') {
    const result = await correctRequest(viewer, { id: task.id, values: answers });
    if (!result.ok) return refused(result, { act });
    return { said: result.changed === 0 ? 'Nothing was changed.' : 'What was asked is corrected; what follows reads it so.' };
  }
  if (act === 'add') {
    const result = await addToRequest(viewer, {
      number: task.number,
      kind: kindIn(form.get('kind')),
      name: form.get('name'),
      instructions: form.get('instructions'),
      team: form.get('team') || undefined,
      person: form.get('person') || undefined,
      to: form.get('to') || 'end',
    });
    return result.ok ? redirect(`/desk/queue/tasks/${task.id}?added`) : refused(result, { act });
  }
  if (act === 'take' || act === 'give' || act === 'take-over') {
    const result = await takeTask(viewer, { id: task.id, give: act === 'give', over: act === 'take-over' });
    return result.ok ? null : refused(result, { act });
  }
  if (act === 'hand-over') {
    const result = await handOver(viewer, { id: task.id, person: form.get('to') || undefined, team: form.get('team') || undefined });
    // Who hands it out of their own teams does not see it any more.
    return result.ok ? redirect('/desk/queue') : refused(result, { act });
  }
  if (act === 'note' || act === 'write') {
    const files = await wordFilesIn(viewer, form);
    const kept = { act, words: form.get('words'), files };
    if (wrong.length > 0) return refused(answersRefused(wrong), kept);
    const word = { id: task.id, words: kept.words, inside: act === 'note', files: files.map((f) => f.id), once: form.get('once') };
    const result = await writeFromTask(viewer, word);
    return result.ok ? { said: act === 'note' ? 'Noted.' : 'Sent.', sent: word.once } : refused(result, kept);
  }
  const work = { id: task.id, values: answers, checked: form.all('checked').map(String) };
  const result = wrong.length > 0 ? answersRefused(wrong) : act === 'finish' ? await finishTask(viewer, work) : await saveTask(viewer, work);
  // What was typed is kept on the task even when it cannot be finished yet.
  if (!result.ok && result.code === 'invalid' && (act === 'finish' || wrong.length > 0)) await saveTask(viewer, work);
  return result.ok ? (act === 'finish' ? null : { said: 'What is filled in is kept.' }) : refused(result, { act });
}

const kindIn = (kind: string): Addition['kind'] => (kind === 'gate' || kind === 'question' ? kind : 'task');

export default function Task({ loaderData: { task: t, mayAdd, teams, once }, ...props }: Route.ComponentProps) {
  const actionData = useOutcome(props.actionData);
  const { now } = useNow();
  const failed = actionData && 'refusal' in actionData ? actionData : undefined;
  const notSent = failed && 'words' in failed && typeof failed.words === 'string' ? { ...failed, words: failed.words } : undefined;
  const sent = actionData && 'sent' in actionData ? (actionData.sent ?? '') : '';
  const late = t.dueAt !== null && t.closedAt === null && t.dueAt < now;
  return (
    <article key={t.id} className="max-w-2xl min-w-0">
      <Link to="/desk/queue" className="mb-4 inline-block text-sea underline underline-offset-4 lg:hidden">
        The queue
      </Link>
      <p className="numbers text-sm text-faint">R-{t.number}</p>
      <h2 className="font-serif text-2xl">{t.name}</h2>
      <p className="mt-1 text-faint">
        {t.item}, for {t.forWhom ?? t.requester.name}
        {t.dueAt && (
          <span className={late ? 'text-coral' : undefined}>
            {late ? ' · late, was due ' : ' · due '}
            <Time at={t.dueAt} />
          </span>
        )}
      </p>
      <div className="mt-4">
        <Refused
          sentence={
            failed?.act === 'add' ||
            failed?.act === 'note' ||
            failed?.act === 'write' ||
            failed?.act === 'hand-over' ||
            (failed?.act === 'correct' && failed.refusal.problems?.length)
              ? undefined
              : failed?.refusal.sentence
          }
        />
        {actionData && 'said' in actionData && (
          <p role="status" className="mb-3 flex items-center gap-2 text-moss">
            <StateMark kind="done" size={12} /> {actionData.said}
          </p>
        )}
      </div>
      {t.closedAt ? (
        <p role="status" className="my-4 flex items-center gap-2 border-l-3 border-moss bg-moss-wash px-3 py-2">
          <StateMark kind={t.result === 'done' ? 'done' : 'empty'} />
          <span>
            {t.result === 'done' ? `Finished by ${t.doneBy ?? 'someone'}` : 'Not needed any more'}, <Time at={t.closedAt} />.
          </span>
        </p>
      ) : (
        <Work key={`${t.id} ${t.mine}`} t={t} problems={Object.fromEntries((failed?.refusal.problems ?? []).map((p) => [p.field, p.sentence]))} />
      )}
      <section aria-label="What was asked" className="border-t py-4">
        <h3 className="mb-2 text-sm text-faint">
          Asked by {t.requester.name}, <Time at={t.askedAt} />
        </h3>
        {t.promised && <PromiseLine {...t.promised} ended={!t.open} waitsFor="they have" />}
        {!t.closedAt && !t.ofAnother && t.correctable.fields.length > 0 && (
          <Correct key={JSON.stringify(t.correctable.answers)} t={t} failed={failed?.act === 'correct' ? failed.refusal : undefined} />
        )}
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
        <Meetings meetings={t.meetings} level="h3" />
        <Letters letters={t.letters} level="h3" />
      </section>
      {(t.words.length > 0 || !t.closedAt) && (
        <section aria-label="What was said" className="border-t py-4">
          <h3 className="mb-2 text-sm text-faint">What was said about R-{t.number}</h3>
          <Conversation words={t.words} of={t.number} />
          {!t.closedAt && (
            <WriteWords
              key={sent}
              label={`Write to ${t.requester.name.split(' ')[0]!}`}
              help={`It goes out by mail and stands on their page of the request${alsoRead(t.readAlong)}; a note stays within the desk.`}
              once={once}
              sent={sent}
              failed={notSent}
              fromDesk
            />
          )}
        </section>
      )}
      {!t.closedAt && !t.ofAnother && <HandOver teams={teams} refusal={failed?.act === 'hand-over' ? failed.refusal : undefined} />}
      {mayAdd && t.open && <Add t={t} teams={teams} refusal={failed?.act === 'add' ? failed.refusal : undefined} />}
    </article>
  );
}

type Loaded = Route.ComponentProps['loaderData'];

function Work({ t, problems }: { t: Loaded['task']; problems: Record<string, string> }) {
  const [values, setValues] = useState<Answers>(t.draft.values);
  const [names, setNames] = useState(t.names);
  const [checked, setChecked] = useState(t.draft.checked);
  const busy = useNavigation().formMethod === 'POST';
  const left = t.checklist.filter((c) => !checked.includes(c.id)).length;
  return (
    <Form method="post" encType={formEncoding(t.fields)} noValidate>
      {t.team && (
        <p className="mb-3 flex flex-wrap items-center gap-3">
          <span>
            {t.team}: {t.mine ? 'you have it' : t.takenBy ? `${t.takenBy} has it` : 'nobody has taken it'}.
          </span>
          {t.ofAnother ? (
            t.mayTakeOver && (
              <Button type="submit" name="act" value="take-over" disabled={busy}>
                Take it over from {t.takenBy}
              </Button>
            )
          ) : (
            <Button type="submit" name="act" value={t.mine ? 'give' : 'take'} disabled={busy}>
              {t.mine ? 'Give it back to the team' : 'Take it'}
            </Button>
          )}
        </p>
      )}
      <section aria-label="What is to be done" className="border-y py-4">
        <RichWords text={t.instructions} />
      </section>
      {t.checklist.length > 0 && (
        <fieldset className="py-4">
          <legend className="mb-1 font-medium">Checklist</legend>
          <ul className="space-y-1.5">
            {t.checklist.map((c) => (
              <li key={c.id}>
                <label className="flex gap-2">
                  <Checkbox
                    name="checked"
                    value={c.id}
                    className="mt-0.5"
                    checked={checked.includes(c.id)}
                    aria-invalid={problems[c.id] ? true : undefined}
                    onChecked={(on) => setChecked(on ? [...checked, c.id] : checked.filter((x) => x !== c.id))}
                  />
                  <span className={problems[c.id] && !checked.includes(c.id) ? 'text-coral' : ''}>{c.words}</span>
                </label>
              </li>
            ))}
          </ul>
        </fieldset>
      )}
      {t.fields.length > 0 && (
        <div className="py-3">
          <FormFields
            form={{ fields: t.fields }}
            answers={values}
            names={names}
            problems={problems}
            onChange={(field, value, chosen) => {
              setValues((v) => ({ ...v, [field]: value }));
              if (chosen) setNames((n) => ({ ...n, [chosen.id]: chosen.name }));
            }}
          />
        </div>
      )}
      <div className="flex flex-wrap items-center gap-3 border-t py-4">
        {t.ofAnother ? (
          <span className="text-faint">{t.takenBy} has it; only they can fill it in and finish it.</span>
        ) : (
          <>
            <Button type="submit" name="act" value="finish" weight="main" disabled={busy}>
              Finish this task
            </Button>
            <Button type="submit" name="act" value="save" disabled={busy}>
              Keep what is filled in
            </Button>
          </>
        )}
        {left > 0 && <span className="text-sm text-faint">{left === 1 ? 'One line is' : `${left} lines are`} not checked off.</span>}
      </div>
    </Form>
  );
}
