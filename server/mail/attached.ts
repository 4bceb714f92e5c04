import { Readable } from 'node:stream';
import { inArray } from 'drizzle-orm';
import { sizeWords } from '../../core/files/index.ts';
import type { RichText } from '../../core/values/index.ts';
import { config } from '../config.ts';
import { db } from '../db/database.ts';
import { storedFile } from '../db/schema/index.ts';
import { piecesOf } from '../files/keep.ts';

/** More than this (bytes) many mail servers do not take; it is led to instead. */
const mostWithMail = 10_000_000;

/** The files that go with a message: in a mail they are in it, unless that would be too large; in chat, and of what is too large, its words lead to them. */
export async function attachedTo(m: { files: string[] | null; via: 'mail' | 'chat' }) {
  const wanted = m.files ?? [];
  const found = wanted.length
    ? await db()
        .select({ id: storedFile.id, name: storedFile.name, type: storedFile.type, size: storedFile.size })
        .from(storedFile)
        .where(inArray(storedFile.id, wanted))
    : [];
  // What was erased meanwhile does not go out.
  const kept = wanted.flatMap((id) => found.filter((f) => f.id === id && f.size > 0));
  const inside = m.via === 'mail' && kept.reduce((sum, f) => sum + f.size, 0) <= mostWithMail;
  const led = inside ? [] : kept.map((f) => ({ name: `${f.name} (${sizeWords(f.size)})`, url: `${config().PUBLIC_URL}/files/${f.id}` }));
  return {
    files: inside ? kept.map(({ id, name, type }) => ({ name, type, content: Readable.from(piecesOf(id)) })) : [],
    words: led.map((f) => `\n\n${f.name}: ${f.url}`).join(''),
    lines: led.map((f): RichText[number] => [{ text: f.name, link: f.url }]),
  };
}
