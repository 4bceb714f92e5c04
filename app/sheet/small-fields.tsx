import { columnKinds, hasOptions, type Column, type Field, type FieldKind } from '../../core/forms/index.ts';
import { ListEditor } from '~/ui/list-editor';
import { Bounds, Currency } from './bounds';
import { fieldKinds } from './field-kinds';
import { Options } from './options';
import { freshKey } from '~/ui/fresh-key';
import { Select } from '~/ui/select';
import { Checkbox } from '~/ui/checkbox';

const fieldsOffered = [...columnKinds, 'longText', 'people', 'file', 'files'] as const satisfies FieldKind[];

/** What is asked, of another kind; choices begin with two to be named, and go where there are none. */
function ofKind<F extends Field | Column>({ options, ...asked }: F, kind: F['kind']): F {
  const other = { ...asked, kind } as unknown as F;
  if (!hasOptions(kind)) return other;
  return { ...other, options: options ?? ['First choice', 'Second choice'].map((label) => ({ value: freshKey('choice'), label })) };
}

/** A few fields in a slip: what a team member or requester fills in there. */
export const SmallFields = (props: { label: string; fields: Field[]; onChange: (fields: Field[]) => void }) => (
  <Asked {...props} word="field" offered={fieldsOffered} />
);

/** The columns of a field of lines. */
export const Columns = (props: { label: string; fields: Column[]; onChange: (columns: Column[]) => void }) => (
  <Asked {...props} word="column" offered={columnKinds} />
);

const capital = (word: string) => word.charAt(0).toUpperCase() + word.slice(1);

function Asked<F extends Field | Column>({
  label,
  word,
  offered,
  fields,
  onChange,
}: {
  label: string;
  word: string;
  offered: readonly F['kind'][];
  fields: F[];
  onChange: (fields: F[]) => void;
}) {
  return (
    <fieldset>
      <legend className="mb-1 font-medium">{label}</legend>
      <ListEditor
        rows={fields}
        keyOf={(f) => f.id}
        nameOf={(f) => `“${f.label}”`}
        addLabel={`Add a ${word}`}
        make={() => ({ id: freshKey(word), kind: 'text', label: '', required: true }) as unknown as F}
        onChange={onChange}
        ruled
      >
        {({ row: f, at, set }) => (
          <div className="space-y-1">
            <input
              className="input"
              aria-label={`${capital(word)} ${at + 1}: label`}
              maxLength={120}
              value={f.label}
              onChange={(e) => set({ ...f, label: e.target.value })}
            />
            <div className="flex items-center gap-2">
              <Select aria-label={`${capital(word)} ${at + 1}: kind`} value={f.kind} onValue={(v) => set(ofKind(f, v as F['kind']))}>
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
            {f.kind === 'number' && <Bounds field={f} of={`${capital(word)} ${at + 1}`} onChange={(next) => set(next)} />}
            {f.kind === 'money' && <Currency field={f} of={`${capital(word)} ${at + 1}`} onChange={(next) => set(next)} />}
          </div>
        )}
      </ListEditor>
    </fieldset>
  );
}
