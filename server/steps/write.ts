import { randomUUID } from 'node:crypto';
import { and, eq } from 'drizzle-orm';
import { nameOfWords } from '../../core/files/index.ts';
import { sayLetter, type Letter } from '../../core/letters/index.ts';
import { own } from '../../core/boundary/index.ts';
import { isEntry, isFormattedText, isRow, plainText, rowId, type Value } from '../../core/values/index.ts';
import { insertAll } from '../db/insert-all.ts';
import { letter } from '../db/schema/index.ts';
import { namesFor, readIn, type Names } from '../people/names.ts';
import { only, type Of, type Writer } from '../runtime/batch.ts';
import { addJobs } from '../runtime/jobs.ts';
import { offeringOf, sayNow, valueWords } from '../words.ts';

/** The letters that plans write: their words as of now, and the jobs that make them; what is not needed any more is not made. */
export const letters: Writer = async (tx, batches, at) => {
  const wanted = only(batches, 'letter');
  if (wanted.length > 0) {
    const names = await namesFor(tx, wanted.flatMap(valuesIn), [...new Set(wanted.map((e) => e.run.requesterId))]);
    const rows = wanted.map((e) => {
      const zone = names.people.get(e.run.requesterId)?.zone;
      const words = said(e, zone === undefined ? names : readIn(zone, names));
      return { id: randomUUID(), runId: e.run.id, key: e.key, round: e.round, words, createdAt: at };
    });
    await insertAll(tx, letter, rows);
    await addJobs(
      tx,
      'letter',
      rows.map((r) => ({ payload: { letterId: r.id }, key: `letter:${r.id}` })),
    );
  }
  for (const { run, key } of only(batches, 'cancelLetter'))
    await tx
      .update(letter)
      .set({ status: 'withdrawn', words: null, closedAt: at })
      .where(and(eq(letter.runId, run.id), eq(letter.key, key), eq(letter.status, 'waiting')));
  return [];
};

/** All that is said in it. */
const valuesIn = (e: Of<'letter'>): (Value | undefined)[] => [
  ...[e.fileName, e.title, ...(e.head ? [e.head] : []), ...e.body.map((p) => p.words)].flatMap((t) => Object.values(t.values)),
  ...e.body.flatMap((p) => p.table?.rows ?? []),
];

function said(e: Of<'letter'>, names: Names): Letter {
  const fileName = plainText(sayNow(e.fileName, e.run, names));
  return sayLetter(e, `${nameOfWords(fileName, 'Letter')}.pdf`, {
    text: (words) => sayNow(words, e.run, names),
    cell: (row, list, column) => {
      const value = column === undefined ? row : inColumn(row, column, names);
      if (isFormattedText(value)) return value.formatted;
      if (isRow(row))
        return valueWords(
          value,
          names,
          names.columns(row.table)?.find((c) => c.id === column),
        );
      return valueWords(value, names, offeringOf(e.run.definition, column === undefined ? list : `row.${column}`));
    },
  });
}

/** What a row of a list has in one of its columns: of a line what was filled in, of a table row what stands there now. */
function inColumn(row: Value, column: string, names: Names): Value | undefined {
  if (isEntry(row)) return own(row.entry, column);
  return isRow(row) ? own(names.cells(rowId(row)), column) : undefined;
}
