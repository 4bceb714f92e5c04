import { hasOptions, type Field, type FieldKind } from '../../core/forms/index.ts';
import { ListEditor } from '~/ui/list-editor';
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
  return (
    <fieldset>
      <legend className="mb-1 font-medium">{label}</legend>
      <ListEditor
        rows={fields}
        keyOf={(f) => f.id}
        nameOf={(f) => `“${f.label}”`}
        addLabel="Add a field"
        make={(): Field => ({ id: freshKey('field'), kind: 'text', label: '', required: true })}
        onChange={onChange}
        ruled
      >
        {({ row: f, at, added, set }) => (
          <div className="space-y-1">
            <input
              className="input"
              aria-label={`Field ${at + 1}: label`}
              maxLength={120}
              value={f.label}
              autoFocus={added}
              onChange={(e) => set({ ...f, label: e.target.value })}
            />
            <div className="flex items-center gap-2">
              <Select aria-label={`Field ${at + 1}: kind`} value={f.kind} onValue={(v) => set(ofKind(f, v as FieldKind))}>
                {offered.map((k) => (
                  <option key={k} value={k}>
                    {fieldKinds[k].label}
                  </option>
                ))}
              </Select>
              <label className="flex items-center gap-1.5 text-sm">
                <Checkbox checked={f.required} onChecked={(on) => set({ ...f, required: on })} />
                required
              </label>
            </div>
            {hasOptions(f.kind) && <Options field={f} onChange={(next) => set(next)} />}
          </div>
        )}
      </ListEditor>
    </fieldset>
  );
}
