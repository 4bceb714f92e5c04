/**
 * A page of rows of which one more than fits was read: the rows, and where the next page begins; undefined on the last.
 * `cursorOf` names a row by what the list is ordered by.
 */
export function pageOf<T, C>(rows: T[], size: number, cursorOf: (last: T) => C): { rows: T[]; next: C | undefined } {
  return { rows: rows.slice(0, size), next: rows.length > size ? cursorOf(rows[size - 1]!) : undefined };
}

/** A cursor of a moment and what tells rows of the same moment apart; `cursorIn` of the routes reads it. */
export const momentCursor = (at: Date, id: string | number): string => `${at.toISOString()}_${id}`;
