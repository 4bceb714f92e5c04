import { own } from '../../core/boundary/index.ts';
import { begunAnswers, lookedUpFrom, withHeld, type Answers, type FieldProblem } from '../../core/forms/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import { priceOf, terms, totalsOf, type Price } from '../../core/prices/index.ts';
import { basePlace, isRow, namedIn, rowId, rowOfId, valueWords, type Value } from '../../core/values/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db, type Reader, type Tx } from '../db/database.ts';
import { namesFor, shortNames } from '../people/names.ts';
import { readRows } from '../tables/read.ts';
import { whoMustAgree, type Agreed } from './agreements.ts';
import { knownOf } from './begun.ts';
import { shownOf } from './shown.ts';
import { takenOutside } from './taken-outside.ts';
import { takenAmong } from './unique.ts';

/** What a sum is for, and what it comes to, in words: “31.50 EUR per day”. */
export interface PriceWords {
  lines: { label: string; words: string }[];
  totals: string[];
  /** What is priced once it has an answer. */
  open: string[];
}

/** What present answers lead to, before they are sent. */
export interface Foreseen {
  agreed: Agreed[];
  /** Undefined where the item states no price. */
  price: PriceWords | undefined;
  /** What fields begin with that is looked up from these answers, and what it is called. */
  begins: Answers;
  names: Record<string, string>;
  /** Answers that are taken. */
  taken: FieldProblem[];
}

/** What these answers lead to: who must agree and why, what it costs, what is looked up, what is taken. */
export async function foreseen(
  viewer: Viewer,
  item: { id: string; definition: ItemDefinition },
  answers: Answers,
  forWhom?: string,
): Promise<Foreseen> {
  const [found, outside] = await Promise.all([
    db().transaction((tx) => foreseenIn(tx, viewer, item, answers, forWhom), { accessMode: 'read only' }),
    takenOutside(item.definition.form, answers),
  ]);
  return { ...found, taken: [...found.taken, ...outside] };
}

/** What a form begins with for whoever asks, what was answered before over it, and what that leads to. */
export async function begunFor(
  viewer: Viewer,
  item: { id: string; definition: ItemDefinition },
  before: Answers,
  forWhom?: string,
): Promise<{ answers: Answers; names: Record<string, string>; foreseen: Foreseen }> {
  return db().transaction(
    async (tx) => {
      const { form } = item.definition;
      const known = await knownOf(tx, viewer.id, form, before, forWhom);
      const answers = { ...begunAnswers(form, known, before), ...before };
      return {
        answers,
        names: shortNames(await namesFor(tx, Object.values(answers))),
        foreseen: await foreseenIn(tx, viewer, item, answers, forWhom),
      };
    },
    { accessMode: 'read only' },
  );
}

async function foreseenIn(
  tx: Tx,
  viewer: Viewer,
  item: { id: string; definition: ItemDefinition },
  given: Answers,
  forWhom?: string,
): Promise<Foreseen> {
  const { form, prices } = item.definition;
  const known = await knownOf(tx, viewer.id, form, given, forWhom);
  const answers = shownOf(form, withHeld(form, given, known));
  const begun = begunAnswers(form, known, answers);
  const begins = Object.fromEntries(form.fields.flatMap((f) => (lookedUpFrom(f) === undefined ? [] : [[f.id, own(begun, f.id) ?? null] as const])));
  const cells = await rowsIn(tx, Object.values(answers));
  const taken = (await takenAmong(tx, [{ itemId: item.id, form, answers }])).get(0) ?? [];
  return {
    agreed: await whoMustAgree(tx, viewer, item.definition, answers, cells, forWhom),
    price: prices && priceWords(prices, answers, cells),
    begins,
    names: shortNames(await namesFor(tx, Object.values(begins))),
    taken,
  };
}

async function rowsIn(tx: Reader, answers: Value[]) {
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

function priceWords(prices: Prices, answers: Answers, cells: RowCells): PriceWords {
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
