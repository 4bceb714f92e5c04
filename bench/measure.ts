import type pg from 'pg';

/** One figure, and beside it what it is held against. */
export const line = (what: string, figure: string, beside = '') => console.log(`${what.padEnd(64)} ${figure.padStart(14)}  ${beside}`);

const median = (times: number[]) => times.toSorted((a, b) => a - b)[Math.floor(times.length / 2)]!;
async function timesOf(act: () => Promise<unknown>, rounds: number): Promise<number[]> {
  const times: number[] = [];
  for (let i = 0; i < rounds; i++) {
    const begin = performance.now();
    await act();
    times.push(performance.now() - begin);
  }
  return times;
}
/** The median time of an act, in milliseconds. */
export const timed = async (act: () => Promise<unknown>, rounds = 21): Promise<number> => median(await timesOf(act, rounds));
/** The time under which 95 of 100 of them are. */
const p95 = (times: number[]) => times.toSorted((a, b) => a - b)[Math.floor(times.length * 0.95)]!;

/** Prints how long an act of ours takes (p50, p95), beside the raw SQL of the same question in the same run. */
export const besideRaw =
  (client: pg.Client) =>
  async (what: string, ours: () => Promise<unknown>, raw: string, values: unknown[] = []): Promise<void> => {
    // As in a server that has been up for a while: both are tried before they are measured.
    await timesOf(ours, 60);
    await timesOf(() => client.query(raw, values), 20);
    const [mine, theirs] = [await timesOf(ours, 41), await timesOf(() => client.query(raw, values), 41)];
    const [a, b] = [median(mine), median(theirs)];
    line(
      what,
      `${a.toFixed(1)} ms`,
      `raw SQL ${b.toFixed(1)} ms: ${(a / b).toFixed(1)} times; p95 ${p95(mine).toFixed(1)} beside ${p95(theirs).toFixed(1)}`,
    );
  };
