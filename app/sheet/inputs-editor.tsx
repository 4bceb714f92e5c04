import { useState } from 'react';
import type { Place } from '../../core/plans/index.ts';
import { fitsFor, isReference, rowType, type Operand, type ValueType } from '../../core/values/index.ts';
import { Labelled } from '~/ui/field';
import { ValueInput } from './condition-editor';
import { PlaceSelect } from './place-select';

interface Slot {
  name: string;
  label: string;
  type: ValueType;
  required: boolean;
  /** Of a text: all that is known where it goes. */
  oneOf?: readonly string[] | undefined;
}

/** What an action, a part or a policy is given: each input picked from a value, or stated. */
export function InputsEditor({
  slots,
  inputs,
  places,
  onChange,
}: {
  slots: Slot[];
  inputs: Record<string, Operand>;
  places: Place[];
  onChange: (inputs: Record<string, Operand>, label: string) => void;
}) {
  return slots.map((slot) => (
    <One
      key={slot.name}
      slot={slot}
      operand={inputs[slot.name]}
      places={places}
      onChange={(o) => onChange(without(inputs, slot.name, o), slot.label.toLowerCase())}
    />
  ));
}

function without(inputs: Record<string, Operand>, name: string, operand: Operand | undefined): Record<string, Operand> {
  const { [name]: _, ...others } = inputs;
  return operand ? { ...others, [name]: operand } : others;
}

function One({
  slot,
  operand,
  places,
  onChange,
}: {
  slot: Slot;
  operand: Operand | undefined;
  places: Place[];
  onChange: (o: Operand | undefined) => void;
}) {
  const [stated, setStated] = useState(operand !== undefined && !isReference(operand));
  const canState = rowType(slot.type) === undefined;
  return (
    <Labelled label={slot.label} required={slot.required}>
      {(ids) => (
        <div className="space-y-1">
          {stated && canState ? (
            <ValueInput
              {...ids}
              label={slot.label}
              place={{
                ref: '',
                label: slot.label,
                always: true,
                source: '',
                ...(slot.oneOf ? { type: 'choice', options: slot.oneOf.map((value) => ({ value, label: value })) } : { type: slot.type }),
              }}
              value={operand && !isReference(operand) ? operand.literal : null}
              onChange={(literal) => onChange(literal === null ? undefined : { literal })}
            />
          ) : (
            <PlaceSelect
              {...ids}
              places={places}
              types={fitsFor(slot.type)}
              value={operand && isReference(operand) ? operand.ref : undefined}
              onChange={(ref) => onChange(ref ? { ref } : undefined)}
            />
          )}
          {canState && (
            <button
              type="button"
              className="text-sm text-sea underline underline-offset-4"
              onClick={() => {
                setStated(!stated);
                onChange(undefined);
              }}
            >
              {stated ? 'Pick a value instead' : 'State it instead'}
            </button>
          )}
        </div>
      )}
    </Labelled>
  );
}
