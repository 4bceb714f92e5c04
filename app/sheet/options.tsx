import type { Column, Field } from '../../core/forms/index.ts';
import { freshKey } from '~/ui/fresh-key';
import { ListEditor } from '~/ui/list-editor';

/** The choices there are, in their order. */
export function Options<F extends Field | Column>({ field, onChange }: { field: F; onChange: (field: F, what: string) => void }) {
  return (
    <fieldset>
      <legend className="mb-1 font-medium">Choices</legend>
      <ListEditor
        rows={field.options ?? []}
        keyOf={(o) => o.value}
        nameOf={(o) => `“${o.label}”`}
        addLabel="Add a choice"
        make={() => ({ value: freshKey('choice'), label: '' })}
        onChange={(options) => onChange({ ...field, options }, 'the choices')}
      >
        {({ row, at, set }) => (
          <input
            className="input"
            aria-label={`Choice ${at + 1}`}
            value={row.label}
            maxLength={120}
            onChange={(e) => set({ ...row, label: e.target.value })}
          />
        )}
      </ListEditor>
    </fieldset>
  );
}
