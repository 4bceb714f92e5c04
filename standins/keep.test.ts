import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { keep } from './keep.ts';

let folder: string;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'keep-'));
  vi.useFakeTimers();
});
afterEach(() => {
  vi.useRealTimers();
  rmSync(folder, { recursive: true, force: true });
});

it('what was kept is there after a restart; what is kept nowhere begins anew', () => {
  const file = join(folder, 'deep', 'data.json');
  const first = keep(file, () => ({ words: ['a'] }));
  first.data.words.push('b');
  first.save();
  vi.advanceTimersByTime(60);
  expect(keep(file, () => ({ words: [] as string[] })).data.words).toEqual(['a', 'b']);
  expect(existsSync(`${file}.new`)).toBe(false);
  const nowhere = keep(undefined, () => ({ words: [] as string[] }));
  nowhere.data.words.push('x');
  nowhere.save();
  vi.advanceTimersByTime(1000);
  expect(keep(undefined, () => ({ words: [] as string[] })).data.words).toEqual([]);
});

it('many changes in a row are one write, with the last of them in it', () => {
  const file = join(folder, 'data.json');
  const { data, save } = keep(file, () => ({ n: 0 }));
  for (data.n = 1; data.n < 50; data.n++) save();
  expect(existsSync(file)).toBe(false);
  vi.advanceTimersByTime(60);
  expect(JSON.parse(readFileSync(file, 'utf8'))).toEqual({ n: 50 });
  data.n = 51;
  vi.advanceTimersByTime(10_000);
  expect(JSON.parse(readFileSync(file, 'utf8'))).toEqual({ n: 50 });
  save();
  vi.advanceTimersByTime(10_000);
  expect(JSON.parse(readFileSync(file, 'utf8'))).toEqual({ n: 51 });
});
