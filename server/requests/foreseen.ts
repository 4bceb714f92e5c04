import { own } from '../../core/boundary/index.ts';
import { begunAnswers, lookedUpFrom, withHeld, type Answers, type FieldProblem } from '../../core/forms/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import { apartIn } from '../apart/foreseen.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db, type Tx } from '../db/database.ts';
import { namesFor, shortNames } from '../people/names.ts';
import { whoMustAgree, type Agreed } from './agreements.ts';
import { knownOf } from './begun.ts';
import { priceWords, rowsIn, type PriceWords } from './price.ts';
import { shownOf } from './shown.ts';
import { takenOutside } from './taken-outside.ts';
import { takenAmong } from './unique.ts';

/** What present answers lead to, before they are sent. */
export interface Foreseen {
  agreed: Agreed[];
  /** Undefined where the item states no price. */
  price: PriceWords | undefined;
  /** What fields begin with that is looked up from these answers, and what it is called. */
  begins: Answers;
  names: Record<string, string>;
  /** Answers that are taken, or lead to what is kept apart in one person. */
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
  const apart = (await apartIn(tx, [{ by: viewer.id, whom: forWhom, definition: item.definition, answers, cells }])).get(0) ?? [];
  return {
    agreed: await whoMustAgree(tx, viewer, item.definition, answers, cells, forWhom),
    price: prices && priceWords(prices, answers, cells),
    begins,
    names: shortNames(await namesFor(tx, Object.values(begins))),
    taken: [...taken, ...apart],
  };
}
