import { own } from '../../core/boundary/index.ts';
import type { Answers } from '../../core/forms/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import { priceOf, terms, totalsOf, type Price } from '../../core/prices/index.ts';
import { basePlace, isRow, namedIn, rowId, rowOfId, valueWords, type Value } from '../../core/values/index.ts';
import type { Reader } from '../db/database.ts';
import { readRows } from '../tables/read.ts';
import { shownOf } from './shown.ts';

/** What a sum is for, and what it comes to, in words: “31.50 EUR per day”. */
export interface PriceWords {
  lines: { label: string; words: string }[];
  totals: string[];
  /** What is priced once it has an answer. */
  open: string[];
}

/** What stands in the columns of the rows that answers name, read in one go. */
export async function rowsIn(tx: Reader, answers: Value[]) {
  const picked = answers.flatMap((v) => namedIn(v).flatMap((n) => (n.kind === 'row' ? (rowOfId(n.id) ?? []) : [])));
  const cells = new Map((await readRows(tx, picked)).map((r) => [rowId(r), r.cells ?? undefined]));
  return (row: { table: string; key: string }) => cells.get(rowId(row)) as Record<string, Value> | undefined;
}

type Prices = NonNullable<ItemDefinition['prices']>;

type RowCells = (row: { table: string; key: string }) => Record<string, Value> | undefined;

const priceIn = (prices: Prices, answers: Answers, cells: RowCells): Price =>
  priceOf(prices, (ref) => {
    const base = basePlace(ref);
    const value = base.startsWith('form.') ? own(answers, base.slice(5)) : undefined;
    return base === ref ? value : isRow(value) ? own(cells(value) ?? {}, ref.slice(base.length + 1)) : undefined;
  });

const sumWords = (sum: Value, per: keyof typeof terms) => `${valueWords(sum, () => undefined)} ${terms[per]}`;

/** What answers cost, in words. */
export function priceWords(prices: Prices, answers: Answers, cells: RowCells): PriceWords {
  const price = priceIn(prices, answers, cells);
  return {
    lines: price.lines.map((l) => ({ label: l.label, words: sumWords(l.sum, l.per) })),
    totals: price.totals.map((t) => sumWords(t.sum, t.per)),
    open: price.open,
  };
}

/** What several things cost as things are now, one by one and together. */
export async function costsOf(
  tx: Reader,
  all: { definition: ItemDefinition; answers: Answers }[],
): Promise<{ each: string[][]; together: string[] }> {
  const cells = await rowsIn(
    tx,
    all.flatMap((a) => Object.values(a.answers)),
  );
  const prices = all.map(({ definition, answers }) => priceIn(definition.prices ?? [], shownOf(definition.form, answers), cells));
  return {
    each: prices.map((p) => p.totals.map((t) => sumWords(t.sum, t.per))),
    together: totalsOf(prices.flatMap((p) => p.totals)).map((t) => sumWords(t.sum, t.per)),
  };
}

/** What answers cost as things are now, in words; undefined where the item states no price. */
export async function costWords(tx: Reader, definition: ItemDefinition, answers: Answers): Promise<PriceWords | undefined> {
  return definition.prices && priceWords(definition.prices, answers, await rowsIn(tx, Object.values(answers)));
}

/** What several things cost as long as they are there, as things are now, in words; nothing of what is paid once. */
export async function runningCosts(tx: Reader, all: { definition: ItemDefinition; answers: Answers }[]): Promise<string[][]> {
  const priced = all.some((a) => a.definition.prices?.some((l) => l.per !== 'once'));
  const cells = priced
    ? await rowsIn(
        tx,
        all.flatMap((a) => Object.values(a.answers)),
      )
    : () => undefined;
  return all.map(({ definition: { prices = [], form }, answers }) =>
    priceIn(prices, shownOf(form, answers), cells)
      .totals.filter((t) => t.per !== 'once')
      .map((t) => sumWords(t.sum, t.per)),
  );
}
