import { X } from 'lucide-react';
import { visibleFields, type Answers, type Field, type Form } from '../../core/forms/index.ts';
import { idsIn, isPerson, typedAs, type Single, type Value } from '../../core/values/index.ts';
import { DateField } from './date-field';
import { DecimalField } from './decimal-field';
import { Labelled } from './field';
import { MoneyInput } from './money-input';
import { Picker, type Chosen } from './picker';
import { RadioGroup } from './radio-group';
import { Select } from './select';
import { Checkbox } from './checkbox';

/** The fields of a form as the requester sees them; the Counter and the Workshop's preview draw the same. */
export function FormFields({
  form,
  answers,
  names,
  problems = {},
  onChange,
}: {
  form: Form;
  answers: Answers;
  /** Names of the people and groups the answers hold, by id. */
  names: Record<string, string>;
  problems?: Record<string, string>;
  /** `chosen`: who was picked, so that their name is known. */
  onChange: (field: string, value: Value, chosen?: Chosen) => void;
}) {
  return (
    <div className="space-y-5">
      {visibleFields(form, answers).map((f) => (
        <Labelled key={f.id} label={f.label || 'Unnamed field'} help={f.help} required={f.required} problem={problems[f.id]}>
          {(ids) => <Control field={f} ids={ids} value={answers[f.id] ?? null} names={names} onChange={(v, c) => onChange(f.id, v, c)} />}
        </Labelled>
      ))}
    </div>
  );
}

const yesNo = [
  { value: 'true', label: 'Yes' },
  { value: 'false', label: 'No' },
];

function Control({
  field,
  ids,
  value,
  names,
  onChange,
}: {
  field: Field;
  ids: { id: string; 'aria-describedby': string | undefined; 'aria-invalid': true | undefined };
  value: Value;
  names: Record<string, string>;
  onChange: (value: Value, chosen?: Chosen) => void;
}) {
  const name = `f.${field.id}`;
  const common = { ...ids, name, className: 'input', 'aria-required': field.required || undefined };
  const text = typeof value === 'string' ? value : '';
  if (field.kind === 'text') return <input {...common} type="text" value={text} onChange={(e) => onChange(e.target.value)} />;
  if (field.kind === 'address') return <input {...common} type="email" autoComplete="off" value={text} onChange={(e) => onChange(e.target.value)} />;
  if (field.kind === 'money') return <MoneyInput {...ids} name={name} label={field.label} currency={field.unit} value={value} onChange={onChange} />;
  if (field.kind === 'longText') return <textarea {...common} rows={4} value={text} onChange={(e) => onChange(e.target.value)} />;
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
  const [id] = idsIn(value);
  const chosen: Chosen | undefined = id === undefined ? undefined : { id, name: names[id] ?? '' };
  const { kind } = field;
  return <Picker {...ids} kind={kind} name={name} chosen={chosen} onChoose={(c) => onChange(c ? (typedAs(c.id, kind) ?? null) : null, c)} />;
}
