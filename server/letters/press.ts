import { resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Worker } from 'node:worker_threads';
import type { Letter } from '../../core/letters/index.ts';
import type { Answered, Asked } from './press-thread.ts';

/** How long one letter may take, in milliseconds; one that takes longer is not made. */
const longest = 60_000;

interface Waiting {
  done: (made: Made) => void;
  failed: (error: Error) => void;
  timer: NodeJS.Timeout;
}
/** A letter made, or why it cannot be. */
export type Made = { ok: true; pdf: Buffer } | { ok: false; cause: string };

let thread: Worker | undefined;
const waiting = new Map<number, Waiting>();
let count = 0;

/** Where the thread lies: beside the processes where those are built, else where it is written. */
const here = fileURLToPath(import.meta.url);
const built = /[/\\]build[/\\](processes|server)[/\\]/.test(here);

function begin(): Worker {
  const started = built
    ? new Worker(resolve('build/processes/press.js'), { execArgv: [] })
    : new Worker(
        `import('tsx/esm/api').then(({ tsImport }) => tsImport(${JSON.stringify(new URL('./press-thread.ts', import.meta.url).href)}, 'file:///'))`,
        {
          eval: true,
          execArgv: [],
        },
      );
  started.on('message', (answered: Answered) => {
    const asked = take(answered.n);
    if ('pdf' in answered) asked?.done({ ok: true, pdf: Buffer.from(answered.pdf) });
    else asked?.done({ ok: false, cause: answered.cause });
  });
  // Whoever waits is told, once, and asks again: a new thread takes it.
  const over = (error: Error) => {
    if (thread !== started) return;
    thread = undefined;
    for (const n of [...waiting.keys()]) take(n)?.failed(error);
  };
  started.on('error', over);
  started.on('exit', (code) => over(new Error(`The press ended (${code}).`)));
  started.unref();
  return started;
}

function take(n: number): Waiting | undefined {
  const asked = waiting.get(n);
  waiting.delete(n);
  if (asked) clearTimeout(asked.timer);
  if (waiting.size === 0) thread?.unref();
  return asked;
}

/**
 * Makes the PDF of a letter in a thread of its own. A letter that cannot be made, or not in a minute, is told with the reason; where
 * the thread itself ended the promise is rejected, and it can be asked again.
 */
export const press = (letter: Letter, at: Date): Promise<Made> =>
  new Promise((done, failed) => {
    thread ??= begin();
    const n = ++count;
    const timer = setTimeout(() => {
      take(n)?.done({ ok: false, cause: `It took longer than ${longest / 1000} s.` });
      // Nothing else ends what hangs.
      void thread?.terminate();
    }, longest);
    waiting.set(n, { done, failed, timer });
    thread.ref();
    thread.postMessage({ n, letter, at: at.getTime() } satisfies Asked);
  });
