import { own } from '../../core/boundary/index.ts';
import type { FieldProblem, Form } from '../../core/forms/index.ts';
import { saysWhether } from '../../core/plans/index.ts';
import { isEmpty, plainOf, type Value } from '../../core/values/index.ts';
import { and, eq } from 'drizzle-orm';
import { ofSettings } from '../config.ts';
import { db } from '../db/database.ts';
import { item, revision } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { definitionOf } from '../items/definitions.ts';
import { log } from '../log.ts';
import { answersRefused, type Refusal } from '../refusal.ts';
import { askedOnce } from '../systems/action.ts';
import { action } from '../systems/index.ts';

/** How long somebody who sends a form waits for a system to say whether an answer is taken, in milliseconds. */
const patience = 5000;
/** How long what a system said is taken for so, and of how many answers; while somebody types, the same is asked again and again. */
const freshFor = 10_000;
const mostKept = 500;
const answered = ofSettings(() => new Map<string, { until: number; taken: boolean }>());

/**
 * Which of these answers a system says are taken already. Never within a transaction, since it is outside. A system that cannot be
 * asked holds nobody up: what it was to say, it says when the plan acts.
 */
export async function takenOutside(form: Form, answers: Record<string, unknown>): Promise<FieldProblem[]> {
  const found = form.fields.map(async (f): Promise<FieldProblem[]> => {
    const value = own(answers, f.id) as Value | undefined;
    if (f.unique?.among !== 'system' || f.unique.action === undefined || isEmpty(value)) return [];
    const words = String(plainOf(value ?? null)).trim();
    if (!(await isTaken(f.unique.action, words))) return [];
    return [{ field: f.id, sentence: `${f.label} is taken already. Choose another.` }];
  });
  return (await Promise.all(found)).flat();
}

async function isTaken(id: string, words: string): Promise<boolean> {
  const key = `${id} ${words}`;
  const said = answered();
  const known = said.get(key);
  if (known && known.until > Date.now()) return known.taken;
  try {
    const asked = await action(db(), id);
    const slots = asked && saysWhether(asked.spec);
    if (!asked || !slots) return false;
    const reply = await Promise.race([
      asked.run({ [slots.input]: words }, crypto.randomUUID(), '', askedOnce),
      new Promise<never>((_, late) => setTimeout(() => late(new Error('It did not answer in time.')), patience).unref()),
    ]);
    // What is only answered later cannot be waited for while somebody types.
    if (reply.is !== 'done') return false;
    const taken = own(reply.outputs, slots.output) === true;
    if (said.size >= mostKept) said.clear();
    said.set(key, { until: Date.now() + freshFor, taken });
    return taken;
  } catch (error) {
    log.warn({ action: id, cause: error instanceof Error ? error.message : String(error) }, 'a system was not asked whether an answer is taken');
    return false;
  }
}

/** The same of what is to be asked for, as a refusal; undefined where nothing of it is taken. */
export async function refusedOutside(asked: { itemId: string; answers: Record<string, unknown> }[]): Promise<(Refusal | undefined)[]> {
  return Promise.all(
    asked.map(async ({ itemId, answers }) => {
      if (!isId(itemId)) return undefined;
      const [row] = await db()
        .select({ id: revision.id })
        .from(item)
        .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
        .where(eq(item.id, itemId));
      const problems = row ? await takenOutside((await definitionOf(db(), row.id)).form, answers) : [];
      return problems.length > 0 ? answersRefused(problems) : undefined;
    }),
  );
}
