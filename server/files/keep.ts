import { createHash, randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { open, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { and, eq, isNull, lt, sql } from 'drizzle-orm';
import { fileTypeFromBuffer } from 'file-type';
import { fileName, largestFile, sizeWords, takeFile, type Found } from '../../core/files/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db, type Tx } from '../db/database.ts';
import { filePiece, storedFile } from '../db/schema/index.ts';
import { refuse, type Result } from '../refusal.ts';

/** A file as whoever brought it knows it. */
export interface Kept {
  id: string;
  name: string;
  size: number;
}

/** What somebody may have brought and not sent with anything, in bytes. */
const mostLoose = 250_000_000;
/** Hours until what stands in no request is swept. */
const looseHours = 24;
const piece = 256_000;

/**
 * Keeps a file that streams in: first beside the database, counted, so that nothing waits for a slow sender; then, when it can be
 * attached by what is in it, piece by piece within it.
 */
export async function keepFile(viewer: Viewer, raw: { name: string; stream: Readable }): Promise<Result<{ file: Kept }>> {
  const name = fileName(raw.name);
  const path = join(tmpdir(), `nessmoor-file-${randomUUID()}`);
  const no = (sentence: string) => refuse('invalid', sentence);
  try {
    let size = 0;
    const hash = createHash('sha256');
    await pipeline(
      raw.stream,
      async function* (chunks: AsyncIterable<Buffer>) {
        for await (const chunk of chunks) {
          size += chunk.length;
          // What is too large is counted to its end, which its sentence says, and not kept.
          if (size > largestFile) continue;
          hash.update(chunk);
          yield chunk;
        }
      },
      createWriteStream(path, { mode: 0o600 }),
    );
    if (size > largestFile) return no(`“${name}” has ${sizeWords(size)}; at most ${sizeWords(largestFile)} can be attached.`);
    if (size === 0) return no(`“${name}” is empty.`);
    const taken = takeFile(name, await foundIn(path));
    if (!taken.ok) return no(taken.sentence);
    const { rows } = await db().execute<{ loose: string }>(
      sql`select coalesce(sum(size), 0) as loose from stored_file where by = ${viewer.id}::uuid and case_id is null`,
    );
    if (Number(rows[0]?.loose) + size > mostLoose)
      return no(`You have attached ${sizeWords(mostLoose)} that were not sent yet. Send them, or wait until tomorrow, when they are taken away.`);
    const id = await db().transaction(async (tx) => {
      const [made] = await tx
        .insert(storedFile)
        .values({ name, type: taken.type, size, hash: hash.digest('hex'), by: viewer.id })
        .returning({ id: storedFile.id });
      let n = 0;
      for await (const bytes of createReadStream(path, { highWaterMark: piece }))
        await tx.insert(filePiece).values({ fileId: made!.id, n: n++, bytes: bytes as Buffer });
      return made!.id;
    });
    return { ok: true, file: { id, name, size } };
  } finally {
    await rm(path, { force: true });
  }
}

/** Keeps a file that was made here, in the request it stands in. */
export async function fileMade(tx: Tx, made: { name: string; type: string; bytes: Buffer; hash: string; caseId: string; at: Date }): Promise<string> {
  const { bytes, ...file } = made;
  const [row] = await tx
    .insert(storedFile)
    .values({ ...file, size: bytes.length })
    .returning({ id: storedFile.id });
  for (let n = 0; n * piece < bytes.length; n++)
    await tx.insert(filePiece).values({ fileId: row!.id, n, bytes: bytes.subarray(n * piece, (n + 1) * piece) });
  return row!.id;
}

/** What is in a file, by its first bytes; of a text every byte is looked at. */
async function foundIn(path: string): Promise<Found> {
  const handle = await open(path);
  try {
    const head = Buffer.alloc(Math.min(65_536, (await stat(path)).size));
    await handle.read(head, 0, head.length, 0);
    const known = await fileTypeFromBuffer(head);
    if (known) return { is: 'known', type: known.mime, ending: known.ext };
  } finally {
    await handle.close();
  }
  const decoder = new TextDecoder('utf-8', { fatal: true });
  try {
    for await (const bytes of createReadStream(path)) {
      // No text holds these; a program does within its first few.
      if (/[\u0000-\u0008\u000e-\u001a\u001c-\u001f]/.test(decoder.decode(bytes as Buffer, { stream: true }))) return { is: 'unknown' };
    }
    decoder.decode();
    return { is: 'text' };
  } catch {
    return { is: 'unknown' };
  }
}

/** Takes away what was brought and never sent with anything. */
export const sweepLooseFiles = () =>
  db()
    .delete(storedFile)
    .where(
      and(
        isNull(storedFile.caseId),
        lt(storedFile.at, sql`now() - make_interval(hours => ${looseHours})`),
        // What lies in a basket goes when that is sent, or emptied.
        sql`not exists (select from basket_line b where b.person_id = ${storedFile.by} and b.answers::text like '%' || ${storedFile.id}::text || '%')`,
      ),
    );

/** What is in a file, as a stream of its pieces. */
export async function* piecesOf(id: string): AsyncGenerator<Buffer> {
  for (let n = 0; ; n++) {
    const [row] = await db()
      .select({ bytes: filePiece.bytes })
      .from(filePiece)
      .where(and(eq(filePiece.fileId, id), eq(filePiece.n, n)));
    if (!row) return;
    yield row.bytes;
  }
}
