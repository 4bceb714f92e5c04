import { useEffect, useRef, useState } from 'react';
import { Form, Link, redirect, useFetcher, useNavigation } from 'react-router';
import type { Answers } from '../../../core/forms/index.ts';
import { Report as ReportPost } from '../../../core/posts/index.ts';
import { newToken } from '../../../server/auth/token.ts';
import { has } from '../../../server/auth/viewer.ts';
import { allKinds, offeredKinds } from '../../../server/kinds/queries.ts';
import { answersRefused } from '../../../server/refusal.ts';
import { placeOf } from '../../../server/people/find.ts';
import { reportTicket } from '../../../server/tickets/report.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { formEncoding, FormFields } from '~/ui/form-fields';
import { Empty } from '~/ui/frame';
import { Picker, type Chosen } from '~/ui/picker';
import { usePost } from '~/ui/post';
import { RadioGroup } from '~/ui/radio-group';
import { Refused } from '~/ui/problem';
import { Select } from '~/ui/select';
import { asked, numberIn, refused, signedIn } from '../session.server';
import { attachedAnswers, foundFrom } from './answers.server';
import type { loader as likelyLoader } from './likely';
import type { Route } from './+types/report';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Report a problem · Counter · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const desk = has(viewer, 'teamMember', 'administrator');
  const call = desk && new URL(request.url).searchParams.has('call');
  // What only the desk opens stands behind what everybody reports.
  const offered = await offeredKinds();
  const others = call ? (await allKinds()).filter((k) => !k.definition.offered) : [];
  const kinds = [...offered, ...others].map(({ id, definition: { name, summary, categories, form, priority } }) => {
    const { impacts, urgencies, usual } = priority;
    return { id, name, summary, categories, form, impacts, urgencies, usual };
  });
  const about = numberIn(asked(request, 'about')) || undefined;
  return { kinds, about, kind: asked(request, 'kind'), call, desk, place: await placeOf(viewer.id), idempotencyKey: newToken() };
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const kinds = await allKinds();
  const kindIn = (id: string) => kinds.find((k) => k.id === id);
  const { data, answers, names, wrong } = await attachedAnswers(
    viewer,
    request,
    (form) => kindIn(form.get('kind'))?.definition.form ?? { fields: [] },
  );
  const place = await foundFrom(viewer, data, 'place', 'location');
  const whom = await foundFrom(viewer, data, 'whom', 'person');
  const typed = { subject: data.get('subject'), words: data.get('words'), category: data.get('category'), kind: data.get('kind') };
  const kept = { ...typed, answers, names, place, whom, impact: data.get('impact'), urgency: data.get('urgency') };
  if (wrong.length > 0) return refused(answersRefused(wrong), kept);
  const call = data.get('call') !== '';
  const result = await reportTicket(viewer, {
    kindId: typed.kind,
    subject: typed.subject,
    words: typed.words,
    category: typed.category || undefined,
    placeId: place?.id,
    impact: kept.impact || undefined,
    urgency: kept.urgency || undefined,
    answers,
    idempotencyKey: data.get('idempotencyKey').slice(0, 100) || newToken(),
    forWhom: call ? (whom?.id ?? '') || undefined : undefined,
    follows: numberIn(data.get('about')) || undefined,
  });
  if (!result.ok) return refused(result, kept);
  return redirect(call ? `/desk/queue/tickets/${result.number}` : `/counter/tickets/${result.number}?sent`);
}

export default function Report({ loaderData: { kinds, about, kind: first, call, desk, place, idempotencyKey }, actionData }: Route.ComponentProps) {
  const was = actionData;
  const post = usePost(ReportPost, { refusal: was?.refusal });
  const [kindId, setKindId] = useState(was?.kind ?? (kinds.some((k) => k.id === first) ? first : (kinds[0]?.id ?? '')));
  const kind = kinds.find((k) => k.id === kindId) ?? kinds[0];
  const [subject, setSubject] = useState(was?.subject ?? '');
  const [where, setWhere] = useState<Chosen | undefined>(was ? was.place : place);
  const [whom, setWhom] = useState<Chosen | undefined>(was?.whom);
  const [impact, setImpact] = useState(was?.impact || (kind?.usual.impact ?? ''));
  const [urgency, setUrgency] = useState(was?.urgency || (kind?.usual.urgency ?? ''));
  const [answers, setAnswers] = useState<Answers>(was?.answers ?? {});
  const [names, setNames] = useState<Record<string, string>>(was?.names ?? {});
  const busy = useNavigation().formMethod === 'POST';
  const likely = useLikely(subject);
  if (!kind) return <Empty>Nothing can be reported here yet. A designer makes ticket kinds in the Workshop.</Empty>;
  const problems = Object.fromEntries((was?.refusal.problems ?? []).map((p) => [p.field, p.sentence]));
  return (
    <div className="max-w-4xl">
      <h1 className="font-serif text-2xl">{call ? 'Somebody reports by telephone' : 'Report a problem'}</h1>
      <p className="mb-6 text-faint">
        {call ? 'It stands under their name, and its number goes to them by mail.' : 'You have its number at once, and follow it here.'}
        {about !== undefined && <> It stands beside R-{about}.</>}
        {desk && !call && (
          <>
            {' '}
            <Link to="?call" className="text-sea underline underline-offset-4">
              For somebody on the telephone
            </Link>
          </>
        )}
      </p>
      <Refused sentence={post.sentence} />
      <Form method="post" {...post.form} encType={formEncoding(kind.form.fields)} className="grid gap-x-8 gap-y-6 lg:grid-cols-[minmax(0,1fr)_280px]">
        <input type="hidden" name="idempotencyKey" value={idempotencyKey} />
        {call && <input type="hidden" name="call" value="on" />}
        {about !== undefined && <input type="hidden" name="about" value={about} />}
        <div className="space-y-5">
          {call && (
            <Labelled label="Who is on the telephone" required problem={problems['for-whom']}>
              {(ids) => <Picker {...ids} kind="person" name="whom" chosen={whom} onChoose={setWhom} />}
            </Labelled>
          )}
          {kinds.length > 1 ? (
            <Labelled label="What is it?">
              {(ids) => (
                <RadioGroup
                  {...ids}
                  name="kind"
                  value={kind.id}
                  onValue={setKindId}
                  options={kinds.map((k) => ({ value: k.id, label: call ? k.name : k.summary || k.name }))}
                />
              )}
            </Labelled>
          ) : (
            <input type="hidden" name="kind" value={kind.id} />
          )}
          <Labelled label="In a line" required problem={post.problem('subject')}>
            {(ids) => (
              <input
                {...ids}
                name="subject"
                className="input"
                maxLength={120}
                value={subject}
                onChange={(e) => setSubject(e.target.value)}
                autoComplete="off"
              />
            )}
          </Labelled>
          <Labelled label="What happens, and what you have tried" required problem={post.problem('words')}>
            {(ids) => <textarea {...ids} name="words" rows={5} className="input" maxLength={8000} defaultValue={was?.words} />}
          </Labelled>
          {kind.categories.length > 0 && (
            <Labelled label="What it is about" problem={problems['category']}>
              {(ids) => (
                <Select {...ids} name="category" defaultValue={was?.category ?? ''}>
                  <option value="">I do not know</option>
                  {kind.categories.map((c) => (
                    <option key={c} value={c}>
                      {c}
                    </option>
                  ))}
                </Select>
              )}
            </Labelled>
          )}
          <Labelled label="Where" problem={problems['place']}>
            {(ids) => <Picker {...ids} kind="location" name="place" chosen={where} onChoose={setWhere} />}
          </Labelled>
          <Labelled label="Whom it concerns">
            {(ids) => (
              <RadioGroup
                {...ids}
                name="impact"
                value={impact}
                onValue={setImpact}
                options={kind.impacts.map((l) => ({ value: l.id, label: l.label }))}
              />
            )}
          </Labelled>
          <Labelled label="How much it holds up">
            {(ids) => (
              <RadioGroup
                {...ids}
                name="urgency"
                value={urgency}
                onValue={setUrgency}
                options={kind.urgencies.map((l) => ({ value: l.id, label: l.label }))}
              />
            )}
          </Labelled>
          <FormFields
            form={kind.form}
            answers={answers}
            names={names}
            problems={problems}
            onChange={(id, value, chosen) => {
              setAnswers((a) => ({ ...a, [id]: value }));
              if (chosen) setNames((n) => ({ ...n, [chosen.id]: chosen.name }));
            }}
          />
        </div>
        <Likely of={likely} />
        <div className="border-t pt-4 lg:col-start-1">
          <Button type="submit" weight="main" disabled={busy}>
            {busy ? 'Sending …' : 'Report it'}
          </Button>
        </div>
      </Form>
    </div>
  );
}

type Answered = Awaited<ReturnType<typeof likelyLoader>>;

/** What may answer it already, beside what is typed. */
function Likely({ of }: { of: Answered | undefined }) {
  const some = of !== undefined && of.items.length + of.tickets.length > 0;
  return (
    <aside aria-label="What may answer it" aria-live="polite" className="space-y-4 text-sm">
      {of?.others && (
        <p>
          {of.others.many === 1 ? 'Somebody else has' : `${of.others.many} others have`} reported something like this at {of.others.place}, and it is
          open. Say what is different where you are.
        </p>
      )}
      {some && of.tickets.length > 0 && (
        <div>
          <h2 className="mb-1 border-b pb-1 text-faint">You have reported</h2>
          <ul className="space-y-1">
            {of.tickets.map((t) => (
              <li key={t.number}>
                <Link to={`/counter/tickets/${t.number}`} className="text-sea underline underline-offset-4">
                  {t.subject}
                </Link>{' '}
                <span className="numbers text-faint">T-{t.number}</span>
              </li>
            ))}
          </ul>
        </div>
      )}
      {some && of.items.length > 0 && (
        <div>
          <h2 className="mb-1 border-b pb-1 text-faint">What you can ask for</h2>
          <ul className="space-y-2">
            {of.items.map((i) => (
              <li key={i.id}>
                <Link to={`/counter/ask/${i.id}`} className="text-sea underline underline-offset-4">
                  {i.name}
                </Link>
                <span className="block text-faint">{i.summary}</span>
              </li>
            ))}
          </ul>
        </div>
      )}
    </aside>
  );
}

/** What may answer the line that is typed; asked for once the typing rests. */
function useLikely(subject: string): Answered | undefined {
  const { load, data } = useFetcher<typeof likelyLoader>();
  const loadRef = useRef(load);
  useEffect(() => {
    if (subject.trim().length < 4) return;
    const wait = setTimeout(() => void loadRef.current(`/counter/likely?words=${encodeURIComponent(subject)}`), 250);
    return () => clearTimeout(wait);
  }, [subject]);
  return subject.trim().length < 4 ? undefined : data;
}
