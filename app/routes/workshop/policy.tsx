import { useState } from 'react';
import { Form, Link, useNavigation } from 'react-router';
import { conditionWords, type Naming } from '../../../core/conditions/index.ts';
import type { Place } from '../../../core/plans/index.ts';
import { checkPolicy, Policy as PolicyModel, type PolicyApprovers, type PolicyLine } from '../../../core/policies/index.ts';
import { idFrom, typeWords, type ValueType } from '../../../core/values/index.ts';
import { changePolicy } from '../../../server/policies/commands.ts';
import type { Refusal } from '../../../server/refusal.ts';
import { policyOf } from '../../../server/policies/queries.ts';
import { ConditionEditor } from '~/sheet/condition-editor';
import { NamedPeople } from '~/sheet/named-people';
import { RuleChoice } from '~/sheet/rule-choice';
import { Button } from '~/ui/button';
import { ListEditor } from '~/ui/list-editor';
import { Labelled } from '~/ui/field';
import { freshKey } from '~/ui/fresh-key';
import { Frame } from '~/ui/frame';
import { StateMark } from '~/ui/state-mark';
import { Line } from '~/ui/line';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { Time } from '~/ui/time';
import { NumberField } from '~/ui/number-field';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { documentIn, orNotFound, isId, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/policy';
import { Select } from '~/ui/select';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.definition.name ?? 'Policy'} · Workshop · Nessmoor` }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  return orNotFound(isId(params.id) ? await policyOf(signedIn(context, request), params.id) : undefined, 'This policy');
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  orNotFound(isId(params.id) ? true : undefined, 'This policy');
  const definition = documentIn(form, 'definition');
  const result = await changePolicy(viewer, { id: params.id, version: Number(form.get('version')), definition, note: form.get('note') });
  return result.ok ? null : refused(result, {});
}

export default function Policy({ loaderData, actionData }: Route.ComponentProps) {
  return <Editor key={`${loaderData.id} ${loaderData.version}`} loaded={loaderData} refusal={actionData?.refusal} />;
}

const types: ValueType[] = ['number', 'money', 'choice', 'text', 'boolean', 'date', 'team', 'location'];

function Editor({ loaded, refusal }: { loaded: Route.ComponentProps['loaderData']; refusal: Refusal | undefined }) {
  const [policy, setPolicy] = useState<PolicyModel>(loaded.definition);
  const [names, setNames] = useState(loaded.names);
  const post = usePost(PolicyModel, { refusal, document: policy });
  const busy = useNavigation().formMethod === 'POST';
  const changed = JSON.stringify(policy) !== JSON.stringify(loaded.definition);
  const places: Place[] = policy.inputs.map((i) => ({
    ref: `input.${i.name}`,
    label: i.label,
    type: i.type,
    always: false,
    source: 'Given by the gate',
    ...(i.options && { options: i.options }),
  }));
  const naming: Naming = {
    place: (ref) => places.find((p) => p.ref === ref)?.label ?? 'an input that is gone',
    value: (v, ref) => places.find((p) => p.ref === ref)?.options?.find((o) => o.value === v)?.label ?? String(v),
  };
  const setLines = (lines: PolicyLine[]) => setPolicy({ ...policy, lines });
  const setInputs = (inputs: PolicyModel['inputs']) => setPolicy({ ...policy, inputs });
  return (
    <Frame
      marginLabel="Workshop"
      margin={<WorkshopMargin at="policies" />}
      slip={
        <aside aria-label="Use and history" className="border-t bg-paper px-5 py-5 lg:border-t-0 lg:border-l">
          <h2 className="mb-2 font-medium">Followed by</h2>
          {loaded.usedBy.length === 0 && <p className="text-faint">No item yet. Choose it as the approvers of a gate.</p>}
          <ul>
            {loaded.usedBy.map((i) => (
              <li key={i.id} className="border-b py-1.5">
                <Link to={`/workshop/items/${i.id}/plan`} className="text-sea underline underline-offset-4">
                  {i.name}
                </Link>
              </li>
            ))}
          </ul>
          <h2 className="mt-6 mb-2 font-medium">Versions</h2>
          <ol>
            {loaded.versions.map((v) => (
              <li key={v.version} className="border-b py-1.5">
                <span className="font-medium">Version {v.version}</span>
                <span className="block text-sm text-faint">
                  <Time at={v.at} /> by {v.by}
                </span>
                {v.note && <span className="block">{v.note}</span>}
                {v.version !== loaded.version && (
                  <button type="button" className="text-sm text-sea underline underline-offset-4" onClick={() => setPolicy(v.definition)}>
                    Put version {v.version} into the form
                  </button>
                )}
              </li>
            ))}
          </ol>
        </aside>
      }
    >
      <h1 className="font-serif text-2xl">{loaded.definition.name}</h1>
      <div className="mt-3">
        <Refused sentence={post.sentence} />
      </div>
      <Form method="post" {...post.form} className="max-w-3xl space-y-6">
        <input type="hidden" name="version" value={loaded.version} />
        <input type="hidden" name="definition" value={JSON.stringify(policy)} />
        <div className="grid gap-4 sm:grid-cols-2">
          <Labelled label="Name" required problem={post.problem('name')}>
            {(ids) => (
              <input
                {...ids}
                name="name"
                className="input"
                maxLength={80}
                value={policy.name}
                onChange={(e) => setPolicy({ ...policy, name: e.target.value })}
              />
            )}
          </Labelled>
          <Labelled label="What it is for">
            {(ids) => (
              <input
                {...ids}
                className="input"
                maxLength={300}
                value={policy.purpose}
                onChange={(e) => setPolicy({ ...policy, purpose: e.target.value })}
              />
            )}
          </Labelled>
        </div>
        <fieldset>
          <legend className="mb-1 font-medium">What a gate gives it</legend>
          <ListEditor
            rows={policy.inputs}
            keyOf={(input) => input.name}
            nameOf={(input) => `“${input.label}”`}
            addLabel="Add an input"
            make={() => ({ name: freshKey('input'), label: '', type: 'number' as const })}
            onChange={setInputs}
          >
            {({ row: input, at, set }) => (
              <div className="grid grid-cols-[1fr_140px_1fr] gap-2">
                <Line
                  name={`inputs[${at}].label`}
                  problem={post.problem(`inputs[${at}].label`)}
                  label={`Input ${at + 1}: label`}
                  maxLength={80}
                  value={input.label}
                  onChange={(e) => set({ ...input, label: e.target.value })}
                />
                <Select aria-label={`Input ${at + 1}: type`} value={input.type} onValue={(v) => set({ ...input, type: v as ValueType })}>
                  {types.map((t) => (
                    <option key={t} value={t}>
                      {typeWords[t]}
                    </option>
                  ))}
                </Select>
                {input.type === 'choice' && (
                  <input
                    className="input"
                    aria-label={`Input ${at + 1}: choices, with commas between`}
                    placeholder="choices, with commas between"
                    defaultValue={(input.options ?? []).map((o) => o.label).join(', ')}
                    onBlur={(e) => {
                      const labels = e.target.value
                        .split(',')
                        .map((l) => l.trim())
                        .filter(Boolean);
                      set({ ...input, options: labels.map((label) => ({ label, value: idFrom(label, new Set()) })) });
                    }}
                  />
                )}
              </div>
            )}
          </ListEditor>
        </fieldset>
        <section aria-label="Lines">
          <h2 className="font-medium">Lines</h2>
          <p className="mb-2 text-sm text-faint">Read from the top; the first that holds is followed.</p>
          <ListEditor
            rows={policy.lines}
            keyOf={(line) => line.id}
            nameOf={(_, at) => `line ${at + 1}`}
            addLabel="Add a line"
            make={(): PolicyLine => ({ id: freshKey('line'), approvers: { from: 'nobody' }, rule: { rule: 'any' } })}
            onChange={setLines}
            ruled
            movable
          >
            {({ row: line, at, set }) => (
              <>
                <p className="mb-1 flex items-center gap-2">
                  <span className="numbers text-faint">{at + 1}</span>
                  <span className="font-medium">{line.when ? `When ${conditionWords(line.when, naming)}` : 'Otherwise, always'}</span>
                </p>
                <div className="grid gap-4 sm:grid-cols-2">
                  <ConditionEditor
                    label={`Line ${at + 1}`}
                    always="Always"
                    places={places}
                    value={line.when}
                    onChange={(when) => set({ ...line, when })}
                  />
                  <Who
                    n={at + 1}
                    line={line}
                    teams={loaded.teams}
                    names={names}
                    learn={(id, name) => setNames((was) => ({ ...was, [id]: name }))}
                    onChange={(next) => set(next)}
                  />
                </div>
              </>
            )}
          </ListEditor>
        </section>
        <ul className="space-y-1">
          {checkPolicy(policy).map((f) => (
            <li key={f} className="flex gap-2">
              <StateMark kind="lapsed" /> {f}
            </li>
          ))}
        </ul>
        <div className="flex flex-wrap items-end gap-3 border-t pt-4">
          <div className="grow">
            <Labelled label="What changed and why">{(ids) => <input {...ids} name="note" className="input" maxLength={500} />}</Labelled>
          </div>
          <Button type="submit" weight="main" disabled={busy || !changed}>
            Change it everywhere, from the next gate on
          </Button>
        </div>
      </Form>
    </Frame>
  );
}

function Who({
  n,
  line,
  teams,
  names,
  learn,
  onChange,
}: {
  n: number;
  line: PolicyLine;
  teams: { id: string; name: string }[];
  names: Record<string, string>;
  learn: (id: string, name: string) => void;
  onChange: (line: PolicyLine) => void;
}) {
  const a = line.approvers;
  const set = (approvers: PolicyApprovers) => onChange({ ...line, approvers });
  const people = a.from === 'people' ? a.people : [];
  return (
    <div className="space-y-1.5">
      <Select
        aria-label={`Line ${n}: who agrees`}
        value={a.from}
        onValue={(v) => {
          const from = v;
          if (from === 'team' && teams[0]) set({ from, team: teams[0].id });
          else if (from === 'chain') set({ from, levels: 1 });
          else if (from === 'nobody') set({ from });
        }}
      >
        <option value="nobody">Nobody need agree</option>
        <option value="chain">The managers above the requester</option>
        <option value="team">A team</option>
        {a.from === 'people' && <option value="people">Named people</option>}
      </Select>
      {a.from === 'chain' && (
        <NumberField
          before="Levels up"
          min={1}
          max={10}
          value={a.levels}
          onValue={(levels) => levels !== undefined && set({ from: 'chain', levels })}
        />
      )}
      {a.from === 'team' && (
        <Select aria-label={`Line ${n}: which team`} value={a.team} onValue={(v) => set({ from: 'team', team: v })}>
          {teams.map((t) => (
            <option key={t.id} value={t.id}>
              {t.name}
            </option>
          ))}
        </Select>
      )}
      <p aria-hidden className="text-sm text-faint">
        {a.from === 'people' ? 'By name' : 'Or somebody by name'}
      </p>
      <NamedPeople
        people={people}
        name={(id) => names[id] ?? 'Somebody'}
        addLabel={`Line ${n}: add a named person`}
        learn={learn}
        onChange={(left) => set(left.length ? { from: 'people', people: left } : { from: 'nobody' })}
      />
      {(a.from === 'team' || people.length > 1) && (
        <RuleChoice
          aria-label={`Line ${n}: rule`}
          countLabel={`Line ${n}: how many must approve`}
          rule={line.rule}
          of={a.from === 'people' ? people.length : 50}
          onChange={(rule) => onChange({ ...line, rule })}
        />
      )}
    </div>
  );
}
