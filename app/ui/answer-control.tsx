import { X } from 'lucide-react';
import { createContext, useContext, useState } from 'react';
import { wrongCell, type Column, type Field } from '../../core/forms/index.ts';
import { idsIn, isEntry, isPerson, typedAs, type Entry, type Single, type Value } from '../../core/values/index.ts';
import { Checkbox } from './checkbox';
import { useHydrated } from './choices';
import { DateField } from './date-field';
import { DecimalField } from './decimal-field';
import { Labelled } from './field';
import { FormattedControl } from './formatted-control';
import { FileControl } from './file-control';
import { ListEditor } from './list-editor';
import { MoneyInput } from './money-input';
import { Picker, type Chosen } from './picker';
import { RadioGroup } from './radio-group';
import { Select } from './select';
import { TimeField } from './time-field';

const yesNo = [
  { value: 'true', label: 'Yes' },
  { value: 'false', label: 'No' },
];

/** The person something is asked for, by their id; undefined: whoever asks. */
export const AskedFor = createContext<string | undefined>(undefined);

/** What somebody fills a field or a column in with, posted under `name`. */
export function AnswerControl({
  field,
  name,
  ids,
  value,
  names,
  onChange,
}: {
  field: Field | Column;
  name: string;
  ids: { id: string; 'aria-describedby': string | undefined; 'aria-invalid': true | undefined };
  value: Value;
  names: Record<string, string>;
  onChange: (value: Value, chosen?: Chosen) => void;
}) {
  const whom = useContext(AskedFor);
  const common = { ...ids, name, className: 'input', 'aria-required': field.required || undefined };
  const text = typeof value === 'string' ? value : '';
  if (field.kind === 'text') return <input {...common} type="text" value={text} onChange={(e) => onChange(e.target.value)} />;
  if (field.kind === 'address') return <input {...common} type="email" autoComplete="off" value={text} onChange={(e) => onChange(e.target.value)} />;
  if (field.kind === 'phone') return <input {...common} type="tel" autoComplete="off" value={text} onChange={(e) => onChange(e.target.value)} />;
  if (field.kind === 'time')
    return <TimeField {...ids} name={name} aria-required={field.required || undefined} value={text} onValue={(time) => onChange(time || null)} />;
  if (field.kind === 'money') return <MoneyInput {...ids} name={name} label={field.label} currency={field.unit} value={value} onChange={onChange} />;
  if (field.kind === 'longText') return <textarea {...common} rows={4} value={text} onChange={(e) => onChange(e.target.value)} />;
  if (field.kind === 'formatted')
    return <FormattedControl {...ids} name={name} label={field.label} required={field.required} value={value} onChange={onChange} />;
  if (field.kind === 'choice') {
    return (
      <Select {...common} value={text} onValue={(v) => onChange(v || null)}>
        <option value="">Choose …</option>
        {(field.options ?? []).map((o) => (
          <option key={o.value} value={o.value}>
            {o.label}
          </option>
        ))}
      </Select>
    );
  }
  if (field.kind === 'number')
    return <DecimalField {...ids} name={name} aria-required={field.required || undefined} value={value} unit={field.unit} onChange={onChange} />;
  if (field.kind === 'date')
    return <DateField {...ids} name={name} aria-required={field.required || undefined} value={text} onValue={(day) => onChange(day || null)} />;
  if (field.kind === 'yesNo')
    return (
      <RadioGroup
        {...ids}
        aria-label={field.label}
        name={name}
        value={typeof value === 'boolean' ? String(value) : ''}
        options={yesNo}
        onValue={(v) => onChange(v === 'true')}
      />
    );
  const listed: Single[] = Array.isArray(value) ? value : [];
  if (field.kind === 'choices') {
    return (
      <span id={ids.id} role="group" aria-label={field.label} className="block space-y-1">
        {(field.options ?? []).map((o) => (
          <label key={o.value} className="flex items-center gap-1.5">
            <Checkbox
              name={name}
              value={o.value}
              checked={listed.includes(o.value)}
              onChecked={(on) => onChange(on ? [...listed, o.value] : listed.filter((v) => v !== o.value))}
            />
            {o.label}
          </label>
        ))}
      </span>
    );
  }
  if (field.kind === 'lines') return <LinesControl field={field} name={name} ids={ids} value={listed} names={names} onChange={onChange} />;
  if (field.kind === 'people') {
    return (
      <span className="block space-y-1">
        {listed.filter(isPerson).map((p) => (
          <span key={p.person} className="flex items-center justify-between border-b py-1">
            <input type="hidden" name={name} value={p.person} />
            {names[p.person] ?? 'Somebody'}
            <button
              type="button"
              className="flex size-6 items-center justify-center text-faint hover:text-coral"
              onClick={() => onChange(listed.filter((v) => !isPerson(v) || v.person !== p.person))}
            >
              <X size={14} aria-hidden />
              <span className="sr-only">Take {names[p.person] ?? 'this person'} off the list</span>
            </button>
          </span>
        ))}
        <Picker
          {...ids}
          kind="person"
          chosen={undefined}
          onChoose={(c) => c && !listed.some((v) => isPerson(v) && v.person === c.id) && onChange([...listed, { person: c.id }], c)}
        />
      </span>
    );
  }
  if (field.kind === 'file' || field.kind === 'files') {
    const { kind } = field;
    return (
      <FileControl
        ids={ids}
        name={name}
        label={field.label}
        several={kind === 'files'}
        files={idsIn(value)}
        names={names}
        onChange={(files, chosen) => {
          const all = files.map((file) => ({ file }));
          onChange(kind === 'files' ? (all.length > 0 ? all : null) : (all[0] ?? null), chosen);
        }}
      />
    );
  }
  const [id] = idsIn(value);
  const chosen: Chosen | undefined = id === undefined ? undefined : { id, name: names[id] ?? '' };
  const { kind } = field;
  const within = {
    table: 'table' in field ? field.table : undefined,
    ...(kind === 'holding' && 'gave' in field && { gave: field.gave, lent: field.lent ? 'yes' : undefined, whom }),
  };
  return (
    <Picker
      {...ids}
      kind={kind}
      within={within}
      name={name}
      chosen={chosen}
      onChoose={(c) => onChange(c ? (typedAs(c.id, kind) ?? null) : null, c)}
    />
  );
}

const blank: Entry = { entry: {} };

/** Lines of several values: each a group of what its columns are filled in with. One stands there from the start, and some before scripts load. */
function LinesControl({
  field,
  name,
  ids,
  value,
  names,
  onChange,
}: {
  field: Field;
  name: string;
  ids: { id: string; 'aria-describedby': string | undefined; 'aria-invalid': true | undefined };
  value: Single[];
  names: Record<string, string>;
  onChange: (value: Value, chosen?: Chosen) => void;
}) {
  const hydrated = useHydrated();
  const stated = value.filter(isEntry);
  const rows = [...stated, ...Array.from({ length: Math.max(0, (hydrated ? 1 : 3) - stated.length) }, () => blank)];
  // Where something is wrong with them, it is with this cell; with how many there are, or that there is none, with the first.
  const wrong = ids['aria-invalid'] && (wrongCell(field, rows) ?? { line: 0, column: field.columns?.[0]?.id });
  // What is half typed stays with its line when one above it is taken out.
  const [keys, setKeys] = useState<number[]>([]);
  const keyOf = (at: number) => keys[at] ?? at;
  const change = (next: Entry[]) => {
    const all = rows.map((_, at) => keyOf(at));
    if (next.length < rows.length)
      setKeys(
        all.toSpliced(
          rows.findIndex((row, at) => next[at] !== row),
          1,
        ),
      );
    else if (next.length > rows.length) setKeys([...all, Math.max(-1, ...all) + 1]);
    onChange(next.length > 0 ? next : null);
  };
  return (
    <div id={ids.id} role="group" aria-label={field.label} aria-describedby={ids['aria-describedby']}>
      <input type="hidden" name={`${name}.lines`} value={rows.length} />
      <ListEditor
        rows={rows}
        keyOf={(_, at) => keyOf(at)}
        nameOf={(_, at) => `line ${at + 1} of ${field.label}`}
        addLabel="Add a line"
        make={(): Entry => ({ entry: {} })}
        onChange={change}
        ruled
        least={1}
      >
        {({ row, at }) => (
          <div
            role="group"
            aria-label={`${field.label}, line ${at + 1}`}
            className="grid grid-cols-[repeat(auto-fit,minmax(9rem,1fr))] items-end gap-x-3 gap-y-2"
          >
            {(field.columns ?? []).map((column) => (
              <Labelled key={column.id} label={column.label || 'Unnamed column'} required={column.required}>
                {(cell) => (
                  <AnswerControl
                    field={column}
                    name={`${name}.${at}.${column.id}`}
                    ids={wrong?.line === at && wrong.column === column.id ? { ...cell, 'aria-invalid': true } : cell}
                    value={row.entry[column.id] ?? null}
                    names={names}
                    onChange={(v, chosen) => onChange(rows.with(at, { entry: { ...row.entry, [column.id]: v as Entry['entry'][string] } }), chosen)}
                  />
                )}
              </Labelled>
            ))}
          </div>
        )}
      </ListEditor>
    </div>
  );
}
