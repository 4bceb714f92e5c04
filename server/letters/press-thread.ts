import { parentPort } from 'node:worker_threads';
import { Letter } from '../../core/letters/index.ts';
import { print } from './print.ts';

/** What the press is given, and what it gives back. */
export interface Asked {
  n: number;
  letter: Letter;
  at: number;
}
export type Answered = { n: number; pdf: Uint8Array } | { n: number; cause: string };

/** A thread that makes letters, one after another: laying pages out would hold up whatever else its process does. */
parentPort?.on('message', ({ n, letter, at }: Asked) => {
  print(Letter.parse(letter), new Date(at)).then(
    (pdf) => parentPort?.postMessage({ n, pdf } satisfies Answered, [pdf.buffer as ArrayBuffer]),
    (error: unknown) => parentPort?.postMessage({ n, cause: error instanceof Error ? error.message : String(error) } satisfies Answered),
  );
});
