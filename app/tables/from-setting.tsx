import { Link } from 'react-router';
import type { SystemList } from '../../core/systems/index.ts';
import type { TableDefinition, TableFrom } from '../../core/tables/index.ts';
import { DurationInput } from '~/sheet/duration-input';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { freshKey } from '~/ui/fresh-key';
import { Select } from '~/ui/select';

interface Offered {
  id: string;
  name: string;
  lists: SystemList[];
}

const addressOf = (from: Pick<TableFrom, 'system' | 'list'>) => `${from.system} ${from.list}`;

/** Where the rows of a table come from: from people, or from what a system lists. */
export function FromSetting({
  definition,
  systems,
  onChange,
}: {
  definition: TableDefinition;
  systems: Offered[];
  onChange: (definition: TableDefinition) => void;
}) {
  const { from } = definition;
  const list = from && systems.find((s) => s.id === from.system)?.lists.find((l) => l.id === from.list);
  const set = (next: TableFrom | undefined) => onChange({ ...definition, from: next });
  const choose = (address: string) => {
    const [system, id] = address.split(' ');
    const chosen = systems.find((s) => s.id === system)?.lists.find((l) => l.id === id);
    set(chosen && { system: system!, list: chosen.id, columns: matched(definition, chosen), every: from?.every ?? 'PT5M' });
  };
  const unread = list?.columns.filter((c) => !from?.columns.some((r) => r.of === c.name)) ?? [];
  return (
    <fieldset>
      <legend className="font-medium">Where its rows come from</legend>
      <p className="mb-1 text-sm text-faint">
        A table that is read from a system says what the system says: rows that it has not any more are taken off, and nobody types into it.
      </p>
      {systems.length === 0 && !from ? (
        <p className="text-sm">
          People keep them. No{' '}
          <Link to="/workshop/systems" className="text-sea underline underline-offset-4">
            registered system
          </Link>{' '}
          lists anything yet that a table could be read from.
        </p>
      ) : (
        <div className="grid gap-4 sm:grid-cols-2">
          <Labelled label="Rows come from">
            {(ids) => (
              <Select {...ids} value={from ? addressOf(from) : ''} onValue={choose}>
                <option value="">People who keep them</option>
                {from && !list && <option value={addressOf(from)}>A list that is not there any more</option>}
                {systems.flatMap((s) =>
                  s.lists.map((l) => (
                    <option key={addressOf({ system: s.id, list: l.id })} value={addressOf({ system: s.id, list: l.id })}>
                      {`${s.name}: ${l.label}`}
                    </option>
                  )),
                )}
              </Select>
            )}
          </Labelled>
          {from && (
            <Labelled label="Read every">
              {(ids) => <DurationInput id={ids.id} label="Read every" iso={from.every} min={1} onChange={(every) => set({ ...from, every })} />}
            </Labelled>
          )}
        </div>
      )}
      {from && list && (
        <div className="mt-3 border-l pl-3">
          <div className="grid gap-x-4 gap-y-1 sm:grid-cols-2">
            {definition.columns.map((c, at) => {
              const label = c.label || `Column ${at + 1}`;
              return (
                <Labelled key={c.id} label={`“${label}” is read from`}>
                  {(ids) => (
                    <Select
                      {...ids}
                      value={from.columns.find((r) => r.column === c.id)?.of ?? ''}
                      onValue={(of) =>
                        set({
                          ...from,
                          columns: [...from.columns.filter((r) => r.column !== c.id && r.of !== of), ...(of === '' ? [] : [{ column: c.id, of }])],
                        })
                      }
                    >
                      <option value="">Nothing</option>
                      {list.columns.map((l) => (
                        <option key={l.name} value={l.name}>
                          {l.label}
                        </option>
                      ))}
                    </Select>
                  )}
                </Labelled>
              );
            })}
          </div>
          {unread.length > 0 && (
            <p className="mt-2 flex flex-wrap items-center gap-2 text-sm">
              <span className="text-faint">It says besides: {unread.map((c) => c.label).join(', ')}.</span>
              <Button onClick={() => onChange(withUnread(definition, from, unread))}>
                {unread.length === 1 ? 'Add a column for it' : `Add columns for these ${unread.length}`}
              </Button>
            </p>
          )}
        </div>
      )}
    </fieldset>
  );
}

/** Columns are read from what is called the same. */
function matched({ columns }: TableDefinition, list: SystemList): TableFrom['columns'] {
  const plain = (words: string) => words.trim().toLowerCase();
  return columns.flatMap((c) => {
    const of = list.columns.find((l) => plain(l.label) === plain(c.label) || plain(l.name) === plain(c.id));
    return of ? [{ column: c.id, of: of.name }] : [];
  });
}

/** The table with a column, at first a text, for each thing that the list says besides. */
function withUnread(definition: TableDefinition, from: TableFrom, unread: SystemList['columns']): TableDefinition {
  const added = unread.slice(0, Math.max(0, 20 - definition.columns.length)).map((c) => ({
    column: { id: freshKey('column'), kind: 'text' as const, label: c.label, required: false },
    of: c.name,
  }));
  return {
    ...definition,
    columns: [...definition.columns, ...added.map((a) => a.column)],
    from: { ...from, columns: [...from.columns, ...added.map((a) => ({ column: a.column.id, of: a.of }))] },
  };
}
