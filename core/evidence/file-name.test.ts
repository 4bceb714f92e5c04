import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fileNameBy, FileNamePattern, namedInFile, usualFileName } from './index.ts';

describe('the name of a file of evidence', () => {
  it('holds what its pattern says; what has no value leaves nothing behind', () => {
    const of = { day: '2026-11-29', from: '2026-01-01', to: '2026-06-30', item: 'Join a group' };
    expect(fileNameBy('Audit {from}_{to} {item}', of)).toBe('Audit 2026-01-01_2026-06-30 Join a group');
    expect(fileNameBy(usualFileName, of)).toBe('decisions Join a group 2026-01-01 2026-06-30 taken 2026-11-29');
    expect(fileNameBy(usualFileName, { day: '2026-11-29' })).toBe('decisions taken 2026-11-29');
    expect(fileNameBy('{item}', { item: '../Access: yes/no?' })).toBe('-Access- yes-no-');
    expect([fileNameBy('{item}', {}), fileNameBy('. .', {})]).toEqual(['decisions', 'decisions']);
  });
  it.each([
    ['', 'Say how the files are named.'],
    ['of {who}', 'In braces stands one of: day, from, to, item, state.'],
    ['of {day', 'A brace is not closed, or not opened.'],
    ['a/b {day}', 'A file’s name holds none of / \\ : * ? " < > |'],
    ['{item}', 'Words, or {day}, have to be in it, or files would have no name.'],
  ])('a pattern “%s” is refused', (pattern, sentence) => expect(FileNamePattern.safeParse(pattern).error?.issues[0]?.message).toBe(sentence));
  it('whatever stands in it, it can be the name of a file, and is never empty', () => {
    const values = fc.record(Object.fromEntries(Object.keys(namedInFile).map((name) => [name, fc.string({ unit: 'binary', maxLength: 200 })])), {
      requiredKeys: [],
    });
    const pattern = fc.array(fc.oneof(fc.constantFrom('{day}', '{item}', ' ', '.', 'a'), fc.string()), { maxLength: 8 }).map((p) => p.join(''));
    fc.assert(
      fc.property(pattern, values, (p, v) => {
        const name = fileNameBy(p, v);
        expect(name).not.toMatch(/[/\\:*?"<>|\p{Cc}]|^[. ]|[. ]$/u);
        expect([...name].length).toBeGreaterThan(0);
        expect([...name].length).toBeLessThanOrEqual(120);
      }),
    );
  });
});
