import { Plus, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { hasOptions, type Field, type FieldKind } from '../../core/forms/index.ts';
import { Button } from '~/ui/button';
import { fieldKinds, Options } from './field-settings';
import { freshKey } from '~/ui/fresh-key';
import { Select } from '~/ui/select';
import { Checkbox } from '~/ui/checkbox';

const offered: FieldKind[] = [
  'text',
  'longText',
  'number',
  'money',
  'date',
  'yesNo',
  'choice',
  'person',
  'people',
  'group',
  'team',
  'location',
  'address',
];

/** A field of another kind; choices begin with two to be named, and go where there are none. */
function ofKind({ options, ...field }: Field, kind: FieldKind): Field {
  if (!hasOptions(kind)) return { ...field, kind };
  return { ...field, kind, options: options ?? ['First choice', 'Second choice'].map((label) => ({ value: freshKey('choice'), label })) };
}

/** A few fields in a slip: what a team member or requester fills in there. */
export function SmallFields({ label, fields, onChange }: { label: string; fields: Field[]; onChange: (fields: Field[]) => void }) {
  const [added, setAdded] = useState<string>();
  return (
    <fieldset>
      <legend className="mb-1 font-medium">{label}</legend>
      <ul className="space-y-2">
        {fields.map((f, i) => (
          <li key={f.id} className="space-y-1 border-l-2 pl-2">
            <div className="flex gap-1">
              <input
                className="input"
                aria-label={`Field ${i + 1}: label`}
                maxLength={120}
                value={f.label}
                autoFocus={f.id === added}
                onChange={(e) => onChange(fields.with(i, { ...f, label: e.target.value }))}
              />
              <Button weight="quiet" title={`Remove “${f.label}”`} onClick={() => onChange(fields.toSpliced(i, 1))}>
                <Trash2 size={14} aria-hidden />
                <span className="sr-only">Remove “{f.label}”</span>
              </Button>
            </div>
            <div className="flex items-center gap-2">
              <Select aria-label={`Field ${i + 1}: kind`} value={f.kind} onValue={(v) => onChange(fields.with(i, ofKind(f, v as FieldKind)))}>
                {offered.map((k) => (
                  <option key={k} value={k}>
                    {fieldKinds[k].label}
                  </option>
                ))}
              </Select>
              <label className="flex items-center gap-1.5 text-sm">
                <Checkbox checked={f.required} onChecked={(on) => onChange(fields.with(i, { ...f, required: on }))} />
                required
              </label>
            </div>
            {hasOptions(f.kind) && <Options field={f} onChange={(next) => onChange(fields.with(i, next))} />}
          </li>
        ))}
      </ul>
      <Button
        className="mt-2"
        onClick={() => {
          const id = freshKey('field');
          setAdded(id);
          onChange([...fields, { id, kind: 'text', label: '', required: true }]);
        }}
      >
        <Plus size={13} aria-hidden /> Add a field
      </Button>
    </fieldset>
  );
}
