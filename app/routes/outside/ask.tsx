import { hoursFor } from '../../../server/hours/asked-on.ts';
import { useEffect, useRef, useState } from 'react';
import { data, Form, useNavigation } from 'react-router';
import { begunAnswers, brokenRules, missingFields, nothingKnown, type Answers, type Form as FormDefinition } from '../../../core/forms/index.ts';
import { aboutYou, askFromOutside, offeredBy } from '../../../server/outside/ask.ts';
import { Button } from '~/ui/button';
import { FormFields } from '~/ui/form-fields';
import { useAskedOn } from '~/ask/use-asked-on';
import { Refused } from '~/ui/problem';
import { StateMark } from '~/ui/state-mark';
import { answersFrom } from '../counter/answers.server';
import { posted, refused, visitOf } from '../session.server';
import type { Route } from './+types/ask';
import { linked } from './link.server';
import { LinkOver, OutsidePage } from './page';

export { TroubleOnPage as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [
  { title: `${loaderData && 'name' in loaderData ? loaderData.name : 'A request'} · Nessmoor` },
  { name: 'robots', content: 'noindex' },
];

const nobody = { roles: [] };

export async function loader({ context, params }: Route.LoaderArgs) {
  const offered = await linked(params.token, visitOf(context).address, offeredBy);
  if (!offered) return data({ over: true as const }, { status: 404 });
  const { name, summary } = offered.definition;
  const { fields, rules, sections } = offered.definition.form;
  const form: FormDefinition = { fields, rules, sections };
  return { name, summary, form, you: aboutYou, begun: begunAnswers(form, nothingKnown, {}), hours: await hoursFor(form, { zone: 'UTC' }) };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const { address } = visitOf(context);
  const offered = await linked(params.token, address, offeredBy);
  const form = await posted(request, 200_000);
  const [{ answers: you }, { answers }] = await Promise.all([
    answersFrom(nobody, form, aboutYou),
    answersFrom(nobody, form, offered?.definition.form ?? { fields: [] }),
  ]);
  const asked = await askFromOutside({ token: params.token, address, you, answers, trap: form.get('company') });
  return asked.ok ? { mail: asked.mail } : refused(asked, { you, answers });
}

export default function AskFromOutside({ loaderData, actionData }: Route.ComponentProps) {
  if ('over' in loaderData) return <LinkOver>It was closed, made anew, or cut short on its way. Ask whoever gave it to you for another.</LinkOver>;
  if (actionData && 'mail' in actionData)
    return (
      <OutsidePage>
        <div role="status">
          <h1 className="flex items-center gap-3 font-serif text-2xl">
            <StateMark kind="half" size={20} /> Look into your mail
          </h1>
          <p className="my-4">
            We wrote to <span className="font-medium break-words">{actionData.mail}</span>. Open the link in that mail within 24 hours and send your
            request from there; until then nothing is asked.
          </p>
          <p className="text-faint">No mail after some minutes? Look among what was sorted out, or fill the form in again.</p>
        </div>
      </OutsidePage>
    );
  return <Filling {...loaderData} refusal={actionData} />;
}

type Offered = Extract<Route.ComponentProps['loaderData'], { name: string }>;
type Failed = Extract<NonNullable<Route.ComponentProps['actionData']>, { you: Answers }>;

function Filling({ name, summary, form, you, begun, hours, refusal: failed }: Offered & { refusal: Failed | undefined }) {
  const [answers, setAnswers] = useState<Answers>(failed?.answers ?? begun);
  const [asker, setAsker] = useState<Answers>(failed?.you ?? {});
  const [corrected, setCorrected] = useState<{ of: unknown; fields: string[] }>({ of: undefined, fields: [] });
  const told = failed?.refusal.problems ?? [];
  const since = corrected.of === failed ? corrected.fields : [];
  const on = useAskedOn(hours);
  const problems = Object.fromEntries(
    [...brokenRules(form, answers, on, true), ...told.filter((p) => !since.includes(p.field))].map((p) => [p.field, p.sentence]),
  );
  const busy = useNavigation().formMethod === 'POST';
  const body = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (failed?.refusal.problems?.length) body.current?.querySelector<HTMLElement>('[aria-invalid="true"]')?.focus();
  }, [failed]);
  const missing = [...missingFields(you, asker), ...missingFields(form, answers)].map((f) => f.label);
  const changed = (field: string) => setCorrected((c) => ({ of: failed, fields: c.of === failed ? [...c.fields, field] : [field] }));
  return (
    <OutsidePage>
      <div ref={body}>
        <h1 className="font-serif text-2xl">{name}</h1>
        <p className="mb-6 text-faint">{summary}</p>
        <Refused sentence={told.length > 0 ? undefined : failed?.refusal.sentence} />
        <Form method="post" noValidate className="space-y-6">
          <section aria-label="About you" className="border-b pb-6">
            <FormFields
              form={you}
              answers={asker}
              names={{}}
              problems={problems}
              onChange={(field, value) => {
                setAsker((a) => ({ ...a, [field]: value }));
                changed(field);
              }}
            />
          </section>
          <FormFields
            form={form}
            answers={answers}
            names={{}}
            problems={problems}
            onChange={(field, value) => {
              setAnswers((a) => ({ ...a, [field]: value }));
              changed(field);
            }}
          />
          {/* Nobody sees it: whoever fills it in is no person. */}
          <div aria-hidden className="sr-only">
            <label>
              Leave this empty
              <input name="company" tabIndex={-1} autoComplete="off" />
            </label>
          </div>
          <div className="border-t pt-4">
            <Button type="submit" weight="main" disabled={busy}>
              {busy ? 'Sending …' : 'Send, and confirm by mail'}
            </Button>
            <p className="mt-2 text-sm text-faint" aria-live="polite">
              {missing.length > 0 ? `Still missing: ${missing.join(', ')}` : 'Everything is filled in.'}
            </p>
          </div>
        </Form>
      </div>
    </OutsidePage>
  );
}
