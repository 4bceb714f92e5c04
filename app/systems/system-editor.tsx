import { useState } from 'react';
import { Form, useNavigation } from 'react-router';
import { WebSystem, type WebAction } from '../../core/systems/index.ts';
import { rowType, typeWords, ValueType } from '../../core/values/index.ts';
import type { Refusal } from '../../server/refusal.ts';
import { Button } from '~/ui/button';
import { Checkbox } from '~/ui/checkbox';
import { Labelled } from '~/ui/field';
import { freshKey } from '~/ui/fresh-key';
import { Line } from '~/ui/line';
import { ListEditor } from '~/ui/list-editor';
import { NumberField } from '~/ui/number-field';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { Select } from '~/ui/select';

/** What a system elsewhere can make something of: rows of our tables and files are told by ids that mean nothing there. */
const spoken = ValueType.options.filter((t) => !['row', 'file'].includes(rowType(t) ?? t));

const blank: WebSystem = { name: '', address: 'https://', ownNetwork: false, timeoutMs: 10_000, actions: [] };

/** Registers a system, or changes one. */
export function SystemEditor({
  start = blank,
  hasSecret,
  refusal,
}: {
  start: WebSystem | undefined;
  hasSecret: boolean;
  refusal: Refusal | undefined;
}) {
  const [s, setS] = useState(start);
  const post = usePost(WebSystem, { refusal, document: s });
  const isNew = start === blank;
  const busy = useNavigation().formMethod === 'POST';
  const setActions = (actions: WebAction[]) => setS({ ...s, actions });
  return (
    <Form method="post" {...post.form} className="max-w-3xl space-y-4">
      <Refused sentence={post.sentence} />
      <input type="hidden" name="definition" value={JSON.stringify(s)} />
      <div className="grid gap-4 sm:grid-cols-2">
        <Labelled label="Name" required problem={post.problem('name')}>
          {(ids) => (
            <input {...ids} name="name" className="input" maxLength={60} value={s.name} onChange={(e) => setS({ ...s, name: e.target.value })} />
          )}
        </Labelled>
        <Labelled label="Address" required problem={post.problem('address')}>
          {(ids) => (
            <input {...ids} name="address" className="input numbers" value={s.address} onChange={(e) => setS({ ...s, address: e.target.value })} />
          )}
        </Labelled>
        <Labelled
          label="Secret"
          help={hasSecret ? 'One is kept, sealed. Left empty it stays.' : 'Goes out as a bearer token; kept sealed.'}
          problem={post.problem('secret')}
        >
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
      <h2 className="font-medium">Actions</h2>
      <ListEditor
        rows={s.actions}
        keyOf={(a) => a.id}
        nameOf={(a) => a.label || 'this action'}
        addLabel="Add an action"
        make={(): WebAction => ({ id: freshKey('action'), label: '', method: 'POST', path: '/', inputs: [], outputs: [] })}
        onChange={setActions}
        ruled
      >
        {({ row, at, set }) => (
          <ActionEditor at={`actions[${at}]`} problem={post.problem} action={row} others={s.actions} onChange={(next) => set(next)} />
        )}
      </ListEditor>
      <div className="border-t pt-4">
        <Button type="submit" weight="main" disabled={busy}>
          {isNew ? 'Register this system' : 'Save this system'}
        </Button>
      </div>
    </Form>
  );
}

function ActionEditor({
  at: place,
  problem,
  action: a,
  others,
  onChange,
}: {
  /** Where it stands in the document. */
  at: string;
  problem: (field: string) => string | undefined;
  action: WebAction;
  others: WebAction[];
  onChange: (a: WebAction) => void;
}) {
  const named = (field: string) => ({ name: `${place}.${field}`, problem: problem(`${place}.${field}`) });
  const what = a.label || 'this action';
  return (
    <fieldset className="space-y-2">
      <legend className="sr-only">{what}</legend>
      <div className="grid grid-cols-[1fr_110px_1fr] items-start gap-2">
        <Line
          {...named('label')}
          label="Name of the action"
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
        <Line
          {...named('path')}
          className="numbers"
          label={`Path of ${what}`}
          value={a.path}
          onChange={(e) => onChange({ ...a, path: e.target.value })}
        />
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
          <div className="grid grid-cols-[1fr_1fr_130px_auto] items-start gap-2">
            <Line
              {...named(`inputs[${at}].label`)}
              label={`Input ${at + 1} of ${what}: label`}
              placeholder="Input"
              value={input.label}
              onChange={(e) => set({ ...input, label: e.target.value })}
            />
            <Line
              {...named(`inputs[${at}].name`)}
              className="numbers"
              label={`Input ${at + 1} of ${what}: name`}
              value={input.name}
              onChange={(e) => set({ ...input, name: e.target.value })}
            />
            <TypeSelect label={`Input ${at + 1} of ${what}: type`} value={input.type} onChange={(type) => set({ ...input, type })} />
            <label className="flex items-center gap-1 py-1.5 text-sm">
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
          <div className="grid grid-cols-[1fr_1fr_130px_auto] items-start gap-2">
            <Line
              {...named(`outputs[${at}].label`)}
              label={`Output ${at + 1} of ${what}: label`}
              placeholder="Output"
              value={output.label}
              onChange={(e) => set({ ...output, label: e.target.value })}
            />
            <Line
              {...named(`outputs[${at}].at`)}
              className="numbers"
              label={`Output ${at + 1} of ${what}: JSON Pointer`}
              value={output.at}
              onChange={(e) => set({ ...output, at: e.target.value })}
            />
            <TypeSelect label={`Output ${at + 1} of ${what}: type`} value={output.type} onChange={(type) => set({ ...output, type })} />
            <label className="flex items-center gap-1 py-1.5 text-sm">
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
