import { hasColumns, isCounted, type Column, type Field } from '../../core/forms/index.ts';
import { Labelled } from '~/ui/field';
import { NumberField } from '~/ui/number-field';

interface Told<F> {
  field: F;
  /** Which one of several it is. */
  of?: string;
  onChange: (field: F, what: string) => void;
}

/** The currency that a sum is in, where whoever fills it in does not state one. */
export function Currency<F extends Field | Column>({ field, of, onChange }: Told<F>) {
  return (
    <Labelled
      label={of === undefined ? 'Currency' : `${of}: currency`}
      help={of === undefined ? 'Three letters (ISO 4217). Left empty, whoever asks states it.' : undefined}
    >
      {(ids) => (
        <input
          {...ids}
          className="input numbers w-24"
          maxLength={3}
          value={field.unit ?? ''}
          onChange={(e) => {
            const unit = e.target.value.toUpperCase().replace(/[^A-Z]/g, '');
            onChange({ ...field, unit: unit || undefined }, 'the currency');
          }}
        />
      )}
    </Labelled>
  );
}

/** How little and how much a number may be and what it counts, or how many lines there are. */
export function Bounds<F extends Field | Column>({ field, of, onChange }: Told<F>) {
  const counts = isCounted(field.kind);
  const many = hasColumns(field.kind) ? 'lines' : ({ choices: 'choices', people: 'people' } as Record<string, string>)[field.kind];
  const bound = (name: 'min' | 'max', label: string) => (
    <div>
      <span aria-hidden className="text-sm text-faint">
        {label}
      </span>
      <NumberField
        aria-label={of === undefined ? label : `${of}: ${label.toLowerCase()}`}
        width="w-full"
        whole={counts}
        {...(counts && { min: 0, max: 1000 })}
        optional
        value={field[name]}
        onValue={(n) => onChange({ ...field, [name]: n }, 'the bounds')}
      />
    </div>
  );
  return (
    <fieldset>
      <legend className={of === undefined ? 'mb-1 font-medium' : 'sr-only'}>
        {of !== undefined && `${of}: `}
        {counts ? `How many ${many ?? 'files'}` : 'Bounds and unit'}
      </legend>
      <div className="grid grid-cols-3 gap-2">
        {bound('min', 'At least')}
        {bound('max', 'At most')}
        {!counts && (
          <label>
            <span className="text-sm text-faint">{of !== undefined && <span className="sr-only">{of}: </span>}Unit</span>
            <input
              className="input"
              maxLength={20}
              value={field.unit ?? ''}
              onChange={(e) => onChange({ ...field, unit: e.target.value || undefined }, 'the unit')}
            />
          </label>
        )}
      </div>
    </fieldset>
  );
}
