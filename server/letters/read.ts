import { and, desc, eq } from 'drizzle-orm';
import { db } from '../db/database.ts';
import { letter, run, storedFile } from '../db/schema/index.ts';

/** A letter that stands in a request: its newest version, and those before it. */
export interface Filed {
  id: string;
  name: string;
  size: number;
  version: number;
  at: Date;
  before: { id: string; version: number; at: Date }[];
}

/** The letters of a case by their names, what was written last first. Whoever may read the case may have them. */
export async function lettersOf(caseId: string): Promise<Filed[]> {
  const rows = await db()
    .select({ id: storedFile.id, name: storedFile.name, size: storedFile.size, version: letter.version, at: letter.closedAt })
    .from(letter)
    .innerJoin(run, eq(run.id, letter.runId))
    .innerJoin(storedFile, eq(storedFile.id, letter.fileId))
    .where(and(eq(run.caseId, caseId), eq(letter.status, 'written')))
    .orderBy(desc(letter.closedAt), desc(letter.version));
  const filed = new Map<string, Filed>();
  for (const { version, at, ...file } of rows) {
    const one = { ...file, version: version ?? 1, at: at ?? new Date(0) };
    const newest = filed.get(file.name);
    if (newest) newest.before.push({ id: one.id, version: one.version, at: one.at });
    else filed.set(file.name, { ...one, before: [] });
  }
  return [...filed.values()];
}
