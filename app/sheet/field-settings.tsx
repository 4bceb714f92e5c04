import { formPlaces, type Place } from '../../core/plans/index.ts';
import { hasColumns, hasOptions, hasTable, type Field } from '../../core/forms/index.ts';
import { Labelled } from '~/ui/field';
import { NameField } from '~/ui/name-field';
import { ConditionEditor } from './condition-editor';
import { fieldKinds } from './field-kinds';
import { Options } from './options';
import { Bounds, Currency } from './bounds';
import { Columns } from './small-fields';
import { Select } from '~/ui/select';
import { Checkbox } from '~/ui/checkbox';

/** Everything a field can be told. */
export function FieldSettings({
  field,
  isNew,
  above,
  tables,
  onChange,
}: {
  field: Field;
  /** It was just added: the keyboard goes to its label. */
  isNew: boolean;
  above: Field[];
  /** Reference tables by id. */
  tables: Record<string, { name: string }>;
  onChange: (field: Field, what: string) => void;
}) {
  const places: Place[] = formPlaces({ fields: above });
  return (
    <div className="space-y-5">
      <h2 className="font-serif text-xl">{fieldKinds[field.kind].label}</h2>
      <Labelled label="Label" required>
        {(ids) => (
          <NameField
            {...ids}
            value={field.label}
            maxLength={120}
            autoFocus={isNew}
            onFocus={(e) => isNew && e.target.select()}
            onChange={(e) => onChange({ ...field, label: e.target.value }, 'the label')}
          />
        )}
      </Labelled>
      <Labelled label="Help" help="Stands under the label.">
        {(ids) => (
          <input
            {...ids}
            className="input"
            value={field.help ?? ''}
            maxLength={500}
            onChange={(e) => onChange({ ...field, help: e.target.value || undefined }, 'the help')}
          />
        )}
      </Labelled>
      <label className="flex items-center gap-2">
        <Checkbox checked={field.required} onChecked={(on) => onChange({ ...field, required: on }, 'whether it is required')} /> An answer is required
      </label>
      {hasTable(field.kind) && (
        <Labelled
          label="Reference table"
          required
          help={
            Object.keys(tables).length === 0
              ? 'There is none yet: begin one under Workshop, Reference tables.'
              : 'Its rows are offered, as they are when somebody asks.'
          }
        >
          {(ids) => (
            <Select {...ids} value={field.table ?? ''} onValue={(v) => onChange({ ...field, table: v || undefined }, 'the table')}>
              <option value="">Choose …</option>
              {Object.entries(tables)
                .toSorted(([, a], [, b]) => a.name.localeCompare(b.name))
                .map(([id, t]) => (
                  <option key={id} value={id}>
                    {t.name}
                  </option>
                ))}
            </Select>
          )}
        </Labelled>
      )}
      {hasOptions(field.kind) && <Options field={field} onChange={onChange} />}
      {field.kind === 'money' && <Currency field={field} onChange={onChange} />}
      {hasColumns(field.kind) && (
        <Columns label="Columns" fields={field.columns ?? []} onChange={(columns) => onChange({ ...field, columns }, 'the columns')} />
      )}
      {(field.kind === 'number' || field.kind === 'files' || hasColumns(field.kind)) && <Bounds field={field} onChange={onChange} />}
      {(field.kind === 'text' || field.kind === 'longText' || field.kind === 'choice') && (
        <Labelled label="Default" help="Filled in before anyone types.">
          {(ids) =>
            field.kind === 'choice' ? (
              <Select
                {...ids}
                value={typeof field.default === 'string' ? field.default : ''}
                onValue={(v) => onChange({ ...field, default: v || undefined }, 'the default')}
              >
                <option value="">None</option>
                {(field.options ?? []).map((o) => (
                  <option key={o.value} value={o.value}>
                    {o.label}
                  </option>
                ))}
              </Select>
            ) : (
              <input
                {...ids}
                className="input"
                value={typeof field.default === 'string' ? field.default : ''}
                onChange={(e) => onChange({ ...field, default: e.target.value || undefined }, 'the default')}
              />
            )
          }
        </Labelled>
      )}
      <fieldset>
        <legend className="mb-1 font-medium">Shown</legend>
        {places.length === 0 ? (
          <p className="text-faint">Always. It can depend on fields above it; there are none.</p>
        ) : (
          <ConditionEditor
            label="Shown when"
            always="Always"
            places={places}
            value={field.visibleWhen}
            onChange={(visibleWhen) => onChange({ ...field, visibleWhen }, 'when it is shown')}
          />
        )}
      </fieldset>
    </div>
  );
}
