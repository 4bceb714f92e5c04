import type { Line } from '../../core/plans/index.ts';

/** Sizes in px. */
export const sizes = { ruler: 92, row: 25, lock: 9, indent: 22, wide: 108, narrow: 56, outline: 300 };

/** The columns of the sheet: how wide the outline is and each party. */
export interface Columns {
  outline: number;
  party: number;
  template: string;
  width: number;
}

/** Past seven parties, or where there is no room, their columns are narrow; the outline takes what is left. */
export function columnsFor(width: number, parties: number): Columns {
  const room = Math.floor((width - sizes.ruler - sizes.outline) / Math.max(1, parties));
  const party = parties > 7 ? Math.max(sizes.narrow, Math.min(room, sizes.narrow)) : Math.min(sizes.wide, Math.max(sizes.narrow, room));
  const outline = Math.max(sizes.outline, width - sizes.ruler - parties * party);
  // A plan without steps has no parties, and a grid no columns of which there are none.
  const template = `${sizes.ruler}px ${outline}px${parties > 0 ? ` repeat(${parties}, ${party}px)` : ''}`;
  return { outline, party, template, width: sizes.ruler + outline + parties * party };
}

/** The lines on the longest way: its steps, and what they hang on. */
export function onLongestWay(lines: Line[], isCritical: (step: string) => boolean): Set<string> {
  const found = new Set<string>();
  for (const l of lines.toReversed()) {
    if (l.is === 'step' && isCritical(l.id)) found.add(l.id);
    if (found.has(l.id) && l.parent !== undefined) found.add(l.parent);
  }
  return found;
}

/** The branch side by side with others that a line stands in, innermost; none where it holds up the whole plan. */
export function branchBeside(lines: Line[], line: Line): Line | undefined {
  const byId = new Map(lines.map((l) => [l.id, l]));
  for (let at: Line | undefined = line; at?.parent !== undefined; at = byId.get(at.parent)) {
    const up = byId.get(at.parent);
    if (up?.is === 'branch' && up.guides.at(-1) === 'double') return up;
  }
  return undefined;
}
