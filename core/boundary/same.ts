/** Whether two pieces of plain JSON say the same, whatever the order of their names; what is left out and undefined are one. */
export const sameJson = (a: unknown, b: unknown): boolean => a === b || JSON.stringify(sorted(a)) === JSON.stringify(sorted(b));

function sorted(x: unknown): unknown {
  if (Array.isArray(x)) return x.map(sorted);
  if (typeof x !== 'object' || x === null) return x;
  return Object.fromEntries(
    Object.entries(x)
      .filter(([, v]) => v !== undefined)
      .toSorted(([a], [b]) => (a < b ? -1 : 1))
      .map(([k, v]) => [k, sorted(v)]),
  );
}
