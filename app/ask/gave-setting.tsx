import type { Field } from '../../core/forms/index.ts';
import { useEditor } from '~/sheet/draft-editor';
import { Checkbox } from '~/ui/checkbox';
import { Labelled } from '~/ui/field';
import { Select } from '~/ui/select';

/** Of which action a field offers what it gave. */
export function GaveSetting({ field, onChange }: { field: Field; onChange: (field: Field, what: string) => void }) {
  const giving = useEditor().catalogue.actions.filter((a) => a.gives);
  const { gave } = field;
  return (
    <>
      <Labelled
        label="Given by"
        required
        help="Offered is what the person it is for was given by that. This item then stands beside each such thing under My things."
      >
        {(ids) => (
          <Select {...ids} value={gave ?? ''} onValue={(v) => onChange({ ...field, gave: v || undefined }, 'the action that gave it')}>
            <option value="">Choose …</option>
            {gave !== undefined && !giving.some((a) => a.id === gave) && <option value={gave}>An action that is not there any more</option>}
            {giving.map((a) => (
              <option key={a.id} value={a.id}>
                {`${a.system}: ${a.label}`}
              </option>
            ))}
          </Select>
        )}
      </Labelled>
      <label className="flex items-center gap-2">
        <Checkbox checked={field.lent === true} onChecked={(on) => onChange({ ...field, lent: on || undefined }, 'whether it is lent')} /> Only what
        is lent until a day
      </label>
    </>
  );
}
