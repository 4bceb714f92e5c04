import type { Place } from '../../core/plans/index.ts';
import type { ValueType } from '../../core/values/index.ts';
import { Combobox } from '~/ui/combobox';

/** Picks a value among those that exist at this point; nobody types a path. */
export function PlaceSelect({
  places,
  types,
  value,
  onChange,
  empty = 'Pick a value …',
  ...ids
}: {
  places: Iterable<Place>;
  types?: ValueType[];
  value: string | undefined;
  onChange: (ref: string | undefined) => void;
  empty?: string;
  id?: string;
  'aria-label'?: string;
  'aria-describedby'?: string | undefined;
}) {
  const fitting = [...places].filter((p) => !types || types.includes(p.type));
  const sources = [...new Set(fitting.map((p) => p.source))];
  const known = value === undefined || fitting.some((p) => p.ref === value);
  return (
    <Combobox {...ids} value={value ?? ''} onValue={(v) => onChange(v || undefined)}>
      <option value="">{empty}</option>
      {!known && <option value={value}>A value that does not exist here</option>}
      {sources.map((s) => (
        <optgroup key={s} label={s}>
          {fitting
            .filter((p) => p.source === s)
            .map((p) => (
              <option key={p.ref} value={p.ref}>
                {p.label}
                {p.always ? '' : ' (may have no value)'}
              </option>
            ))}
        </optgroup>
      ))}
    </Combobox>
  );
}
