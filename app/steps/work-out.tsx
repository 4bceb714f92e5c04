import { Labelled } from '~/ui/field';
import { PlaceSelect } from '~/sheet/place-select';
import { type ValueType, typeWords } from '../../core/values/index.ts';
import type { WorkOut } from '../../core/plans/index.ts';
import { readExpression } from '../../core/expressions/index.ts';
import { useRef } from 'react';
import type { SettingsProps, StepLook } from './look';
import { Select } from '~/ui/select';

const results: ValueType[] = ['number', 'text', 'boolean', 'date', 'instant', 'money', 'person', 'texts', 'people'];

/** A value computed from others, in FEEL; values are picked into it. */
function WorkOutSettings({ step, places, onEdit }: SettingsProps<WorkOut>) {
  const area = useRef<HTMLTextAreaElement>(null);
  const parsed = readExpression(step.feel);
  const insert = (ref: string) => {
    const box = area.current;
    const [from, to] = [box?.selectionStart ?? step.feel.length, box?.selectionEnd ?? step.feel.length];
    onEdit({ ...step, feel: step.feel.slice(0, from) + ref + step.feel.slice(to) }, 'the expression');
    requestAnimationFrame(() => {
      box?.focus();
      box?.setSelectionRange(from + ref.length, from + ref.length);
    });
  };
  const names = parsed.ok ? parsed.refs.map((ref) => places.find((p) => p.ref === ref)?.label ?? 'a value that does not exist') : [];
  return (
    <>
      <Labelled
        label="Expression (FEEL)"
        help="The language of the DMN standard. Dates are read with date(…)."
        problem={parsed.ok || !step.feel.trim() ? undefined : parsed.sentence}
      >
        {(ids) => (
          <textarea
            {...ids}
            ref={area}
            className="input numbers"
            rows={4}
            spellCheck={false}
            value={step.feel}
            maxLength={2000}
            onChange={(e) => onEdit({ ...step, feel: e.target.value }, 'the expression')}
          />
        )}
      </Labelled>
      {names.length > 0 && <p className="-mt-3 text-sm text-faint">Reads {names.join(', ')}.</p>}
      <PlaceSelect
        aria-label="Insert a value into the expression"
        places={places.filter((p) => !p.secret)}
        value={undefined}
        empty="Insert a value …"
        onChange={(ref) => ref && insert(ref)}
      />
      <Labelled label="The result is a">
        {(ids) => (
          <Select {...ids} value={step.type} onValue={(v) => onEdit({ ...step, type: v as ValueType }, 'the type of its result')}>
            {results.map((t) => (
              <option key={t} value={t}>
                {typeWords[t]}
              </option>
            ))}
          </Select>
        )}
      </Labelled>
    </>
  );
}

export const workOut: StepLook<WorkOut> = { Settings: WorkOutSettings, shape: 'reckoning' };
