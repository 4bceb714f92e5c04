import { log } from '../log.ts';

interface Waiting<T, R> {
  item: T;
  done: (result: R) => void;
  failed: (reason: unknown) => void;
}

/**
 * Makes one act for many out of work that comes one by one: what arrives while a batch is under way goes into the
 * next, so that a busy process pays for one transaction where it would pay for dozens, and an idle one waits for
 * nothing. Two batches may be under way, so that one is prepared while the database works on the other. `work` gives a
 * result an item, in their order; an item is done when its batch is. A batch that fails is done again one by one, so that
 * only the item at fault fails.
 */
export function batched<T, R = void>(work: (items: T[]) => Promise<R[]>, { most = 32, atOnce = 2 } = {}): (item: T) => Promise<R> {
  const waiting: Waiting<T, R>[] = [];
  let underWay = 0;

  async function one(entry: Waiting<T, R>): Promise<void> {
    try {
      const [result] = await work([entry.item]);
      entry.done(result as R);
    } catch (error) {
      entry.failed(error);
    }
  }

  async function drain(): Promise<void> {
    underWay++;
    while (waiting.length > 0) {
      const batch = waiting.splice(0, most);
      if (batch.length === 1) await one(batch[0]!);
      else {
        try {
          const results = await work(batch.map((entry) => entry.item));
          batch.forEach((entry, i) => entry.done(results[i] as R));
        } catch (error) {
          log.warn({ error: error instanceof Error ? error.message : String(error), items: batch.length }, 'a batch failed; done again one by one');
          for (const entry of batch) await one(entry);
        }
      }
      // Whoever was told just now may bring the next piece of work at once.
      await new Promise(setImmediate);
    }
    underWay--;
  }

  return (item) =>
    new Promise<R>((done, failed) => {
      waiting.push({ item, done, failed });
      if (underWay < atOnce) void drain();
    });
}
