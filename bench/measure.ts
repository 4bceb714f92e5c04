import type pg from 'pg';

/** One figure, and beside it what it is held against. */
export const line = (what: string, figure: string, beside = '') => console.log(`${what.padEnd(64)} ${figure.padStart(14)}  ${beside}`);

const median = (times: number[]) => times.toSorted((a, b) => a - b)[Math.floor(times.length / 2)]!;
/** The median time of an act, in milliseconds. */
export async function timed(act: () => Promise<unknown>, rounds = 21): Promise<number> {
  const times: number[] = [];
  for (let i = 0; i < rounds; i++) {
    const begin = performance.now();
    await act();
    times.push(performance.now() - begin);
  }
  return median(times);
}

/** Prints how long an act of ours takes, beside the raw SQL of the same question in the same run. */
export const besideRaw =
  (client: pg.Client) =>
  async (what: string, ours: () => Promise<unknown>, raw: string, values: unknown[] = []): Promise<void> => {
    const a = await timed(ours);
    const b = await timed(() => client.query(raw, values));
    line(what, `${a.toFixed(1)} ms`, `raw SQL ${b.toFixed(1)} ms: ${(a / b).toFixed(1)} times`);
  };
