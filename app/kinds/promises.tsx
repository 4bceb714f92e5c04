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
            <Select
              aria-label={`Promise ${at + 1}: which hours count`}
              className="mt-1"
              value={p.within.counted}
              onValue={(v) => set({ ...p, within: { ...p.within, counted: v as TicketPromise['within']['counted'] } })}
            >
              <option value="working">of working time</option>
              <option value="always">round the clock</option>
            </Select>
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
            when late, its priority
            <span className="w-36">
              <Select
                aria-label={`Promise ${at + 1}: raised to when late`}
                value={p.late.raise ?? ''}
                onValue={(v) => set({ ...p, late: { tell: p.late.tell, ...(v && { raise: v }) } })}
              >
                <option value="">stays</option>
                {grid.priorities.map((l) => (
                  <option key={l.id} value={l.id}>
                    becomes {l.label}
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
