import { inflateSync } from 'node:zlib';

/**
 * The font within a WOFF file (W3C, WOFF File Format 1.0, sections 3 to 5) as it was before it was packed: an sfnt, which is read at every
 * letter and would be unpacked at every letter.
 *
 * @throws where it is none, or its tables do not have the length that they should.
 */
export function sfntOf(woff: Buffer): Buffer {
  if (woff.toString('latin1', 0, 4) !== 'wOFF') throw new Error('This is not a WOFF font.');
  const count = woff.readUInt16BE(12);
  const tables = Array.from({ length: count }, (_, n) => {
    const at = 44 + n * 20;
    const [offset, packed, length] = [4, 8, 12].map((more) => woff.readUInt32BE(at + more)) as [number, number, number];
    const kept = woff.subarray(offset, offset + packed);
    const bytes = packed < length ? inflateSync(kept) : kept;
    if (bytes.length !== length) throw new Error('A table of this font is not whole.');
    return { tag: woff.subarray(at, at + 4), checksum: woff.readUInt32BE(at + 16), bytes };
  });
  const power = 2 ** Math.floor(Math.log2(count));
  const head = Buffer.alloc(12 + count * 16);
  woff.copy(head, 0, 4, 8);
  head.writeUInt16BE(count, 4);
  head.writeUInt16BE(power * 16, 6);
  head.writeUInt16BE(Math.log2(power), 8);
  head.writeUInt16BE((count - power) * 16, 10);
  let offset = head.length;
  const body: Buffer[] = [];
  tables.forEach(({ tag, checksum, bytes }, n) => {
    const at = 12 + n * 16;
    tag.copy(head, at);
    head.writeUInt32BE(checksum, at + 4);
    head.writeUInt32BE(offset, at + 8);
    head.writeUInt32BE(bytes.length, at + 12);
    // Each table begins at a multiple of four.
    const filled = Buffer.alloc(Math.ceil(bytes.length / 4) * 4);
    bytes.copy(filled);
    body.push(filled);
    offset += filled.length;
  });
  return Buffer.concat([head, ...body]);
}
