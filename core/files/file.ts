import { heard } from '../boundary/index.ts';

/** What an attachment may hold at most, in bytes. */
export const largestFile = 25_000_000;
/** The longest name of a file that is kept, in characters. */
const longestName = 200;

/** What is in a file, as far as it can be told from its bytes. */
export type Found =
  /** By the signature of its kind: its type (RFC 6838) and the usual ending of its name. */
  | { is: 'known'; type: string; ending: string }
  /** No signature, and every byte of it is one of a text. */
  | { is: 'text' }
  | { is: 'unknown' };

/** Kinds that are told by their signature, each with the endings its name may have. What stands here opens nothing by itself. */
const signed: Record<string, { words: string; endings: readonly string[] }> = {
  'application/pdf': { words: 'a PDF document', endings: ['pdf'] },
  'application/rtf': { words: 'a formatted text', endings: ['rtf'] },
  'image/png': { words: 'a PNG picture', endings: ['png'] },
  'image/jpeg': { words: 'a JPEG picture', endings: ['jpg', 'jpeg'] },
  'image/gif': { words: 'a GIF picture', endings: ['gif'] },
  'image/webp': { words: 'a WebP picture', endings: ['webp'] },
  'image/tiff': { words: 'a TIFF picture', endings: ['tif', 'tiff'] },
  'image/bmp': { words: 'a bitmap', endings: ['bmp'] },
  'image/heic': { words: 'a HEIC picture', endings: ['heic', 'heif'] },
  'image/avif': { words: 'an AVIF picture', endings: ['avif'] },
  'application/vnd.openxmlformats-officedocument.wordprocessingml.document': { words: 'a text document', endings: ['docx'] },
  'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet': { words: 'a spreadsheet', endings: ['xlsx'] },
  'application/vnd.openxmlformats-officedocument.presentationml.presentation': { words: 'a presentation', endings: ['pptx'] },
  'application/vnd.oasis.opendocument.text': { words: 'a text document', endings: ['odt'] },
  'application/vnd.oasis.opendocument.spreadsheet': { words: 'a spreadsheet', endings: ['ods'] },
  'application/vnd.oasis.opendocument.presentation': { words: 'a presentation', endings: ['odp'] },
  'application/zip': { words: 'an archive', endings: ['zip'] },
  'application/gzip': { words: 'a packed file', endings: ['gz'] },
  'application/x-7z-compressed': { words: 'an archive', endings: ['7z'] },
  'audio/mpeg': { words: 'a recording', endings: ['mp3'] },
  'audio/wav': { words: 'a recording', endings: ['wav'] },
  'video/mp4': { words: 'a film', endings: ['mp4'] },
  'application/xml': { words: 'an XML document', endings: ['xml', 'gpx', 'kml'] },
  'text/calendar': { words: 'a calendar', endings: ['ics'] },
  'text/vcard': { words: 'a card of addresses', endings: ['vcf'] },
};
/** Endings of texts, each with its type. */
const texts: Record<string, string> = {
  txt: 'text/plain',
  log: 'text/plain',
  md: 'text/markdown',
  csv: 'text/csv',
  tsv: 'text/tab-separated-values',
  json: 'application/json',
  geojson: 'application/geo+json',
  xml: 'application/xml',
  gpx: 'application/gpx+xml',
  yaml: 'application/yaml',
  yml: 'application/yaml',
  eml: 'message/rfc822',
  ics: 'text/calendar',
  vcf: 'text/vcard',
};

/** A file's name without a path and without what no text can keep; never empty, and its ending stays where it is cut. */
export function fileName(raw: string): string {
  const [last = ''] = raw.split(/[\\/]/).slice(-1);
  const name = heard(last.replace(/[\r\n\t]/g, ' '), 2000).trim() || 'Unnamed';
  const chars = [...name];
  if (chars.length <= longestName) return name;
  const ending = endingOf(name);
  return `${chars.slice(0, longestName - ending.length - 2).join('')}….${ending}`;
}

/**
 * Words as the name of a file, without its ending: signs that no file's name can hold become dashes; at most 120 characters; `otherwise`
 * where nothing is left.
 */
export function nameOfWords(words: string, otherwise: string): string {
  const plain = words
    .replaceAll(/\s+/g, ' ')
    .replaceAll(/[/\\:*?"<>|\p{C}]/gu, '-')
    .trim();
  return (
    [...plain]
      .slice(0, 120)
      .join('')
      .replaceAll(/^[. ]+|[. ]+$/g, '') || otherwise
  );
}

const endingOf = (name: string): string => /\.([A-Za-z0-9]{1,12})$/.exec(name)?.[1]?.toLowerCase() ?? '';

/** A size as people read it: 350 B, 12 kB, 3.4 MB, 25 MB. */
export function sizeWords(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`;
  return bytes < 1_000_000 ? `${Math.round(bytes / 1000)} kB` : `${(bytes / 1_000_000).toFixed(1).replace(/\.0$/, '')} MB`;
}

/**
 * Whether a file can be attached: what is in it decides, and its name must not say otherwise. Gives its type, or the sentence that
 * says why not and what to do.
 */
export function takeFile(name: string, found: Found): { ok: true; type: string } | { ok: false; sentence: string } {
  const refuse = (sentence: string) => ({ ok: false as const, sentence: `“${name}” ${sentence}` });
  const ending = endingOf(name);
  if (found.is === 'known') {
    const kind = Object.hasOwn(signed, found.type) ? signed[found.type] : undefined;
    if (!kind) return refuse(`is of a kind that cannot be attached (${found.type}). Attach a document, a picture, a table or an archive.`);
    if (!kind.endings.includes(ending)) return refuse(`is not what its name says: in it is ${kind.words}. Let its name end in .${kind.endings[0]}.`);
    return { ok: true, type: found.type };
  }
  const type = Object.hasOwn(texts, ending) ? texts[ending] : undefined;
  if (found.is === 'text' && type !== undefined) return { ok: true, type };
  if (found.is === 'text') return refuse(`is a text of a kind that cannot be attached. Let its name end in .txt, if it is to be read.`);
  return refuse(`holds something that cannot be told, so it cannot be attached. Attach a document, a picture, a table or an archive.`);
}
