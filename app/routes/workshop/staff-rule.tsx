import { useState } from 'react';
import { Form, Link, redirect, useNavigation } from 'react-router';
import { staffHappenings, type StaffFact, type StaffRule as Rule } from '../../../core/staff/index.ts';
import { dropStaffRule, keepStaffRule } from '../../../server/staff/commands.ts';
import { staffRuleFor } from '../../../server/staff/queries.ts';
import { RuleForm } from '~/staff/rule-form';
import { Button } from '~/ui/button';
import { Combobox } from '~/ui/combobox';
import { Labelled } from '~/ui/field';
import { Frame } from '~/ui/frame';
import { useOutcome } from '~/ui/outcome';
import { Refused } from '~/ui/problem';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { foundFrom } from '../counter/answers.server';
import { asked, orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/staff-rule';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [
  { title: `${loaderData ? staffHappenings[loaderData.kind] : 'Staff feed'} · Workshop · Nessmoor` },
];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  return orNotFound(await staffRuleFor(signedIn(context, request), params.kind, asked(request, 'item')), 'This rule');
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const version = Number(form.get('version'));
  if (form.get('act') === 'drop') {
    const dropped = await dropStaffRule(viewer, { kind: params.kind, version });
    return dropped.ok ? redirect('/workshop/staff') : refused(dropped, { typed: undefined });
  }
  const { fields } = orNotFound(await staffRuleFor(viewer, params.kind, form.get('item')), 'This rule');
  const asks = await foundFrom(viewer, form, 'asks', 'person');
  const answers = fields.map(({ id }): Rule['answers'][number] => {
    const from = form.get(`from.${id}`);
    const always = from.startsWith('=');
    return {
      field: id,
      from: always || from === '' ? null : (from as StaffFact),
      words: always ? from.slice(1) : from === '' ? form.get(`words.${id}`) : '',
    };
  });
  const rule = { item: form.get('item'), asks: asks?.id ?? '', answers };
  const kept = await keepStaffRule(viewer, { kind: params.kind, version, rule });
  return kept.ok ? redirect('/workshop/staff') : refused(kept, { typed: { answers, asks } });
}

export default function StaffRule({ loaderData: { kind, rule, items, chosen, fields, answers }, ...props }: Route.ComponentProps) {
  const outcome = useOutcome(props.actionData);
  const [item, setItem] = useState(chosen ?? '');
  const busy = useNavigation().state !== 'idle';
  const typed = outcome?.typed;
  return (
    <Frame marginLabel="Workshop" margin={<WorkshopMargin at="staff" />}>
      <Link to="/workshop/staff" className="text-sea underline underline-offset-4">
        Staff feed
      </Link>
      <h1 className="mt-2 mb-4 font-serif text-2xl">{staffHappenings[kind]}</h1>
      <Form method="get" className="mb-6 flex max-w-3xl flex-wrap items-end gap-3">
        <div className="min-w-72 grow">
          <Labelled label="Then this item is asked for">
            {(ids) => (
              <Combobox {...ids} name="item" value={item} onValue={setItem}>
                <option value="">Choose an item</option>
                {items.map((i) => (
                  <option key={i.id} value={i.id}>
                    {i.name}
                  </option>
                ))}
              </Combobox>
            )}
          </Labelled>
        </div>
        <Button type="submit" disabled={busy}>
          Show what its form asks
        </Button>
      </Form>
      {chosen === undefined ? (
        <Refused sentence={outcome?.refusal.sentence} />
      ) : (
        <RuleForm
          key={`${chosen} ${rule?.version ?? 0}`}
          item={chosen}
          fields={fields}
          answers={typed?.answers ?? answers}
          asks={typed ? typed.asks : rule && { id: rule.asksId, name: rule.asks }}
          version={rule?.version ?? 0}
          off={rule?.off ?? false}
          refusal={outcome?.refusal}
        />
      )}
    </Frame>
  );
}
