import { spawn } from 'node:child_process';
import { expect, it } from 'vitest';

/** A process of its own that watches itself and then does what it is told; how it ended, after how long, and what it said. */
async function ended(work: string): Promise<{ signal: string | null; code: number | null; seconds: number; said: string }> {
  const program = `import { watch } from './server/watchdog.ts'; watch('web'); ${work}`;
  const child = spawn(process.execPath, ['--import', 'tsx', '--input-type=module', '-e', program], { stdio: ['ignore', 'ignore', 'pipe'] });
  const began = Date.now();
  let said = '';
  child.stderr.on('data', (words: Buffer) => (said += words.toString()));
  const [code, signal] = await new Promise<[number | null, string | null]>((done) => child.on('close', (...how) => done(how)));
  return { code, signal, seconds: (Date.now() - began) / 1000, said };
}

it('a process that hangs is ended by its own watcher, and says so; one that waits or works in pieces is left alone', async () => {
  const [hung, waiting, busy] = await Promise.all([
    ended('setTimeout(() => { for (;;); }, 200);'),
    ended('setTimeout(() => process.exit(7), 14_000);'),
    ended(
      'const end = Date.now() + 14_000; const work = () => { const stop = Date.now() + 800; while (Date.now() < stop); if (Date.now() < end) setTimeout(work, 5); else process.exit(8); }; work();',
    ),
  ]);
  expect(hung.signal).toBe('SIGKILL');
  expect(hung.said).toContain('The web process did not answer for 10 s and is ended.');
  expect(hung.seconds).toBeGreaterThan(9);
  expect(waiting).toMatchObject({ code: 7, signal: null });
  expect(busy).toMatchObject({ code: 8, signal: null });
}, 60_000);
