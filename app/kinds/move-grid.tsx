import { clsx } from 'clsx';
import { LockKeyhole } from 'lucide-react';
import { useRef, type KeyboardEvent } from 'react';
import { clockEffects, isFinal, moveOf, reopens, requesterWords, type ClockEffect, type StatusMap } from '../../core/statuses/index.ts';
import { Select } from '~/ui/select';

export const clockWords: Record<ClockEffect, string> = { runs: 'runs', answers: 'answers', holds: 'holds', ends: 'ends' };
const clockTone: Record<ClockEffect, string> = { runs: '', answers: 'text-sea', holds: 'text-ochre', ends: 'text-moss' };

/** What is described below the grid: a status, or a move. */
export type Chosen = { status: string } | { from: string; to: string };

/** The move that a press of a cell makes or takes back. */
export function toggled(map: StatusMap, from: string, to: string): StatusMap {
  if (moveOf(map, from, to)) return { ...map, moves: map.moves.filter((m) => m.from !== from || m.to !== to) };
  return { ...map, moves: [...map.moves, { from, to, who: ['team'], needs: [] }] };
}

/**
 * The moves between statuses: a dot lets a ticket go from row to column, a turned arrow reopens it; a lock says that somebody has to agree first. Arrows go from cell to cell, Space
 * makes a move or takes it back, Enter describes it below.
 */
export function MoveGrid({
  map,
  chosen,
  onChange,
  onChoose,
}: {
  map: StatusMap;
  chosen: Chosen | undefined;
  onChange: (map: StatusMap) => void;
  onChoose: (chosen: Chosen) => void;
}) {
  const grid = useRef<HTMLTableElement>(null);
  const { statuses } = map;
  const keys = (e: KeyboardEvent, r: number, c: number) => {
    const by = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[e.key];
    if (!by) return;
    e.preventDefault();
    for (let [y, x] = [r + by[0]!, c + by[1]!]; y >= 0 && x >= 0 && y < statuses.length && x < statuses.length; y += by[0]!, x += by[1]!) {
      const cell = grid.current?.querySelector<HTMLElement>(`[data-move="${y} ${x}"]`);
      if (cell) return cell.focus();
    }
  };
  const isChosen = (from: string, to: string) => chosen !== undefined && 'from' in chosen && chosen.from === from && chosen.to === to;
  // One tab stop: the chosen move, else the first.
  const stop = chosen && 'from' in chosen ? `${chosen.from} ${chosen.to}` : statuses.length > 1 ? `${statuses[0]!.id} ${statuses[1]!.id}` : '';
  return (
    <div className="overflow-x-auto">
      <table ref={grid} aria-label="Moves" className="border-collapse text-sm">
        <thead>
          <tr className="align-bottom text-faint">
            <th scope="col" className="px-2 pb-2 text-left font-normal whitespace-nowrap">
              from \ to
            </th>
            {statuses.map((s) => (
              <th key={s.id} scope="col" className="h-28 w-12 pb-2 font-normal">
                <span className="inline-block rotate-180 whitespace-nowrap [writing-mode:vertical-rl]">{s.name}</span>
              </th>
            ))}
            <th scope="col" className="w-32 px-3 pb-2 text-left font-normal">
              clock
            </th>
            <th scope="col" className="px-2 pb-2 text-left font-normal">
              words for the requester
            </th>
          </tr>
        </thead>
        <tbody>
          {statuses.map((from, r) => (
            <tr key={from.id} className="border-t">
              <th scope="row" className="text-left font-medium">
                <button
                  type="button"
                  className={clsx(
                    'w-full px-2 py-1.5 text-left whitespace-nowrap hover:text-sea',
                    chosen && 'status' in chosen && chosen.status === from.id && 'bg-sea-wash',
                  )}
                  onClick={() => onChoose({ status: from.id })}
                >
                  {from.name} {map.begin === from.id && <span aria-label="where a ticket begins">●</span>}
                  {from.clock === 'ends' && isFinal(map, from.id) && <span aria-label="over for good">◎</span>}
                </button>
              </th>
              {statuses.map((to, c) => {
                if (to.id === from.id) return <td key={to.id} className="border-l bg-paper" />;
                const move = moveOf(map, from.id, to.id);
                const again = move && reopens(map, from.id, to.id);
                return (
                  <td key={to.id} className="border-l p-0 text-center last:border-r">
                    <button
                      type="button"
                      data-move={`${r} ${c}`}
                      tabIndex={stop === `${from.id} ${to.id}` ? 0 : -1}
                      aria-pressed={move !== undefined}
                      aria-label={`${from.name} to ${to.name}${again ? ', reopens it' : ''}${move?.gate ? ', once it is agreed to' : ''}`}
                      className={clsx('block h-8 w-12 hover:bg-sea-wash', isChosen(from.id, to.id) && 'bg-sea-wash ring-2 ring-sea ring-inset')}
                      onClick={() => {
                        // A move that is there is chosen first; pressed again it is taken back.
                        if (!move || isChosen(from.id, to.id)) onChange(toggled(map, from.id, to.id));
                        onChoose({ from: from.id, to: to.id });
                      }}
                      onKeyDown={(e) => keys(e, r, c)}
                    >
                      {move ? again ? '↺' : <span className="inline-block size-2.5 rounded-full bg-ink" /> : ''}
                      {move?.gate && <LockKeyhole aria-hidden size={12} className="ml-1 inline-block align-baseline text-ochre" />}
                    </button>
                  </td>
                );
              })}
              <td className="border-l px-1">
                <Select
                  aria-label={`${from.name}: clock`}
                  className={clsx('border-transparent! bg-transparent!', clockTone[from.clock])}
                  value={from.clock}
                  onValue={(v) => onChange({ ...map, statuses: statuses.map((s) => (s.id === from.id ? { ...s, clock: v as ClockEffect } : s)) })}
                >
                  {clockEffects.map((k) => (
                    <option key={k} value={k}>
                      {clockWords[k]}
                    </option>
                  ))}
                </Select>
              </td>
              <td className="min-w-52 p-0">
                <input
                  aria-label={`${from.name}: words for the requester`}
                  className="w-full bg-transparent px-2 py-1.5 outline-none focus:bg-sea-wash"
                  maxLength={80}
                  placeholder={requesterWords(from)}
                  value={from.words}
                  onChange={(e) => onChange({ ...map, statuses: statuses.map((s) => (s.id === from.id ? { ...s, words: e.target.value } : s)) })}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
