import { line } from '../boundary/index.ts';
import { nameOfWords } from '../files/index.ts';

/** What the name of a file of evidence can hold, in braces, and what stands there. */
export const namedInFile = {
  day: 'the day it is taken',
  from: 'the first day of what is in it',
  to: 'the last day of what is in it',
  item: 'the item, where one was chosen',
  state: 'the decision, where one was chosen',
} as const;
/** One of these. */
export type NamedInFile = keyof typeof namedInFile;

/** How files of evidence are named where nobody has said so. */
export const usualFileName = 'decisions {item} {from} {to} taken {day}';

const named = /\{([^{}]*)\}/g;
const known = (name: string): name is NamedInFile => Object.hasOwn(namedInFile, name);

/** A pattern by which files of evidence are named: words, and what stands in braces. */
export const FileNamePattern = line(120)
  .trim()
  .min(1, 'Say how the files are named.')
  .refine((p) => [...p.matchAll(named)].every((m) => known(m[1]!)), {
    error: `In braces stands one of: ${Object.keys(namedInFile).join(', ')}.`,
  })
  .refine((p) => !/[{}]/.test(p.replaceAll(named, '')), 'A brace is not closed, or not opened.')
  .refine((p) => !/[/\\:*?"<>|]/.test(p), 'A file’s name holds none of / \\ : * ? " < > |')
  .refine((p) => p.replaceAll(named, '').trim() !== '' || p.includes('{day}'), 'Words, or {day}, have to be in it, or files would have no name.');

/**
 * The name of a file by a pattern, without its ending. What has no value leaves nothing behind; signs that no file’s name can hold become
 * dashes; at most 120 characters.
 *
 * @param values What stands in the braces; days as ISO 8601.
 */
export function fileNameBy(pattern: string, values: Partial<Record<NamedInFile, string>>): string {
  const filled = pattern.replaceAll(named, (_, name: string) => (known(name) ? (values[name] ?? '') : ''));
  return nameOfWords(filled, 'decisions');
}
