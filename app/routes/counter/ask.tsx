import { useEffect, useRef, useState } from 'react';
import { Form, redirect, useFetcher, useNavigation } from 'react-router';
import { initialAnswers, missingFields, type Answers } from '../../../core/forms/index.ts';
import { submitRequest } from '../../../server/requests/submit.ts';
import { newToken } from '../../../server/auth/token.ts';
import { agreementSentences } from '../../../server/requests/agreements.ts';
import { Button } from '~/ui/button';
import { formEncoding, FormFields } from '~/ui/form-fields';
import { Refused } from '~/ui/problem';
import { orNotFound, isId, refused, signedIn } from '../session.server';
import type { Route } from './+types/ask';
import type { loader as agreementsLoader } from './agreements';
import { answersRefused } from '../../../server/refusal.ts';
import { attachedAnswers } from './answers.server';
import { offeredItem } from '../../../server/items/offered.ts';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.definition.name ?? 'Item'} · Counter · Nessmoor` }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const item = orNotFound(isId(params.itemId) ? await offeredItem(params.itemId) : undefined, 'This item');
  const { name, summary, form } = item.definition;
  return {
    id: item.id,
    revision: item.revision,
    definition: { name, summary, form },
    agreed: await agreementSentences(viewer, item.definition, initialAnswers(form)),
    idempotencyKey: newToken(),
  };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const item = orNotFound(isId(params.itemId) ? await offeredItem(params.itemId) : undefined, 'This item');
  const { data: form, answers, names, wrong } = await attachedAnswers(viewer, request, () => item.definition.form);
  if (wrong.length > 0) return refused(answersRefused(wrong), { answers, names });
  const result = await submitRequest(viewer, {
    itemId: item.id,
    revision: Number(form.get('revision')),
    answers,
    idempotencyKey: form.get('idempotencyKey').slice(0, 100) || newToken(),
  });
  if (!result.ok) return refused(result, { answers, names });
  return redirect(`/counter/requests/${result.number}?sent`);
}

export default function Ask({ loaderData, actionData }: Route.ComponentProps) {
  const { id, revision, definition, idempotencyKey } = loaderData;
  const { form } = definition;
  const [answers, setAnswers] = useState<Answers>(() => actionData?.answers ?? initialAnswers(form));
  const [names, setNames] = useState<Record<string, string>>(() => actionData?.names ?? {});
  const agreed = useAgreed(id, answers, loaderData.agreed);
  const busy = useNavigation().formMethod === 'POST';
  const [corrected, setCorrected] = useState<{ of: unknown; fields: string[] }>({ of: undefined, fields: [] });
  const told = actionData?.refusal.problems ?? [];
  // What was corrected since it was told is not told any more; the server looks at it again.
  const since = corrected.of === actionData ? corrected.fields : [];
  const problems = Object.fromEntries(told.filter((p) => !since.includes(p.field)).map((p) => [p.field, p.sentence]));
  const body = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (actionData?.refusal.problems?.length) body.current?.querySelector<HTMLElement>('[aria-invalid="true"]')?.focus();
  }, [actionData]);
  const missing = missingFields(form, answers);
  return (
    <div ref={body} className="max-w-4xl">
      <h1 className="sticky top-0 z-10 -mx-1 bg-sheet px-1 py-1 font-serif text-2xl">{definition.name}</h1>
      <p className="mb-6 text-faint">{definition.summary}</p>
      <Refused sentence={told.length > 0 && Object.keys(problems).length === 0 ? undefined : actionData?.refusal.sentence} />
      <Form method="post" encType={formEncoding(form.fields)} noValidate className="grid gap-x-8 gap-y-6 lg:grid-cols-[minmax(0,1fr)_280px]">
        <div>
          <input type="hidden" name="revision" value={revision} />
          <input type="hidden" name="idempotencyKey" value={idempotencyKey} />
          <FormFields
            form={form}
            answers={answers}
            names={names}
            problems={problems}
            onChange={(field, value, chosen) => {
              setAnswers((a) => ({ ...a, [field]: value }));
              setCorrected((c) => ({ of: actionData, fields: c.of === actionData ? [...c.fields, field] : [field] }));
              if (chosen) setNames((n) => ({ ...n, [chosen.id]: chosen.name }));
            }}
          />
        </div>
        <Agreed sentences={agreed} />
        <div className="flex flex-wrap items-center gap-x-4 gap-y-2 border-t pt-4 lg:col-start-1">
          <Button type="submit" weight="main" disabled={busy}>
            {busy ? 'Sending …' : 'Send request'}
          </Button>
          <p className="text-sm text-faint" aria-live="polite">
            {missing.length > 0 ? `Still missing: ${missing.map((f) => f.label).join(', ')}` : 'Everything is filled in.'}
          </p>
        </div>
      </Form>
    </div>
  );
}

/** What the present answers ask others to agree to; beside the form, and above its end where the window is narrow: before it is sent. */
function Agreed({ sentences }: { sentences: string[] }) {
  return (
    <aside aria-label="What must be agreed" className="self-start border-t-2 border-ochre pt-3 lg:sticky lg:top-4">
      <h2 className="font-medium text-ochre">What must be agreed</h2>
      <div aria-live="polite" className="mt-2 space-y-2">
        {sentences.length === 0 ? <p>Nobody has to agree; it is done as soon as you send it.</p> : sentences.map((s) => <p key={s}>{s}</p>)}
      </div>
    </aside>
  );
}

/** The sentences for the answers so far; asked anew when an answer changes. */
function useAgreed(itemId: string, answers: Answers, first: string[]): string[] {
  const { load, data: fresh } = useFetcher<typeof agreementsLoader>();
  const loadRef = useRef(load);
  const asked = useRef(false);
  const key = JSON.stringify(Object.fromEntries(Object.entries(answers).map(([k, v]) => [k, typeof v === 'string' ? v.slice(0, 60) : v])));
  useEffect(() => {
    if (!asked.current) {
      asked.current = true;
      if (key === '{}') return;
    }
    const wait = setTimeout(() => void loadRef.current(`/counter/agreements/${itemId}?answers=${encodeURIComponent(key)}`), 150);
    return () => clearTimeout(wait);
  }, [itemId, key]);
  return fresh?.agreed ?? first;
}
