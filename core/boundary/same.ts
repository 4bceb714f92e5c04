/** Whether two pieces of plain JSON say the same, whatever the order of their names; what is left out and undefined are one. */
export function sameJson(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
  if (Array.isArray(a) || Array.isArray(b))
    return Array.isArray(a) && Array.isArray(b) && a.length === b.length && a.every((x, i) => sameJson(x, b[i]));
  const [one, other] = [a as Record<string, unknown>, b as Record<string, unknown>];
  let names = 0;
  for (const name of Object.keys(one)) {
    if (one[name] === undefined) continue;
    names++;
    if (!Object.hasOwn(other, name) || !sameJson(one[name], other[name])) return false;
  }
  for (const name of Object.keys(other)) if (other[name] !== undefined) names--;
  return names === 0;
}
