import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { expect, it } from 'vitest';

it('every file that the documents of today name is there', () => {
  // A decision is of its day: what it names may have been moved since.
  const texts = ['README.md', ...readdirSync('docs').flatMap((f) => (f.endsWith('.md') ? [`docs/${f}`] : []))];
  const named = texts.flatMap((f) =>
    [...readFileSync(f, 'utf8').matchAll(/`((?:core|server|app|standins|demo|bench|e2e|scripts|docs)\/[\w./+-]+)`/g)].map((m) => [f, m[1]!] as const),
  );
  expect(named.length).toBeGreaterThan(50);
  expect(named.filter(([, path]) => !existsSync(path) && !existsSync(`${path}.ts`))).toEqual([]);
});

it('every public export of the core says what it means', () => {
  const files = readdirSync('core', { recursive: true, encoding: 'utf8' }).filter(
    (f) => f.endsWith('.ts') && !/\.test\.ts$|\.d\.ts$|^testing\/|\/any\.ts$/.test(f),
  );
  let exports = 0;
  const bare = files.flatMap((f) => {
    const text = readFileSync(`core/${f}`, 'utf8');
    const lines = text.split('\n');
    return lines.flatMap((line, i) => {
      const [, what, name] = /^export (?:async )?(function\*?|const|class|interface|type) (\w+)/.exec(line) ?? [];
      if (!name) return [];
      exports++;
      // A type of the same name as a schema is told by the schema.
      const told = /(\*\/|^\s*\/\/.*)$/.test(lines[i - 1] ?? '') || (what === 'type' && new RegExp(`^export const ${name}\\b`, 'm').test(text));
      return told ? [] : [`${f}: ${name}`];
    });
  });
  expect(exports).toBeGreaterThan(400);
  expect(bare).toEqual([]);
});
