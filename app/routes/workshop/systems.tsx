import { useState } from 'react';
import { Form, Link, redirect, useNavigation, useSearchParams } from 'react-router';
import type { WebAction, WebSystem } from '../../../core/systems/index.ts';
import { rowType, typeWords, ValueType } from '../../../core/values/index.ts';
import { has } from '../../../server/auth/viewer.ts';
import { setSystemOwners } from '../../../server/consents/commands.ts';
import { keepWebSystem } from '../../../server/systems/commands.ts';
import { NamedPeople } from '~/sheet/named-people';
import { Button, ButtonLink } from '~/ui/button';
import { ListEditor } from '~/ui/list-editor';
import { Labelled } from '~/ui/field';
import { freshKey } from '~/ui/fresh-key';
import { Empty, Frame } from '~/ui/frame';
import { Refused } from '~/ui/problem';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { documentIn, orNotFound, isId, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/systems';
import { systemOwners } from '../../../server/consents/queries.ts';
import { webSystems } from '../../../server/systems/queries.ts';
import { NumberField } from '~/ui/number-field';
import { Select } from '~/ui/select';
import { Checkbox } from '~/ui/checkbox';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Systems · Workshop · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  return {
    systems: orNotFound(await webSystems(viewer), 'The Workshop'),
    mayKeep: has(viewer, 'administrator'),
    designs: has(viewer, 'designer'),
    owners: await systemOwners(),
  };
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  if (form.get('act') === 'owners') {
    const owned = await setSystemOwners(viewer, { system: form.get('system'), people: form.all('owner') });
    return owned.ok ? redirect('/workshop/systems') : refused(owned, {});
  }
  const id = form.get('id');
  const definition = documentIn(form, 'definition');
  const result = await keepWebSystem(viewer, { id: isId(id) ? id : undefined, definition, secret: form.get('secret') });
  return result.ok ? redirect('/workshop/systems') : refused(result, {});
}

/** What a system elsewhere can make something of: rows of our tables and files are told by ids that mean nothing there. */
const spoken = ValueType.options.filter((t) => !['row', 'file'].includes(rowType(t) ?? t));

const blank: WebSystem = { name: '', address: 'https://', ownNetwork: false, timeoutMs: 10_000, actions: [] };

export default function Systems({ loaderData: { systems, mayKeep, designs, owners }, actionData }: Route.ComponentProps) {
  const [search] = useSearchParams();
  const open = systems.find((s) => s.id === search.get('system'));
  const editing = mayKeep && (open !== undefined || search.has('new'));
  return (
    <Frame marginLabel="Workshop" margin={<WorkshopMargin at="systems" designs={designs} />}>
      <div className="mb-4 flex items-start gap-4">
        <div>
          <h1 className="font-serif text-2xl">Systems</h1>
          <p className="max-w-2xl text-faint">
            The directory is built in. Any other service that speaks HTTP and JSON can be registered here; plans then offer its actions. Calls carry
            an Idempotency-Key, so a repeat changes nothing twice.
          </p>
        </div>
        {mayKeep && (
          <ButtonLink to="?new" weight="main" className="ml-auto shrink-0">
            Register a system
          </ButtonLink>
        )}
      </div>
      <Owners system="directory" name="Directory" owners={owners['directory'] ?? []} mayKeep={mayKeep} />
      {systems.length === 0 && !editing && (
        <Empty act={mayKeep && <ButtonLink to="?new">Register a system</ButtonLink>}>
          No system is registered beside the directory. {mayKeep ? '' : 'An administrator can register one.'}
        </Empty>
      )}
      <ul className={systems.length > 0 ? 'max-w-3xl border-t' : 'hidden'}>
        {systems.map((s) => (
          <li key={s.id} className="border-b py-2">
            {mayKeep ? (
              <Link to={`?system=${s.id}`} className="font-serif text-lg hover:text-sea">
                {s.definition.name}
              </Link>
            ) : (
              <span className="font-serif text-lg">{s.definition.name}</span>
            )}
            <span className="block text-sm text-faint">
              {s.definition.address} · {s.definition.actions.map((a) => a.label).join(', ') || 'no actions yet'}
            </span>
            <Owners system={s.id} name={s.definition.name} owners={owners[s.id] ?? []} mayKeep={mayKeep} />
          </li>
        ))}
      </ul>
      {editing && (
        <Editor
          key={open?.id ?? 'new'}
          id={open?.id}
          start={open?.definition ?? blank}
          hasSecret={open?.hasSecret ?? false}
          refusal={actionData?.refusal.sentence}
        />
      )}
    </Frame>
  );
}

/** Who answers for a system: what gives something of it wants the consent of one of them. */
function Owners({ system, name, owners, mayKeep }: { system: string; name: string; owners: { id: string; name: string }[]; mayKeep: boolean }) {
  const [people, setPeople] = useState(owners.map((o) => ({ person: o.id })));
  const [names, setNames] = useState(Object.fromEntries(owners.map((o) => [o.id, o.name])));
  const said = owners.length
    ? `Owners of ${name}: ${owners.map((o) => o.name).join(', ')}`
    : `${name} has no owner yet, so no item that gives something of it can be published.`;
  if (!mayKeep) return <p className="text-sm text-faint">{said}</p>;
  return (
    <details className="my-2 max-w-3xl text-sm">
      <summary className={owners.length ? 'text-faint' : 'text-ochre'}>{said}</summary>
      <Form method="post" className="mt-2 max-w-md space-y-2">
        <input type="hidden" name="act" value="owners" />
        <input type="hidden" name="system" value={system} />
        {people.map((p) => (
          <input key={p.person} type="hidden" name="owner" value={p.person} />
        ))}
        <NamedPeople
          people={people}
          name={(id) => names[id] ?? 'someone'}
          addLabel={`Name an owner of ${name}`}
          learn={(id, n) => setNames((all) => ({ ...all, [id]: n }))}
          onChange={setPeople}
        />
        <Button type="submit">Save the owners of {name}</Button>
      </Form>
    </details>
  );
}

function Editor({ id, start, hasSecret, refusal }: { id: string | undefined; start: WebSystem; hasSecret: boolean; refusal: string | undefined }) {
  const [s, setS] = useState(start);
  const busy = useNavigation().formMethod === 'POST';
  const setActions = (actions: WebAction[]) => setS({ ...s, actions });
  return (
    <Form method="post" className="mt-6 max-w-3xl space-y-4 border-t pt-5">
      <h2 className="font-serif text-xl">{id ? s.name : 'Register a system'}</h2>
      <Refused sentence={refusal} />
      <input type="hidden" name="id" value={id ?? ''} />
      <input type="hidden" name="definition" value={JSON.stringify(s)} />
      <div className="grid gap-4 sm:grid-cols-2">
        <Labelled label="Name" required>
          {(ids) => <input {...ids} className="input" maxLength={60} value={s.name} onChange={(e) => setS({ ...s, name: e.target.value })} />}
        </Labelled>
        <Labelled label="Address" required>
          {(ids) => <input {...ids} className="input numbers" value={s.address} onChange={(e) => setS({ ...s, address: e.target.value })} />}
        </Labelled>
        <Labelled label="Secret" help={hasSecret ? 'One is kept, sealed. Left empty it stays.' : 'Goes out as a bearer token; kept sealed.'}>
          {(ids) => <input {...ids} name="secret" className="input" type="password" autoComplete="new-password" />}
        </Labelled>
        <Labelled label="Waits for an answer, seconds">
          {(ids) => (
            <NumberField
              id={ids.id}
              width="w-full"
              min={1}
              max={120}
              value={s.timeoutMs / 1000}
              onValue={(seconds) => seconds !== undefined && setS({ ...s, timeoutMs: Math.round(seconds * 1000) })}
            />
          )}
        </Labelled>
      </div>
      <label className="flex gap-2">
        <Checkbox className="mt-0.5" checked={s.ownNetwork} onChecked={(on) => setS({ ...s, ownNetwork: on })} />
        <span>
          It stands in our own network
          <span className="block text-sm text-faint">Without this, private and loopback addresses are refused.</span>
        </span>
      </label>
      <h3 className="font-medium">Actions</h3>
      <ListEditor
        rows={s.actions}
        keyOf={(a) => a.id}
        nameOf={(a) => a.label || 'this action'}
        addLabel="Add an action"
        make={(): WebAction => ({ id: freshKey('action'), label: '', method: 'POST', path: '/', inputs: [], outputs: [] })}
        onChange={setActions}
        ruled
      >
        {({ row, set }) => <ActionEditor action={row} others={s.actions} onChange={(next) => set(next)} />}
      </ListEditor>
      <div className="border-t pt-4">
        <Button type="submit" weight="main" disabled={busy}>
          {id ? 'Save this system' : 'Register this system'}
        </Button>
      </div>
    </Form>
  );
}

function ActionEditor({ action: a, others, onChange }: { action: WebAction; others: WebAction[]; onChange: (a: WebAction) => void }) {
  const what = a.label || 'this action';
  return (
    <fieldset className="space-y-2">
      <legend className="sr-only">{what}</legend>
      <div className="grid grid-cols-[1fr_110px_1fr] gap-2">
        <input
          className="input"
          aria-label="Name of the action"
          placeholder="What it does"
          value={a.label}
          maxLength={80}
          onChange={(e) => onChange({ ...a, label: e.target.value })}
        />
        <Select aria-label={`Method of ${what}`} value={a.method} onValue={(v) => onChange({ ...a, method: v as WebAction['method'] })}>
          {['GET', 'POST', 'PUT', 'PATCH', 'DELETE'].map((m) => (
            <option key={m}>{m}</option>
          ))}
        </Select>
        <input className="input numbers" aria-label={`Path of ${what}`} value={a.path} onChange={(e) => onChange({ ...a, path: e.target.value })} />
      </div>
      <p className="text-sm text-faint">In the path, {'{name}'} stands for an input. Other inputs go into the body.</p>
      <ListEditor
        rows={a.inputs}
        keyOf={(_, at) => at}
        nameOf={(_, at) => `input ${at + 1}`}
        addLabel="Add an input"
        make={(): WebAction['inputs'][number] => ({ name: freshKey('input'), label: '', type: 'text', required: true })}
        onChange={(inputs) => onChange({ ...a, inputs })}
      >
        {({ row: input, at, set }) => (
          <div className="grid grid-cols-[1fr_1fr_130px_auto] items-center gap-2">
            <input
              className="input"
              aria-label={`Input ${at + 1} of ${what}: label`}
              placeholder="Input"
              value={input.label}
              onChange={(e) => set({ ...input, label: e.target.value })}
            />
            <input
              className="input numbers"
              aria-label={`Input ${at + 1} of ${what}: name`}
              value={input.name}
              onChange={(e) => set({ ...input, name: e.target.value })}
            />
            <TypeSelect label={`Input ${at + 1} of ${what}: type`} value={input.type} onChange={(type) => set({ ...input, type })} />
            <label className="flex items-center gap-1 text-sm">
              <Checkbox checked={input.required} onChecked={(on) => set({ ...input, required: on })} /> required
            </label>
          </div>
        )}
      </ListEditor>
      <ListEditor
        rows={a.outputs}
        keyOf={(_, at) => at}
        nameOf={(_, at) => `output ${at + 1}`}
        addLabel="Add an output"
        make={(): WebAction['outputs'][number] => ({ name: freshKey('output'), label: '', type: 'text', at: '/', always: true })}
        onChange={(outputs) => onChange({ ...a, outputs })}
      >
        {({ row: output, at, set }) => (
          <div className="grid grid-cols-[1fr_1fr_130px_auto] items-center gap-2">
            <input
              className="input"
              aria-label={`Output ${at + 1} of ${what}: label`}
              placeholder="Output"
              value={output.label}
              onChange={(e) => set({ ...output, label: e.target.value })}
            />
            <input
              className="input numbers"
              aria-label={`Output ${at + 1} of ${what}: JSON Pointer`}
              value={output.at}
              onChange={(e) => set({ ...output, at: e.target.value })}
            />
            <TypeSelect label={`Output ${at + 1} of ${what}: type`} value={output.type} onChange={(type) => set({ ...output, type })} />
            <label className="flex items-center gap-1 text-sm">
              <Checkbox checked={output.always} onChecked={(on) => set({ ...output, always: on })} /> always
            </label>
          </div>
        )}
      </ListEditor>
      <div className="flex flex-wrap items-center gap-2">
        <label className="ml-auto flex items-center gap-2 text-sm whitespace-nowrap">
          Undone by
          <Select value={a.undoneBy ?? ''} onValue={(v) => onChange({ ...a, undoneBy: v || undefined })}>
            <option value="">nothing</option>
            {others
              .filter((o) => o.id !== a.id)
              .map((o) => (
                <option key={o.id} value={o.id}>
                  {o.label}
                </option>
              ))}
          </Select>
        </label>
      </div>
    </fieldset>
  );
}

function TypeSelect({ label, value, onChange }: { label: string; value: ValueType; onChange: (type: ValueType) => void }) {
  return (
    <Select aria-label={label} value={value} onValue={(v) => onChange(v as ValueType)}>
      {spoken.map((t) => (
        <option key={t} value={t}>
          {typeWords[t]}
        </option>
      ))}
    </Select>
  );
}
