import { FileDown } from 'lucide-react';
import { useId } from 'react';
import { columnsOfList, type LetterTable, type Place, type Write } from '../../core/plans/index.ts';
import { listTypes } from '../../core/values/index.ts';
import { useEditor } from '~/sheet/draft-editor';
import { PassagesEditor } from '~/sheet/passages-editor';
import { PlaceSelect } from '~/sheet/place-select';
import { TextEditor } from '~/sheet/text-editor';
import { Labelled } from '~/ui/field';
import { ListEditor } from '~/ui/list-editor';
import { Select } from '~/ui/select';
import { Switch } from '~/ui/switch';
import type { SettingsProps, StepLook } from './look';

/** What the letter is called, what stands in it, and how it looks. */
function WriteSettings({ step, places, onEdit }: SettingsProps<Write>) {
  const id = useId();
  const open = places.filter((p) => !p.secret);
  const line = (label: string, value: Write['title'], help: string | undefined, onChange: (text: Write['title']) => void) => (
    <div>
      <p className="mb-1 font-medium">{label}</p>
      {help && <p className="mb-1 text-sm text-faint">{help}</p>}
      <TextEditor id={`${id}-${label}`} label={label} manner="line" value={value} places={open} onChange={onChange} />
    </div>
  );
  return (
    <>
      {line('File name', step.fileName, 'Its ending is added. Another letter of the same name in a request is its next version.', (fileName) =>
        onEdit({ ...step, fileName }, 'the file name'),
      )}
      {line('Head of each page', step.head ?? [], undefined, (head) => onEdit({ ...step, head }, 'the head of each page'))}
      {line('Title', step.title, undefined, (title) => onEdit({ ...step, title }, 'the title'))}
      <PassagesEditor
        label="Letter"
        value={step.body}
        places={places}
        onChange={(body) => onEdit({ ...step, body }, 'the letter')}
        below={(passage, set, name) => (
          <TableBelow
            name={name}
            table={passage.table}
            places={open}
            onChange={(table, what) => {
              const { table: _, ...words } = passage;
              set(table ? { ...words, table } : words, what);
            }}
          />
        )}
      />
      <label className="flex items-center gap-2">
        <Switch aria-label="Number the pages" on={step.numbered} onTurned={(numbered) => onEdit({ ...step, numbered }, 'the numbers of pages')} />
        Number the pages
      </label>
      <SeeIt step={step} />
    </>
  );
}

/** A table below a passage: a row for each of a list, and what stands in its columns. */
function TableBelow({
  name,
  table,
  places,
  onChange,
}: {
  name: string;
  table: LetterTable | undefined;
  places: Place[];
  onChange: (table: LetterTable | undefined, what: string) => void;
}) {
  const { catalogue } = useEditor();
  const list = places.find((p) => p.ref === table?.list?.ref);
  const columns = columnsOfList(list, catalogue);
  return (
    <div className="mt-2 space-y-3">
      <label className="flex items-center gap-2">
        <Switch
          aria-label={`A table below ${name}`}
          on={table !== undefined}
          onTurned={(on) => onChange(on ? { columns: [] } : undefined, on ? 'a table' : 'the table')}
        />
        A table below
      </label>
      {table && (
        <>
          <Labelled label="A row for each of">
            {(ids) => (
              <PlaceSelect
                {...ids}
                places={places}
                types={listTypes}
                value={table.list?.ref}
                onChange={(ref) => {
                  const all = columnsOfList(
                    places.find((p) => p.ref === ref),
                    catalogue,
                  );
                  onChange(ref ? { list: { ref }, columns: all.slice(0, 4).map((c) => ({ id: c.id, head: c.label })) } : { columns: [] }, 'the rows');
                }}
              />
            )}
          </Labelled>
          {columns.length > 0 && (
            <div role="group" aria-label={`Columns of the table below ${name}`}>
              <ListEditor
                rows={table.columns}
                keyOf={(_, at) => at}
                nameOf={(c) => `the column “${c.head || c.id}”`}
                addLabel="Add a column"
                movable
                make={() => {
                  const next = columns.find((c) => table.columns.every((t) => t.id !== c.id)) ?? columns[0]!;
                  return { id: next.id, head: next.label };
                }}
                onChange={(next) => onChange({ ...table, columns: next }, 'the columns')}
              >
                {({ row: c, at, set }) => (
                  <div className="flex gap-2">
                    <Select
                      aria-label={`What stands in column ${at + 1}`}
                      value={c.id}
                      onValue={(v) => set({ id: v, head: columns.find((x) => x.id === v)?.label ?? '' })}
                    >
                      {columns.every((x) => x.id !== c.id) && <option value={c.id}>A column that is not there any more</option>}
                      {columns.map((x) => (
                        <option key={x.id} value={x.id}>
                          {x.label}
                        </option>
                      ))}
                    </Select>
                    <input
                      aria-label={`Head of column ${at + 1}`}
                      className="input min-w-0 flex-1"
                      maxLength={100}
                      value={c.head}
                      onChange={(e) => set({ ...c, head: e.target.value })}
                    />
                  </div>
                )}
              </ListEditor>
            </div>
          )}
        </>
      )}
    </div>
  );
}

/** The letter as it is saved, with names where values will stand. */
function SeeIt({ step }: { step: Write }) {
  const { id, save } = useEditor();
  return (
    <p className="border-t pt-3">
      {save.is === 'saved' ? (
        <a
          href={`/workshop/items/${id}/letters/${step.id}`}
          download
          className="inline-flex items-center gap-1 text-sea underline underline-offset-4"
        >
          <FileDown size={14} aria-hidden /> This letter as PDF, with the names of values
        </a>
      ) : (
        <span className="text-faint">The PDF can be had once this is saved.</span>
      )}
    </p>
  );
}

export const write: StepLook<Write> = { Settings: WriteSettings, shape: 'letter' };
