import { useState } from 'react';
import { workingDay, workingMinutes, type Expected } from '../../core/calendar/index.ts';
import { Select } from '~/ui/select';

const units = { min: 1, h: 60, d: workingDay } as const;
type Unit = keyof typeof units;

/** Expected working time as three estimates, typed as a number and a unit. */
export function ExpectedTime({ value, onChange }: { value: Expected; onChange: (expected: Expected) => void }) {
  return (
    <fieldset>
      <legend className="mb-1 font-medium">Expected working time</legend>
      <div className="grid grid-cols-3 gap-2">
        {(['min', 'likely', 'max'] as const).map((k) => (
          <One
            key={k}
            label={{ min: 'At least', likely: 'Likely', max: 'At most' }[k]}
            iso={value[k]}
            onChange={(iso) => onChange({ ...value, [k]: iso })}
          />
        ))}
      </div>
    </fieldset>
  );
}

function One({ label, iso, onChange }: { label: string; iso: string; onChange: (iso: string) => void }) {
  const minutes = workingMinutes(iso);
  const [unit, setUnit] = useState<Unit>(
    minutes >= workingDay && minutes % workingDay === 0 ? 'd' : minutes >= 60 && minutes % 60 === 0 ? 'h' : 'min',
  );
  const set = (n: number, u: Unit) => onChange(u === 'd' ? `P${n}D` : u === 'h' ? `PT${n}H` : `PT${n}M`);
  const shown = Math.round((minutes / units[unit]) * 100) / 100;
  return (
    <label className="block text-sm">
      <span className="text-faint">{label}</span>
      <span className="mt-0.5 flex">
        <input
          className="input numbers w-0 grow px-1.5!"
          inputMode="numeric"
          value={shown}
          onChange={(e) => /^\d{0,4}$/.test(e.target.value) && set(Number(e.target.value), unit)}
          aria-label={`${label}: number`}
        />
        <Select
          className="w-14! shrink-0 px-1!"
          value={unit}
          aria-label={`${label}: unit`}
          onValue={(v) => {
            const u = v as Unit;
            setUnit(u);
            set(Math.round(shown), u);
          }}
        >
          <option value="min">min</option>
          <option value="h">h</option>
          <option value="d">d</option>
        </Select>
      </span>
    </label>
  );
}
