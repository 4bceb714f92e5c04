import { useEffect, useRef, useState } from 'react';
import { Form, redirect, useFetcher, useNavigation } from 'react-router';
import { initialAnswers, missingFields, type Answers } from '../../../core/forms/index.ts';
import { submitRequest } from '../../../server/requests/submit.ts';
import { newToken } from '../../../server/auth/token.ts';
import { agreementSentences } from '../../../server/requests/agreements.ts';
import { Button } from '~/ui/button';
import { FormFields } from '~/ui/form-fields';
import { Refused } from '~/ui/problem';
import { found, isId, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/ask';
import type { loader as agreementsLoader } from './agreements';
import { answersFrom } from './answers.server';
import { offeredItem } from '../../../server/items/offered.ts';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.definition.name ?? 'Item'} · Counter · Nessmoor` }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const item = found(isId(params.itemId) ? await offeredItem(params.itemId) : undefined, 'This item');
  const { name, summary, form } = item.definition;
  return {
    id: item.id,
    revision: item.revision,
    definition: { name, summary, form },
    agreed: await agreementSentences(viewer, item.definition, initialAnswers(form)),
    onceKey: newToken(),
  };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const item = found(isId(params.itemId) ? await offeredItem(params.itemId) : undefined, 'This item');
  const form = await posted(request);
  const { answers, names } = await answersFrom(form, item.definition.form);
  const result = await submitRequest(viewer, {
    itemId: item.id,
    revision: Number(form.get('revision')),
    answers,
    onceKey: form.get('onceKey').slice(0, 100) || newToken(),
  });
  if (!result.ok) return refused(result, { answers, names });
  return redirect(`/counter/requests/${result.number}?sent`);
}

export default function Ask({ loaderData, actionData }: Route.ComponentProps) {
  const { id, revision, definition, onceKey } = loaderData;
  const { form } = definition;
  const [answers, setAnswers] = useState<Answers>(() => actionData?.answers ?? initialAnswers(form));
  const [names, setNames] = useState<Record<string, string>>(() => actionData?.names ?? {});
  const agreed = useAgreed(id, answers, loaderData.agreed);
  const busy = useNavigation().formMethod === 'POST';
  const problems = Object.fromEntries((actionData?.refusal.problems ?? []).map((p) => [p.field, p.sentence]));
  const missing = missingFields(form, answers);
  return (
    <div className="grid max-w-4xl gap-8 lg:grid-cols-[minmax(0,1fr)_280px]">
      <div>
        <h1 className="font-serif text-2xl">{definition.name}</h1>
        <p className="mt-1 mb-6 text-faint">{definition.summary}</p>
        <Refused sentence={actionData?.refusal.sentence} />
        <Form method="post" noValidate>
          <input type="hidden" name="revision" value={revision} />
          <input type="hidden" name="onceKey" value={onceKey} />
          <FormFields
            form={form}
            answers={answers}
            names={names}
            problems={problems}
            onChange={(field, value, chosen) => {
              setAnswers((a) => ({ ...a, [field]: value }));
              if (chosen) setNames((n) => ({ ...n, [chosen.id]: chosen.name }));
            }}
          />
          <div className="mt-6 flex flex-wrap items-center gap-x-4 gap-y-2 border-t pt-4">
            <Button type="submit" weight="main" disabled={busy}>
              {busy ? 'Sending …' : 'Send request'}
            </Button>
            <p className="text-sm text-faint" aria-live="polite">
              {missing.length > 0 ? `Still missing: ${missing.map((f) => f.label).join(', ')}` : 'Everything is filled in.'}
            </p>
          </div>
        </Form>
      </div>
      <aside aria-label="What must be agreed" className="self-start border-t-2 border-ochre pt-3">
        <h2 className="font-medium text-ochre">What must be agreed</h2>
        <div aria-live="polite" className="mt-2 space-y-2">
          {agreed.length === 0 ? <p>Nobody has to agree; it is done as soon as you send it.</p> : agreed.map((s) => <p key={s}>{s}</p>)}
        </div>
      </aside>
    </div>
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
