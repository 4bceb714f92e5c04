import { z } from 'zod';
import { line } from '../boundary/index.ts';
import { Id } from '../values/index.ts';

/** One of a few that can be chosen: an impact, an urgency, a priority. */
export const Level = z.object({ id: Id, label: line(60).trim().min(1, 'Every level needs words.') });
export type Level = z.infer<typeof Level>;

/** Which priority an impact and an urgency give. */
export const PriorityGrid = z
  .object({
    impacts: z.array(Level).min(1).max(10),
    urgencies: z.array(Level).min(1).max(10),
    /** Highest first. */
    priorities: z.array(Level).min(1).max(10),
    /** A row for each impact, in it a priority for each urgency. */
    cells: z.array(z.array(Id)).max(10),
    /** What a ticket begins with where nobody says. */
    usual: z.object({ impact: Id, urgency: Id }),
  })
  .superRefine((grid, ctx) => {
    const wrong = (path: (string | number)[], message: string) => ctx.addIssue({ code: 'custom', path, message });
    for (const of of ['impacts', 'urgencies', 'priorities'] as const)
      if (new Set(grid[of].map((l) => l.id)).size < grid[of].length) wrong([of], 'Two of these have the same id.');
    const known = new Set(grid.priorities.map((p) => p.id));
    if (grid.cells.length !== grid.impacts.length || grid.cells.some((row) => row.length !== grid.urgencies.length))
      wrong(['cells'], 'Every impact and urgency together need a priority.');
    else if (grid.cells.some((row) => row.some((p) => !known.has(p)))) wrong(['cells'], 'A priority in the grid is not there any more.');
    if (!grid.impacts.some((l) => l.id === grid.usual.impact)) wrong(['usual', 'impact'], 'Say which impact is the usual one.');
    if (!grid.urgencies.some((l) => l.id === grid.usual.urgency)) wrong(['usual', 'urgency'], 'Say which urgency is the usual one.');
  });
export type PriorityGrid = z.infer<typeof PriorityGrid>;

/** The priority that an impact and an urgency give; undefined where the grid does not know one of them. */
export function priorityFor(grid: PriorityGrid, impact: string, urgency: string): string | undefined {
  const [row, column] = [grid.impacts.findIndex((l) => l.id === impact), grid.urgencies.findIndex((l) => l.id === urgency)];
  return row < 0 || column < 0 ? undefined : grid.cells[row]?.[column];
}

/** What stands for a level; its id where it is not known any more. */
export const levelWords = (levels: readonly Level[], id: string): string => levels.find((l) => l.id === id)?.label ?? id;

/** High, medium and low by impact and urgency: common practice, no source. */
export const usualGrid: PriorityGrid = {
  impacts: [
    { id: 'many', label: 'A department or more' },
    { id: 'several', label: 'Several people' },
    { id: 'one', label: 'One person' },
  ],
  urgencies: [
    { id: 'now', label: 'Work stands still' },
    { id: 'soon', label: 'Work is slowed down' },
    { id: 'later', label: 'It can wait' },
  ],
  priorities: [
    { id: 'high', label: 'high' },
    { id: 'medium', label: 'medium' },
    { id: 'low', label: 'low' },
  ],
  cells: [
    ['high', 'high', 'medium'],
    ['high', 'medium', 'low'],
    ['medium', 'low', 'low'],
  ],
  usual: { impact: 'one', urgency: 'soon' },
};
