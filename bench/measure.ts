import pg from 'pg';

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

interface Statement {
  text: string;
  values?: unknown[];
}

/** Where statements are written down while an act is looked at. Connections keep what sends for them, so this stands before the first is made. */
let written: Statement[] | undefined;
const { query } = pg.Client.prototype as { query: (...args: unknown[]) => unknown };
pg.Client.prototype.query = function (this: pg.Client, ...args: unknown[]) {
  const [given, values] = args as [string | Statement, unknown[] | undefined];
  written?.push(typeof given === 'string' ? { text: given, values } : { text: given.text, values: values ?? given.values });
  return query.apply(this, args);
} as typeof pg.Client.prototype.query;

/** The statements that an act sends to the database, in the order in which it sends them. */
async function statementsOf(act: () => Promise<unknown>): Promise<Statement[]> {
  const sent: Statement[] = (written = []);
  await act().finally(() => (written = undefined));
  return sent;
}

/**
 * Prints how long an act of ours takes (p50, p95), beside the raw SQL of the same question in the same run, and beside the very statements
 * it sends, sent by themselves one after another: what is over those is ours.
 */
export const besideRaw =
  (client: pg.Client) =>
  async (what: string, ours: () => Promise<unknown>, raw: string, values: unknown[] = []): Promise<void> => {
    // As in a server that has been up for a while: all are tried before they are measured.
    await timesOf(ours, 60);
    const own = await statementsOf(ours);
    const sendOwn = async () => {
      for (const [i, s] of own.entries()) await client.query({ name: `${what} ${i}`, text: s.text, values: s.values });
    };
    await timesOf(sendOwn, 20);
    await timesOf(() => client.query(raw, values), 20);
    const [mine, bare, theirs] = [await timesOf(ours, 41), await timesOf(sendOwn, 41), await timesOf(() => client.query(raw, values), 41)];
    const [a, b, c] = [median(mine), median(theirs), median(bare)];
    line(
      what,
      `${a.toFixed(1)} ms`,
      `raw SQL ${b.toFixed(1)} ms: ${(a / b).toFixed(1)} times; p95 ${p95(mine).toFixed(1)} beside ${p95(theirs).toFixed(1)}; its own ${own.length} statements ${c.toFixed(1)}: ${(a / c).toFixed(1)} times`,
    );
  };
