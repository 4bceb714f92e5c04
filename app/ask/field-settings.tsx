import { formPlaces, type Place } from '../../core/plans/index.ts';
import { hasColumns, hasFiles, hasHoldings, hasOptions, hasTable, isCounted, mayBeUnique, type Column, type Field } from '../../core/forms/index.ts';
import { Labelled } from '~/ui/field';
import { NameField } from '~/ui/name-field';
import { ConditionEditor } from '~/sheet/condition-editor';
import { fieldKinds } from '~/sheet/field-kinds';
import { Options } from '~/sheet/options';
import { Bounds, Currency } from '~/sheet/bounds';
import { Columns } from '~/sheet/small-fields';
import { Select } from '~/ui/select';
import type { Chosen } from '~/ui/picker';
import { Beginning } from './field-beginning';
import { GaveSetting } from './gave-setting';
import { ShapeEditor } from './shape-editor';
import { UniqueSetting } from './unique-setting';
import { Checkbox } from '~/ui/checkbox';

/** Kinds of text of which can be said how they must be written. */
const shaped: ReadonlySet<Field['kind']> = new Set(['text', 'address', 'phone']);

/** Everything a field can be told. */
export function FieldSettings({
  field,
  isNew,
  above,
  others,
  tables,
  names,
  onChange,
}: {
  field: Field;
  /** It was just added: the keyboard goes to its label. */
  isNew: boolean;
  above: Field[];
  /** All but this one, in their order. */
  others: Field[];
  /** Reference tables by id. */
  tables: Record<string, { name: string; columns: readonly Column[] }>;
  /** What is named in defaults, by id. */
  names: Record<string, string>;
  onChange: (field: Field, what: string, chosen?: Chosen) => void;
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
        <Checkbox
          checked={field.required}
          onChecked={(on) => onChange({ ...field, required: on, requiredWhen: undefined }, 'whether it is required')}
        />{' '}
        An answer is required
      </label>
      {!field.required && others.length > 0 && (
        <fieldset>
          <legend className="mb-1 font-medium">Required sometimes</legend>
          <ConditionEditor
            label="Required when"
            always="Never"
            places={formPlaces({ fields: others })}
            value={field.requiredWhen}
            onChange={(requiredWhen) => onChange({ ...field, requiredWhen }, 'when it is required')}
          />
        </fieldset>
      )}
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
      {hasHoldings(field.kind) && <GaveSetting field={field} onChange={onChange} />}
      {hasOptions(field.kind) && <Options field={field} onChange={onChange} />}
      {field.kind === 'money' && <Currency field={field} onChange={onChange} />}
      {hasColumns(field.kind) && (
        <Columns label="Columns" fields={field.columns ?? []} onChange={(columns) => onChange({ ...field, columns }, 'the columns')} />
      )}
      {(field.kind === 'number' || isCounted(field.kind)) && <Bounds field={field} onChange={onChange} />}
      {shaped.has(field.kind) && <ShapeEditor shape={field.shape} onChange={(shape) => onChange({ ...field, shape }, 'how it must be written')} />}
      {mayBeUnique(field.kind) && <UniqueSetting field={field} tables={tables} onChange={onChange} />}
      {!hasFiles(field.kind) && !hasColumns(field.kind) && !hasHoldings(field.kind) && (
        <Beginning field={field} others={others} tables={tables} names={names} onChange={onChange} />
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
