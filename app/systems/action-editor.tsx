import { useState } from 'react';
import type { WebAction } from '../../core/systems/index.ts';
import { rowType, typeWords, ValueType } from '../../core/values/index.ts';
import { DurationInput } from '~/sheet/duration-input';
import { Checkbox } from '~/ui/checkbox';
import { freshKey } from '~/ui/fresh-key';
import { Line } from '~/ui/line';
import { NumberField } from '~/ui/number-field';
import { ListEditor } from '~/ui/list-editor';
import { Select } from '~/ui/select';
import { AboutEditor } from './about-editor';
import { GivesEditor } from './gives-editor';
import { ListingEditor } from './listing-editor';
import { LaterEditor } from './later-editor';

/** What a system elsewhere can make something of: rows of our tables and files are told by ids that mean nothing there. */
const spoken = ValueType.options.filter((t) => !['row', 'file'].includes(rowType(t) ?? t));

/** One thing a system can be asked to do: its request, what comes back and how, what a person holds afterwards. */
export function ActionEditor({
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
            <TypeSelect
              label={`Input ${at + 1} of ${what}: type`}
              value={input.type}
              onChange={(type) =>
                set({ ...input, type, ...(type !== 'text' && { made: undefined, oneOf: undefined }), ...(type !== 'number' && { most: undefined }) })
              }
            />
            <label className="flex items-center gap-1 py-1.5 text-sm">
              <Checkbox checked={input.required} onChecked={(on) => set({ ...input, required: on })} /> required
            </label>
            {a.about && (
              <label className="col-span-4 flex items-center gap-1 text-sm">
                <Checkbox checked={input.known === true} onChecked={(on) => set({ ...input, known: on || undefined })} /> known of what it is about
                <span className="sr-only"> (input {at + 1})</span>
              </label>
            )}
            {input.type === 'number' && (
              <label className="col-span-4 flex items-center gap-2 text-sm">
                at most
                <NumberField
                  optional
                  whole={false}
                  aria-label={`Input ${at + 1} of ${what}: at most`}
                  width="w-24"
                  value={input.most}
                  onValue={(most) => set({ ...input, most })}
                />
              </label>
            )}
            {input.type === 'text' && (
              <label className="col-span-4 flex items-center gap-1 text-sm">
                <Checkbox
                  checked={input.made === true}
                  onChecked={(on) => set({ ...input, made: on || undefined, ...(on && { oneOf: undefined }) })}
                />{' '}
                a secret, made for each call
                <span className="sr-only"> (input {at + 1})</span>
              </label>
            )}
            {input.type === 'text' && !input.made && (
              <OnlyThese
                label={`Input ${at + 1} of ${what}: only these`}
                {...named(`inputs[${at}].oneOf`)}
                words={input.oneOf}
                onChange={(oneOf) => set({ ...input, oneOf })}
              />
            )}
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
            <TypeSelect
              label={`Output ${at + 1} of ${what}: type`}
              value={output.type}
              onChange={(type) => set({ ...output, type, ...(type !== 'text' && { secret: undefined }) })}
            />
            <label className="flex items-center gap-1 py-1.5 text-sm">
              <Checkbox checked={output.always} onChecked={(on) => set({ ...output, always: on })} /> always
            </label>
            {output.type === 'text' && (
              <label className="col-span-4 flex items-center gap-1 text-sm">
                <Checkbox checked={output.secret === true} onChecked={(on) => set({ ...output, secret: on || undefined })} /> secret: into a sealed
                note only
                <span className="sr-only"> (output {at + 1})</span>
              </label>
            )}
          </div>
        )}
      </ListEditor>
      <LaterEditor named={named} what={what} later={a.later} onChange={(later) => onChange({ ...a, later })} />
      <div className="flex flex-wrap items-center gap-2 text-sm">
        <label className="flex gap-2">
          <Checkbox className="mt-0.5" checked={a.apart !== undefined} onChecked={(on) => onChange({ ...a, apart: on ? 'PT5M' : undefined })} />
          <span>A repeat asks for it again only after a time</span>
        </label>
        {a.apart !== undefined && (
          <DurationInput label={`${what} again after`} iso={a.apart} min={1} onChange={(apart) => onChange({ ...a, apart })} />
        )}
      </div>
      <label className="flex gap-2 text-sm">
        <Checkbox className="mt-0.5" checked={a.goneIsDone === true} onChecked={(on) => onChange({ ...a, goneIsDone: on || undefined })} />
        <span>
          Done also where it says that there is no such thing (404, 410)
          <span className="sr-only"> ({what})</span>
        </span>
      </label>
      {named('goneIsDone').problem && <p className="text-sm text-coral">{named('goneIsDone').problem}</p>}
      {named('apart').problem && <p className="text-sm text-coral">{named('apart').problem}</p>}
      <GivesEditor named={named} action={a} onChange={(gives) => onChange({ ...a, gives, ...(!gives && { listing: undefined }) })} />
      <AboutEditor
        named={named}
        action={a}
        others={others}
        onChange={(about) => onChange({ ...a, about, ...(!about && { inputs: a.inputs.map((i) => ({ ...i, known: undefined })) }) })}
      />
      <ListingEditor named={named} action={a} onChange={(listing) => onChange({ ...a, listing })} />
      <div className="flex flex-wrap items-center justify-end gap-x-6 gap-y-2">
        {(a.anewBy !== undefined || a.inputs.some((i) => i.made) || a.outputs.some((o) => o.secret)) && (
          <By words="Secrets made anew by" of={a} others={others} value={a.anewBy} onValue={(anewBy) => onChange({ ...a, anewBy })} />
        )}
        <By words="Undone by" of={a} others={others} value={a.undoneBy} onValue={(undoneBy) => onChange({ ...a, undoneBy })} />
      </div>
    </fieldset>
  );
}

/** Which other action of the system does something about this one. */
function By({
  words,
  of,
  others,
  value,
  onValue,
}: {
  words: string;
  of: WebAction;
  others: WebAction[];
  value: string | undefined;
  onValue: (id: string | undefined) => void;
}) {
  return (
    <label className="flex items-center gap-2 text-sm whitespace-nowrap">
      {words}
      <Select value={value ?? ''} onValue={(v) => onValue(v || undefined)}>
        <option value="">nothing</option>
        {others
          .filter((o) => o.id !== of.id)
          .map((o) => (
            <option key={o.id} value={o.id}>
              {o.label}
            </option>
          ))}
      </Select>
    </label>
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

/** All that the system knows as this input, a line each; what is typed stays as it is until somebody goes on. */
function OnlyThese({
  label,
  name,
  problem,
  words,
  onChange,
}: {
  label: string;
  name: string;
  problem: string | undefined;
  words: string[] | undefined;
  onChange: (words: string[] | undefined) => void;
}) {
  const [typed, setTyped] = useState<string>();
  const shown = typed ?? words?.join('\n') ?? '';
  return (
    <details className="col-span-4 text-sm" open={problem !== undefined || undefined}>
      <summary className="w-fit cursor-pointer text-sea">
        {words ? `Only ${words.length === 1 ? 'one is' : `${words.length} are`} known` : 'Only some are known …'}
        <span className="sr-only"> ({label})</span>
      </summary>
      <textarea
        aria-label={label}
        name={name}
        aria-invalid={problem ? true : undefined}
        className="input mt-1"
        rows={Math.min(8, Math.max(2, shown.split('\n').length))}
        placeholder="A line each"
        value={shown}
        onChange={(e) => {
          setTyped(e.target.value);
          const all = [...new Set(e.target.value.split('\n').map((w) => w.trim()))].filter(Boolean);
          onChange(all.length > 0 ? all : undefined);
        }}
        onBlur={() => setTyped(undefined)}
      />
      {problem && <p className="text-coral">{problem}</p>}
    </details>
  );
}
