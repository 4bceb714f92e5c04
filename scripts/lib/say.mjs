/** Announces each step with the time it took, so that a slow one shows. */
const began = Date.now();
export const since = () => `${((Date.now() - began) / 1000).toFixed(1)} s`;

/** @template T @param {string} what @param {() => Promise<T> | T} act @returns {Promise<T>} */
export async function step(what, act) {
  const start = Date.now();
  process.stdout.write(`  ${what} …`);
  const result = await act();
  process.stdout.write(` ${((Date.now() - start) / 1000).toFixed(1)} s\n`);
  return result;
}

/** A problem that the person can mend: printed as a sentence, without a stack. */
export class Problem extends Error {}

/** Runs a script; a Problem ends it with its sentence and exit code 1. @param {() => Promise<void>} main */
export async function script(main) {
  try {
    await main();
  } catch (error) {
    process.stdout.write('\n');
    console.error(error instanceof Problem ? error.message : error);
    process.exit(1);
  }
}
