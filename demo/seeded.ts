/** A small seeded generator (mulberry32): the same seed gives the same organisation every time. */
export function seeded(seed: number) {
  let a = seed >>> 0;
  const next = (): number => {
    a = (a + 0x6d2b79f5) >>> 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  };
  const int = (max: number) => Math.floor(next() * max);
  return {
    int,
    pick: <T>(list: readonly T[]): T => list[int(list.length)]!,
    /** `n` different ones, in the list's order. */
    some: <T>(list: readonly T[], n: number): T[] => {
      const left = [...list.keys()];
      const chosen = new Set<number>();
      while (chosen.size < Math.min(n, list.length)) chosen.add(left.splice(int(left.length), 1)[0]!);
      return [...chosen].sort((x, y) => x - y).map((i) => list[i]!);
    },
  };
}
