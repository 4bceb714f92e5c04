import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';

/** Data of a stand-in, kept in a JSON file so that it outlives a restart. Writes replace the file whole. */
export function keep<T>(file: string | undefined, fresh: () => T): { data: T; save: () => void } {
  const data = file && existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as T) : fresh();
  let due: NodeJS.Timeout | undefined;
  const write = () => {
    due = undefined;
    if (!file) return;
    mkdirSync(dirname(file), { recursive: true });
    writeFileSync(`${file}.new`, JSON.stringify(data));
    renameSync(`${file}.new`, file);
  };
  process.on('exit', () => due && write());
  return { data, save: () => (due ??= setTimeout(write, 50)) };
}
