import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';

/** What is still to be written when the process ends. One listener for all: a process may hold many stand-ins, one after another. */
const atExit = new Set<() => void>();
process.on('exit', () => atExit.forEach((write) => write()));

/**
 * Data of a stand-in, kept in a JSON file so that it outlives a restart. Writes replace the file whole; the larger it
 * has grown, the longer they wait for each other.
 */
export function keep<T extends object>(file: string | undefined, fresh: () => T): { data: T; save: () => void } {
  // What a newer stand-in keeps besides begins as it would afresh.
  const data = { ...fresh(), ...(file && existsSync(file) && (JSON.parse(readFileSync(file, 'utf8')) as T)) };
  let pause = 50;
  let due: NodeJS.Timeout | undefined;
  const write = () => {
    due = undefined;
    if (!file) return;
    const began = performance.now();
    mkdirSync(dirname(file), { recursive: true });
    writeFileSync(`${file}.new`, JSON.stringify(data));
    renameSync(`${file}.new`, file);
    pause = Math.max(50, 20 * (performance.now() - began));
  };
  atExit.add(() => due && write());
  return { data, save: () => (due ??= setTimeout(write, pause)) };
}
