import { Fragment, useEffect, useRef, useState } from 'react';
import { Form, redirect, useFetcher, useNavigation } from 'react-router';
import { brokenRules, wrongAnswers, missingFields, type Answers, type Form as FormDefinition } from '../../../core/forms/index.ts';
import { putInBasket } from '../../../server/baskets/commands.ts';
import { basketLineOf } from '../../../server/baskets/queries.ts';
import { submitRequest } from '../../../server/requests/submit.ts';
import { begunAbout } from '../../../server/items/about-holdings.ts';
import { personNamed } from '../../../server/people/find.ts';
import { hoursFor } from '../../../server/hours/asked-on.ts';
import { ticketFor } from '../../../server/tickets/queries.ts';
import { linkBegun } from '../../../server/tickets/related.ts';
import { newToken } from '../../../server/auth/token.ts';
import { begunFor } from '../../../server/requests/foreseen.ts';
import { AskedFor } from '~/ui/answer-control';
import { Button } from '~/ui/button';
import { formEncoding, FormFields } from '~/ui/form-fields';
import { Refused } from '~/ui/problem';
import { answersAgain } from '../../../server/requests/queries.ts';
import { asked, numberIn, refused, signedIn } from '../session.server';
import type { Route } from './+types/ask';
import type { loader as foreseenLoader } from './foreseen';
import { Foreseen } from '~/ui/foreseen';
import { answersRefused } from '../../../server/refusal.ts';
import { attachedAnswers, foundFrom } from './answers.server';
import { keyOf, useKeptAnswers } from './kept-answers';
import type { Chosen } from '~/ui/picker';
import { useAskedOn } from '~/ask/use-asked-on';
import { Time } from '~/ui/time';
import { isEmpty, sameValue } from '../../../core/values/index.ts';
import { ForWhom } from './for-whom';
import { offered } from './offered.server';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.definition.name ?? 'Item'} · Counter · Nessmoor` }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const item = await offered(viewer, params.itemId);
  const { name, summary, form } = item.definition;
  // What was asked before is filled in, as far as the form asks the same.
  const before = numberIn(asked(request, 'again'));
  const line = await basketLineOf(viewer, asked(request, 'basket'));
  const inBasket = line?.itemId === item.id ? line : undefined;
  const again = inBasket ?? (before ? await answersAgain(viewer, before, form) : undefined);
  const ticket = numberIn(asked(request, 'ticket'));
  const t = ticket > 0 ? await ticketFor(viewer, ticket) : undefined;
  const from = t?.acts
    ? { number: t.number, forThem: item.forOthers && t.requesterId !== viewer.id, requester: { id: t.requesterId, name: t.requester } }
    : undefined;
  // About something that is held: what the form asks about is filled in.
  const thing = asked(request, 'holding', 100);
  const about = thing ? await begunAbout(viewer, form, thing) : undefined;
  const holder = about?.whom !== undefined && item.forOthers ? await personNamed(about.whom) : undefined;
  const whom = inBasket?.whom ?? (from?.forThem ? from.requester : holder);
  const begun = await begunFor(viewer, item, { ...again?.answers, ...about?.answers }, whom?.id);
  return {
    id: item.id,
    revision: item.revision,
    /** The thing in the basket that is being changed. */
    inBasket: inBasket?.id,
    whom,
    /** The ticket that it is begun from. */
    from: from?.number,
    forSelf: item.forSelf,
    forOthers: item.forOthers,
    definition: { name, summary, form },
    begun: { answers: begun.answers, names: { ...again?.names, ...begun.names } },
    foreseen: begun.foreseen,
    hours: await hoursFor(form, viewer),
    idempotencyKey: newToken(),
    // What is confidential is not kept by a browser.
    keepAs: item.definition.confidential ? undefined : keyOf(viewer.id, item.id),
  };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const item = await offered(viewer, params.itemId);
  const { data: form, answers, names, wrong } = await attachedAnswers(viewer, request, () => item.definition.form);
  const whom = await foundFrom(viewer, form, 'whom', 'person');
  if (wrong.length > 0) return refused(answersRefused(wrong), { answers, names, whom });
  if (form.get('act') === 'basket') {
    const line = { itemId: item.id, revision: Number(form.get('revision')), answers, forWhom: whom?.id, instead: form.get('line') };
    const put = await putInBasket(viewer, line);
    return put.ok ? redirect('/counter/basket') : refused(put, { answers, names, whom });
  }
  const result = await submitRequest(viewer, {
    itemId: item.id,
    revision: Number(form.get('revision')),
    answers,
    idempotencyKey: form.get('idempotencyKey').slice(0, 100) || newToken(),
    forWhom: whom?.id,
  });
  if (!result.ok) return refused(result, { answers, names, whom });
  const ticket = numberIn(form.get('ticket'));
  // That it was begun from a ticket is kept beside it; the request itself waits for nothing of that.
  if (ticket > 0 && (await linkBegun(viewer, { ticket, request: result.number })).ok) return redirect(`/desk/queue/tickets/${ticket}`);
  return redirect(`/counter/requests/${result.number}?sent`);
}

export default function Ask({ loaderData, actionData }: Route.ComponentProps) {
  const { id, revision, definition, idempotencyKey, begun } = loaderData;
  const { form } = definition;
  const [answers, setAnswers] = useState<Answers>(() => actionData?.answers ?? begun.answers);
  const [names, setNames] = useState<Record<string, string>>(() => actionData?.names ?? begun.names);
  const [whom, setWhom] = useState<Chosen | undefined>(() => actionData?.whom ?? loaderData.whom);
  const kept = useKeptAnswers(loaderData.keepAs, form);
  useEffect(() => kept.sent(false), [actionData]); // eslint-disable-line react-hooks/exhaustive-deps -- only when it was refused
  const foreseen = useForeseen(id, form, answers, whom?.id, loaderData.foreseen);
  // What is looked up from an answer is filled in where nothing else was, and follows the answer it came with.
  const [before, setBefore] = useState(foreseen);
  if (foreseen !== before) {
    setBefore(foreseen);
    setNames({ ...names, ...foreseen.names });
    setAnswers(followed(form, answers, before.begins, foreseen.begins));
  }
  const on = useAskedOn(loaderData.hours);
  const busy = useNavigation().formMethod === 'POST';
  const [corrected, setCorrected] = useState<{ of: unknown; fields: string[] }>({ of: undefined, fields: [] });
  const told = actionData?.refusal.problems ?? [];
  // What was corrected since it was told is not told any more; the server looks at it again.
  const since = corrected.of === actionData ? corrected.fields : [];
  // What is wrong with an answer is told once it is left.
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const wrong = wrongAnswers(form, answers).filter((p) => left.has(p.field));
  const problems = Object.fromEntries(
    [...wrong, ...foreseen.taken, ...brokenRules(form, answers, on, true), ...told.filter((p) => !since.includes(p.field))].map((p) => [
      p.field,
      p.sentence,
    ]),
  );
  const body = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (actionData?.refusal.problems?.length) body.current?.querySelector<HTMLElement>('[aria-invalid="true"]')?.focus();
  }, [actionData]);
  const missing: { id: string; label: string }[] = [
    ...(loaderData.forOthers && !loaderData.forSelf && !whom ? [{ id: 'for-whom', label: 'For whom' }] : []),
    ...missingFields(form, answers),
  ];
  return (
    <div ref={body} className="max-w-4xl">
      <h1 className="sticky top-0 z-10 -mx-1 bg-sheet px-1 py-1 font-serif text-2xl">{definition.name}</h1>
      <p className="mb-6 text-faint">{definition.summary}</p>
      <Refused sentence={told.length > 0 && Object.keys(problems).length === 0 ? undefined : actionData?.refusal.sentence} />
      {kept.offered && (
        <div role="status" className="mb-5 flex flex-wrap items-center gap-3 border-l-3 border-sea bg-sea-wash px-3 py-2">
          <span>
            You began this <Time at={kept.offered.at} relative /> and did not send it.
          </span>
          <Button
            onClick={() => {
              setAnswers({ ...answers, ...kept.offered?.answers });
              setNames({ ...names, ...kept.offered?.names });
              kept.settle(false);
            }}
          >
            Go on with it
          </Button>
          <Button weight="quiet" onClick={() => kept.settle(true)}>
            Forget it
          </Button>
        </div>
      )}
      <Form
        onSubmit={() => kept.sent(true)}
        method="post"
        encType={formEncoding(form.fields)}
        noValidate
        className="grid gap-x-8 gap-y-6 lg:grid-cols-[minmax(0,1fr)_280px]"
      >
        <div>
          {loaderData.inBasket && <input type="hidden" name="line" value={loaderData.inBasket} />}
          {loaderData.from !== undefined && (
            <p className="mb-4 text-faint">
              <input type="hidden" name="ticket" value={loaderData.from} />
              Begun from <span className="numbers">T-{loaderData.from}</span>; once it is sent you are back there.
            </p>
          )}
          <input type="hidden" name="revision" value={revision} />
          <input type="hidden" name="idempotencyKey" value={idempotencyKey} />
          {loaderData.forOthers && (
            <ForWhom
              forSelf={loaderData.forSelf}
              chosen={whom}
              problem={problems['for-whom']}
              onChoose={(next) => {
                setWhom(next);
                setCorrected((c) => ({ of: actionData, fields: c.of === actionData ? [...c.fields, 'for-whom'] : ['for-whom'] }));
              }}
            />
          )}
          <AskedFor value={whom?.id}>
            <FormFields
              form={form}
              answers={answers}
              names={names}
              problems={problems}
              anchored
              onLeave={(field) => left.has(field) || setLeft(new Set([...left, field]))}
              onChange={(field, value, chosen) => {
                const [next, called] = [{ ...answers, [field]: value }, chosen ? { ...names, [chosen.id]: chosen.name } : names];
                setAnswers(next);
                kept.keep(next, called);
                setCorrected((c) => ({ of: actionData, fields: c.of === actionData ? [...c.fields, field] : [field] }));
                setNames(called);
              }}
            />
          </AskedFor>
        </div>
        <Foreseen agreed={foreseen.agreed} price={foreseen.price} />
        <div className="flex flex-wrap items-center gap-x-4 gap-y-2 border-t pt-4 lg:col-start-1">
          {!loaderData.inBasket && (
            <Button type="submit" weight="main" disabled={busy}>
              {busy ? 'Sending …' : 'Send request'}
            </Button>
          )}
          <Button type="submit" name="act" value="basket" weight={loaderData.inBasket ? 'main' : 'plain'} disabled={busy}>
            {loaderData.inBasket ? 'Keep it in the basket' : 'Put into the basket'}
          </Button>
          <p className="text-sm text-faint" aria-live="polite">
            {missing.length > 0 ? 'Still missing: ' : 'Everything is filled in.'}
            {missing.map((f, i) => (
              <Fragment key={f.id}>
                {i > 0 && ', '}
                <a href={`#field-${f.id}`} className="text-sea underline underline-offset-4" onClick={() => goToField(f.id)}>
                  {f.label}
                </a>
              </Fragment>
            ))}
          </p>
        </div>
      </Form>
    </div>
  );
}

/** Answers with what is looked up now in place of what was looked up before, and where there was nothing. */
function followed(form: FormDefinition, answers: Answers, before: Answers, now: Answers): Answers {
  const next = { ...answers };
  for (const f of form.fields) {
    const found = now[f.id];
    if (found === undefined || sameValue(found, before[f.id])) continue;
    if (f.held || isEmpty(answers[f.id]) || sameValue(answers[f.id], before[f.id])) next[f.id] = found;
  }
  return next;
}

/** The address leads to its place; the keyboard goes there as well. */
function goToField(id: string): void {
  const inside = document.getElementById(`field-${id}`)?.querySelector<HTMLElement>('input:not([type=hidden]), textarea, button, [tabindex="0"]');
  setTimeout(() => inside?.focus());
}

/** What the answers so far lead to; asked anew when one changes. */
function useForeseen(itemId: string, form: FormDefinition, answers: Answers, whom: string | undefined, first: Foreseeing): Foreseeing {
  const { load, data: fresh } = useFetcher<typeof foreseenLoader>();
  const loadRef = useRef(load);
  const asked = useRef(false);
  // What must be the only one is sent whole; of other texts only whether there is one, and how it begins.
  const whole = new Set(form.fields.flatMap((f) => (f.unique ? [f.id] : [])));
  const key = JSON.stringify(
    Object.fromEntries(Object.entries(answers).map(([k, v]) => [k, typeof v === 'string' && !whole.has(k) ? v.slice(0, 60) : v])),
  );
  useEffect(() => {
    if (!asked.current) {
      asked.current = true;
      if (key === '{}' && !whom) return;
    }
    const wait = setTimeout(
      () => void loadRef.current(`/counter/foreseen/${itemId}?answers=${encodeURIComponent(key)}${whom ? `&whom=${whom}` : ''}`),
      150,
    );
    return () => clearTimeout(wait);
  }, [itemId, key, whom]);
  return fresh ?? first;
}
type Foreseeing = Awaited<ReturnType<typeof foreseenLoader>>;
