import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { create, type Font } from 'fontkit';
import type { Face, Faces } from '../../core/letters/index.ts';
import { sfntOf } from './woff.ts';

interface Part {
  name: string;
  family: string;
  part: string;
}
/** A family comes as a file for each part of its signs. */
const partsOf = (family: string, parts: string[]): Part[] => parts.map((part) => ({ name: `${family} ${part}`, family, part }));

// The faces of the application (look.md); behind them one that has scripts besides Latin.
const others = partsOf('noto-sans', ['latin', 'latin-ext', 'vietnamese', 'greek', 'greek-ext', 'cyrillic', 'cyrillic-ext']);
const words = [...partsOf('schibsted-grotesk', ['latin', 'latin-ext']), ...others];
const titles = [...partsOf('newsreader', ['latin', 'latin-ext', 'vietnamese']), ...others];

const styles = { normal: '400-normal', bold: '700-normal', italics: '400-italic', bolditalics: '700-italic' };
const { resolve } = createRequire(import.meta.url);
const fontIn = ({ family, part }: Part, style: string): Buffer =>
  sfntOf(readFileSync(resolve(`@fontsource/${family}/files/${family}-${part}-${style}.woff`)));

const ofPart = (p: Part) => Object.entries(styles).map(([style, file]) => ({ style, file: `${p.name} ${file}`, read: () => fontIn(p, file) }));

/** The fonts of each face, by its name and style; `read` gives the font of a file. */
export const fonts: readonly { name: string; styles: { style: string; file: string; read: () => Buffer }[] }[] = [
  ...new Set([...words, ...titles]),
].map((p) => ({ name: p.name, styles: ofPart(p) }));

const faceOf = (p: Part): Face => {
  let signs: Set<number> | undefined;
  const known = () => (signs ??= new Set((create(fontIn(p, styles.normal)) as Font).characterSet));
  return { name: p.name, has: (sign) => known().has(sign) };
};

/** The faces that letters are printed in. */
export const faces: Faces = { words: words.map(faceOf), titles: titles.map(faceOf) };
