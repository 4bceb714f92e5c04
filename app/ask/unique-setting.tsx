import type { Column, Field, Unique } from '../../core/forms/index.ts';
import { Labelled } from '~/ui/field';
import { Select } from '~/ui/select';

/** Among what an answer must be the only one. */
export function UniqueSetting({
  field,
  tables,
  onChange,
}: {
  field: Field;
  tables: Record<string, { name: string; columns: readonly Column[] }>;
  onChange: (field: Field, what: string) => void;
}) {
  const { unique } = field;
  const set = (next: Unique | undefined) => onChange({ ...field, unique: next }, 'what it must be the only one among');
  const rows = unique?.among === 'rows' ? unique : undefined;
  return (
    <div className="space-y-2">
      <Labelled label="Must be the only one among" help="Told while it is typed, and looked at again when it is sent.">
        {(ids) => (
          <Select {...ids} value={unique?.among ?? ''} onValue={(v) => set(v === '' ? undefined : { among: v as Unique['among'] })}>
            <option value="">Nothing: the same may be asked again</option>
            <option value="open">The open requests for this item</option>
            <option value="rows">The rows of a reference table</option>
            {(field.kind === 'text' || unique?.among === 'groups') && <option value="groups">The names of groups in the directory</option>}
          </Select>
        )}
      </Labelled>
      {rows && (
        <div className="grid grid-cols-2 gap-2">
          <Select aria-label="Among the rows of which table" value={rows.table ?? ''} onValue={(v) => set({ among: 'rows', table: v || undefined })}>
            <option value="">Choose the table …</option>
            {Object.entries(tables).map(([id, t]) => (
              <option key={id} value={id}>
                {t.name}
              </option>
            ))}
          </Select>
          <Select aria-label="By which column" value={rows.column ?? ''} onValue={(v) => set({ ...rows, column: v || undefined })}>
            <option value="">Choose the column …</option>
            {(rows.table === undefined ? [] : (tables[rows.table]?.columns ?? [])).map((c) => (
              <option key={c.id} value={c.id}>
                {c.label}
              </option>
            ))}
          </Select>
        </div>
      )}
    </div>
  );
}
