const keyOf = (list: string): string => `nessmoor.widths.${list}`;

/** The widths of a list's columns as this browser has them; none where it keeps none. */
export function keptWidths(list: string): Record<string, number> {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(keyOf(list)) ?? '{}');
    if (typeof kept !== 'object' || kept === null) return {};
    return Object.fromEntries(Object.entries(kept).filter((e): e is [string, number] => typeof e[1] === 'number' && e[1] >= 40 && e[1] <= 2000));
  } catch {
    return {};
  }
}

export function keepWidths(list: string, widths: Record<string, number>): void {
  try {
    localStorage.setItem(keyOf(list), JSON.stringify(widths));
  } catch {
    // A browser that keeps nothing shows the widths of the list.
  }
}

/** How narrow and how wide a column can be made, in pixels. */
export const leastWide = 56;
export const mostWide = 900;

const frozenOf = (list: string): string => `nessmoor.in-sight.${list}`;

/** How many of a list's first columns stay in sight, as this browser has it; undefined where it keeps nothing. */
export function keptInSight(list: string): number | undefined {
  try {
    const kept = localStorage.getItem(frozenOf(list));
    return kept !== null && /^\d{1,2}$/.test(kept) ? Number(kept) : undefined;
  } catch {
    return undefined;
  }
}

export function keepInSight(list: string, columns: number): void {
  try {
    localStorage.setItem(frozenOf(list), String(columns));
  } catch {
    // As for the widths.
  }
}
