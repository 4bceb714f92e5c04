import type { Column, Field, Unique } from '../../core/forms/index.ts';
import { saysWhether } from '../../core/plans/index.ts';
import { useEditor } from '~/sheet/draft-editor';
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
  const isText = field.kind === 'text';
  const { catalogue } = useEditor();
  const asks = catalogue.actions.filter((a) => saysWhether(a));
  return (
    <div className="space-y-2">
      <Labelled label="Must be the only one among" help="Told while it is typed, and looked at again when it is sent.">
        {(ids) => (
          <Select {...ids} value={unique?.among ?? ''} onValue={(v) => set(v === '' ? undefined : { among: v as Unique['among'] })}>
            <option value="">Nothing: the same may be asked again</option>
            <option value="open">The open requests for this item</option>
            <option value="rows">The rows of a reference table</option>
            {(isText || unique?.among === 'system') && <option value="system">What a system knows of</option>}
            {(isText || unique?.among === 'groups') && <option value="groups">The names of groups in the directory</option>}
          </Select>
        )}
      </Labelled>
      {unique?.among === 'system' && (
        <>
          <Select aria-label="What the system is asked" value={unique.action ?? ''} onValue={(v) => set({ among: 'system', action: v || undefined })}>
            <option value="">Choose what is asked …</option>
            {asks.map((a) => (
              <option key={a.id} value={a.id}>
                {`${a.system}: ${a.label}`}
              </option>
            ))}
          </Select>
          <p className="text-sm text-faint">
            {asks.length === 0
              ? 'No system offers an action that only reads, wants one text, and answers yes or no.'
              : 'It is taken where the system answers yes. While the system cannot be asked, nothing is held up.'}
          </p>
        </>
      )}
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
