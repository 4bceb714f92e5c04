import { withLevel, withoutLevel, type Axis, type PriorityGrid } from '../../core/targets/index.ts';
import { Labelled } from '~/ui/field';
import { freshKey } from '~/ui/fresh-key';
import { ListEditor } from '~/ui/list-editor';
import { Select } from '~/ui/select';

const axes: Record<Axis, { words: string; one: string; help: string }> = {
  impacts: { words: 'Impacts', one: 'impact', help: 'How many it keeps from their work, the widest first.' },
  urgencies: { words: 'Urgencies', one: 'urgency', help: 'How soon it matters, the soonest first.' },
  priorities: { words: 'Priorities', one: 'priority', help: 'The highest first.' },
};

/** Which priority an impact and an urgency give, chosen cell by cell. */
export function Priorities({ grid, onChange }: { grid: PriorityGrid; onChange: (grid: PriorityGrid) => void }) {
  return (
    <>
      <div className="overflow-x-auto">
        <table aria-label="Priority by impact and urgency" className="text-sm">
          <thead>
            <tr className="text-left text-faint">
              <th scope="col" className="px-2 py-1.5 font-normal">
                impact \ urgency
              </th>
              {grid.urgencies.map((u) => (
                <th key={u.id} scope="col" className="px-2 py-1.5 font-normal">
                  {u.label}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {grid.impacts.map((impact, r) => (
              <tr key={impact.id} className="border-t">
                <th scope="row" className="px-2 text-left font-medium">
                  {impact.label}
                </th>
                {grid.urgencies.map((u, c) => (
                  <td key={u.id} className="border-l px-1">
                    <Select
                      aria-label={`${impact.label}, ${u.label}`}
                      className="border-transparent! bg-transparent!"
                      value={grid.cells[r]![c]!}
                      onValue={(v) => onChange({ ...grid, cells: grid.cells.with(r, grid.cells[r]!.with(c, v)) })}
                    >
                      {grid.priorities.map((p) => (
                        <option key={p.id} value={p.id}>
                          {p.label}
                        </option>
                      ))}
                    </Select>
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="mt-3 flex flex-wrap items-end gap-3">
        <Labelled label="Where nobody says: impact">
          {(ids) => (
            <Select {...ids} value={grid.usual.impact} onValue={(impact) => onChange({ ...grid, usual: { ...grid.usual, impact } })}>
              {grid.impacts.map((l) => (
                <option key={l.id} value={l.id}>
                  {l.label}
                </option>
              ))}
            </Select>
          )}
        </Labelled>
        <Labelled label="and urgency">
          {(ids) => (
            <Select {...ids} value={grid.usual.urgency} onValue={(urgency) => onChange({ ...grid, usual: { ...grid.usual, urgency } })}>
              {grid.urgencies.map((l) => (
                <option key={l.id} value={l.id}>
                  {l.label}
                </option>
              ))}
            </Select>
          )}
        </Labelled>
      </p>
      <div className="mt-6 grid gap-6 lg:grid-cols-3">
        {(Object.keys(axes) as Axis[]).map((axis) => (
          <Levels key={axis} axis={axis} grid={grid} onChange={onChange} />
        ))}
      </div>
    </>
  );
}

/** The levels of an axis: called anew where they stand, added, taken away. */
function Levels({ axis, grid, onChange }: { axis: Axis; grid: PriorityGrid; onChange: (grid: PriorityGrid) => void }) {
  const { words, one, help } = axes[axis];
  return (
    <section aria-label={words}>
      <h2 className="font-medium">{words}</h2>
      <p className="mb-2 text-sm text-faint">{help}</p>
      <ListEditor
        rows={grid[axis]}
        keyOf={(l) => l.id}
        nameOf={(l) => `the ${one} “${l.label}”`}
        addLabel={`Add ${one === 'priority' ? 'a' : 'an'} ${one}`}
        make={() => ({ id: freshKey(one), label: `Another ${one}` })}
        onChange={(next) => {
          const added = next.find((l) => !grid[axis].some((x) => x.id === l.id));
          const gone = grid[axis].find((l) => !next.some((x) => x.id === l.id));
          if (added) onChange(withLevel(grid, axis, added));
          else if (gone) onChange(withoutLevel(grid, axis, gone.id));
          else onChange({ ...grid, [axis]: next });
        }}
      >
        {({ row, at, set }) => (
          <input
            aria-label={`${words}: ${at + 1}`}
            className="input"
            maxLength={60}
            value={row.label}
            onChange={(e) => set({ ...row, label: e.target.value })}
          />
        )}
      </ListEditor>
    </section>
  );
}
