import { readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { brotliCompress, constants, gzip } from 'node:zlib';

const brotli = promisify(brotliCompress);
const zip = promisify(gzip);

/** Packs the files that browsers read, once, beside each of them: Brotli (RFC 7932) and gzip (RFC 1952). @param {string} folder */
export async function pack(folder) {
  const files = readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .map((f) => join(folder, f))
    .filter((f) => /\.(js|css|svg|json|txt)$/.test(f) && statSync(f).size > 1000);
  await Promise.all(
    files.map(async (file) => {
      const plain = readFileSync(file);
      const [br, gz] = await Promise.all([
        brotli(plain, { params: { [constants.BROTLI_PARAM_QUALITY]: 11, [constants.BROTLI_PARAM_SIZE_HINT]: plain.length } }),
        zip(plain, { level: 9 }),
      ]);
      writeFileSync(`${file}.br`, br);
      writeFileSync(`${file}.gz`, gz);
    }),
  );
}
