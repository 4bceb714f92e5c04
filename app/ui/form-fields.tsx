import { visibleFields, type Answers, type Field, type Form } from '../../core/forms/index.ts';
import { isGroup, isPerson, type Value } from '../../core/values/index.ts';
import { Labelled } from './field';
import { Picker, type Chosen } from './picker';

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
  onChange: (field: string, value: Value, name?: string) => void;
}) {
  return (
    <div className="space-y-5">
      {visibleFields(form, answers).map((f) => (
        <Labelled key={f.id} label={f.label || 'Unnamed field'} help={f.help} required={f.required} problem={problems[f.id]}>
          {(ids) => <Control field={f} ids={ids} value={answers[f.id] ?? null} names={names} onChange={(v, n) => onChange(f.id, v, n)} />}
        </Labelled>
      ))}
    </div>
  );
}

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
  onChange: (value: Value, name?: string) => void;
}) {
  const name = `f.${field.id}`;
  const common = { ...ids, name, className: 'input', 'aria-required': field.required || undefined };
  const text = typeof value === 'string' ? value : '';
  if (field.kind === 'text') return <input {...common} type="text" value={text} onChange={(e) => onChange(e.target.value)} />;
  if (field.kind === 'longText') return <textarea {...common} rows={4} value={text} onChange={(e) => onChange(e.target.value)} />;
  if (field.kind === 'choice') {
    return (
      <select {...common} value={text} onChange={(e) => onChange(e.target.value || null)}>
        <option value="">Choose …</option>
        {(field.options ?? []).map((o) => (
          <option key={o.value} value={o.value}>
            {o.label}
          </option>
        ))}
      </select>
    );
  }
  const id = isPerson(value) ? value.person : isGroup(value) ? value.group : undefined;
  const chosen: Chosen | undefined = id === undefined ? undefined : { id, name: names[id] ?? '' };
  const { kind } = field;
  return (
    <Picker
      {...ids}
      kind={kind}
      name={name}
      chosen={chosen}
      onChoose={(c) => onChange(c ? (kind === 'person' ? { person: c.id } : { group: c.id }) : null, c?.name)}
    />
  );
}
