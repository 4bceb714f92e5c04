import { setTimeout } from 'node:timers/promises';
import { ChangedMeanwhile } from '../errors.ts';

/** So often it is read and changed again before the call is said to have failed. */
const most = 12;

/**
 * Reads something and changes it as it is then. Where somebody else changed it in between, both are done again at once: of many who change
 * one group each comes in, and none of that is a failure of the directory. The pauses are uneven, so that two do not meet again.
 */
export async function asItIs<T>(readAndChange: () => Promise<T>): Promise<T> {
  for (let n = 1; ; n++) {
    try {
      return await readAndChange();
    } catch (error) {
      if (!(error instanceof ChangedMeanwhile) || n === most) throw error;
      await setTimeout(Math.random() * 20 * n);
    }
  }
}
