import { promisedThings, type PriorityGrid, type TicketPromise } from '../../core/targets/index.ts';
import { DurationInput } from '~/sheet/duration-input';
import { Checkbox } from '~/ui/checkbox';
import { ListEditor } from '~/ui/list-editor';
import { NumberField } from '~/ui/number-field';
import { Select } from '~/ui/select';

const things: Record<TicketPromise['of'], string> = { response: 'A first word', fulfilment: 'Done' };
const tells: Record<TicketPromise['late']['tell'], string> = { holder: 'whoever has it', team: 'its whole team', nobody: 'nobody' };

/** What is promised, line by line: the nearest place counts, then the first that is for the ticket. */
export function Promises({
  promises,
  grid,
  places,
  onChange,
}: {
  promises: TicketPromise[];
  grid: PriorityGrid;
  places: { id: string; name: string }[];
  onChange: (promises: TicketPromise[]) => void;
}) {
  return (
    <ListEditor
      rows={promises}
      keyOf={(_, at) => at}
      nameOf={(p) => `the promise “${things[p.of]}”`}
      addLabel="Add a promise"
      make={(): TicketPromise => ({
        of: 'fulfilment',
        priorities: [],
        places: [],
        within: { length: 'PT8H', counted: 'working' },
        warnAt: 75,
        late: { tell: 'holder' },
      })}
      onChange={onChange}
      ruled
      movable
    >
      {({ row: p, at, set }) => (
        <div className="grid min-w-0 grow gap-x-4 gap-y-2 items-start lg:grid-cols-[150px_auto_150px_minmax(0,1fr)]">
          <Select aria-label={`Promise ${at + 1}: what`} value={p.of} onValue={(v) => set({ ...p, of: v as TicketPromise['of'] })}>
            {promisedThings.map((t) => (
              <option key={t} value={t}>
                {things[t]}
              </option>
            ))}
          </Select>
          <span className="flex min-h-8 flex-wrap items-center gap-x-3">
            {grid.priorities.map((l) => (
              <label key={l.id} className="flex items-center gap-1.5">
                <Checkbox
                  checked={p.priorities.includes(l.id)}
                  onChecked={(on) => set({ ...p, priorities: on ? [...p.priorities, l.id] : p.priorities.filter((x) => x !== l.id) })}
                />{' '}
                {l.label}
              </label>
            ))}
            {p.priorities.length === 0 && <span className="text-sm text-faint">any priority</span>}
          </span>
          <span>
            <DurationInput
              label={`Promise ${at + 1}: within`}
              iso={p.within.length}
              min={1}
              onChange={(length) => set({ ...p, within: { ...p.within, length } })}
            />
          </span>
          <span className="flex flex-wrap items-center gap-2 text-sm">
            <span className="w-40">
              <Select aria-label={`Promise ${at + 1}: where`} value={p.places[0] ?? ''} onValue={(v) => set({ ...p, places: v ? [v] : [] })}>
                <option value="">anywhere</option>
                {places.map((x) => (
                  <option key={x.id} value={x.id}>
                    {x.name}
                  </option>
                ))}
              </Select>
            </span>
            warned at
            <NumberField
              aria-label={`Promise ${at + 1}: warned at percent`}
              width="w-16"
              min={1}
              max={99}
              value={p.warnAt}
              onValue={(n) => n !== undefined && set({ ...p, warnAt: Math.round(n) })}
            />{' '}
            %, told is
            <span className="w-36">
              <Select
                aria-label={`Promise ${at + 1}: who is told`}
                value={p.late.tell}
                onValue={(v) => set({ ...p, late: { ...p.late, tell: v as TicketPromise['late']['tell'] } })}
              >
                {Object.entries(tells).map(([k, words]) => (
                  <option key={k} value={k}>
                    {words}
                  </option>
                ))}
              </Select>
            </span>
          </span>
        </div>
      )}
    </ListEditor>
  );
}

/** Which priority an impact and an urgency give, chosen cell by cell. */
export function Priorities({ grid, onChange }: { grid: PriorityGrid; onChange: (grid: PriorityGrid) => void }) {
  return (
    <div className="overflow-x-auto">
      <table aria-label="Priority by impact and urgency" className="text-sm">
        <thead>
          <tr className="text-left text-faint">
            <th scope="col" className="px-2 py-1.5 font-normal">
              impact \ urgency
            </th>
            {grid.urgencies.map((u, c) => (
              <th key={u.id} scope="col" className="px-2 py-1.5 font-normal">
                <input
                  aria-label={`Urgency ${c + 1}`}
                  className="w-40 bg-transparent focus:bg-sea-wash"
                  maxLength={60}
                  value={u.label}
                  onChange={(e) => onChange({ ...grid, urgencies: grid.urgencies.with(c, { ...u, label: e.target.value }) })}
                />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {grid.impacts.map((impact, r) => (
            <tr key={impact.id} className="border-t">
              <th scope="row" className="px-2 text-left font-medium">
                <input
                  aria-label={`Impact ${r + 1}`}
                  className="w-48 bg-transparent focus:bg-sea-wash"
                  maxLength={60}
                  value={impact.label}
                  onChange={(e) => onChange({ ...grid, impacts: grid.impacts.with(r, { ...impact, label: e.target.value }) })}
                />
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
  );
}
