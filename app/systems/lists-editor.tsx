import type { SystemList } from '../../core/systems/index.ts';
import { freshKey } from '~/ui/fresh-key';
import { Line } from '~/ui/line';
import { ListEditor } from '~/ui/list-editor';
import { Captioned } from './captioned';

const pointers: { field: 'rows' | 'next'; caption: string; label: string; placeholder: string }[] = [
  { field: 'rows', caption: 'Rows at', label: 'Where its rows stand', placeholder: '/rows' },
  { field: 'next', caption: 'Next page, at', label: 'Where the path of its next page stands', placeholder: 'one page' },
];

/** What the system lists that tables can be read from: where, and what a row of it says. */
export function ListsEditor({
  lists,
  problem,
  onChange,
}: {
  lists: SystemList[];
  problem: (field: string) => string | undefined;
  onChange: (lists: SystemList[]) => void;
}) {
  return (
    <ListEditor
      rows={lists}
      keyOf={(l) => l.id}
      nameOf={(l) => l.label || 'this list'}
      addLabel="Add a list"
      make={(): SystemList => ({ id: freshKey('list'), label: '', path: '/', rows: '', columns: [] })}
      onChange={onChange}
      ruled
    >
      {({ row, at, set }) => <OneList at={`lists[${at}]`} problem={problem} list={row} onChange={set} />}
    </ListEditor>
  );
}

function OneList({
  at: place,
  problem,
  list: l,
  onChange,
}: {
  at: string;
  problem: (field: string) => string | undefined;
  list: SystemList;
  onChange: (list: SystemList) => void;
}) {
  const named = (field: string) => ({ name: `${place}.${field}`, problem: problem(`${place}.${field}`) });
  const what = l.label || 'this list';
  return (
    <fieldset className="space-y-2">
      <legend className="sr-only">{what}</legend>
      <div className="grid grid-cols-[1.4fr_1.4fr_1fr_1fr] items-start gap-2 text-sm">
        <Captioned
          {...named('label')}
          caption="Name"
          label="Name of the list"
          placeholder="What it lists"
          value={l.label}
          maxLength={80}
          onChange={(e) => onChange({ ...l, label: e.target.value })}
        />
        <Captioned
          {...named('path')}
          caption="Path (GET)"
          className="numbers"
          label={`Path of ${what}`}
          value={l.path}
          onChange={(e) => onChange({ ...l, path: e.target.value })}
        />
        {pointers.map(({ field, caption, label, placeholder }) => (
          <Captioned
            key={field}
            {...named(field)}
            caption={caption}
            className="numbers"
            label={`${label}, of ${what}: JSON Pointer`}
            placeholder={placeholder}
            value={l[field] ?? ''}
            onChange={(e) => onChange({ ...l, [field]: e.target.value || (field === 'rows' ? '' : undefined) })}
          />
        ))}
      </div>
      {problem(`${place}.columns`) && <p className="text-sm text-coral">{problem(`${place}.columns`)}</p>}
      <ListEditor
        rows={l.columns}
        keyOf={(c) => c.name}
        nameOf={(c) => c.label || 'this column'}
        addLabel="Add what a row says"
        make={(): SystemList['columns'][number] => ({ name: freshKey('column'), label: '', at: '/' })}
        onChange={(columns) => onChange({ ...l, columns })}
      >
        {({ row: c, at, set }) => (
          <div className="grid grid-cols-2 items-start gap-2">
            <Line
              {...named(`columns[${at}].label`)}
              label={`Column ${at + 1} of ${what}: label`}
              placeholder="What it says"
              value={c.label}
              maxLength={80}
              onChange={(e) => set({ ...c, label: e.target.value })}
            />
            <Line
              {...named(`columns[${at}].at`)}
              className="numbers"
              label={`Column ${at + 1} of ${what}: where in the row, JSON Pointer`}
              placeholder="/id"
              value={c.at}
              onChange={(e) => set({ ...c, at: e.target.value })}
            />
          </div>
        )}
      </ListEditor>
    </fieldset>
  );
}
