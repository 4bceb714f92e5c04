import { randomUUID } from 'node:crypto';
import { isNotNull, sql } from 'drizzle-orm';
import type { Step } from '../core/plans/index.ts';
import { step, tell } from '../core/testing/samples.ts';
import { yard } from '../demo/yard.ts';
import { setSystemOwners } from '../server/consents/commands.ts';
import { exchangeWords } from '../server/conversation/exchange.ts';
import { writeOnRequest } from '../server/conversation/request.ts';
import { db, type Tx } from '../server/db/database.ts';
import { call } from '../server/db/schema/index.ts';
import { keepWebSystem } from '../server/systems/commands.ts';
import { viewerFor } from '../server/testing/parties.ts';
import { publishPlan, type Organisation } from './generated.ts';

/** Items in the tracker of the yard: written about on both sides while it fails, forgets what it was told, and workers are killed. */

const at = (path: string) => new URL(path, process.env['YARD_URL']!);
const post = (path: string, body: object) =>
  fetch(at(path), { method: 'POST', redirect: 'manual', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
interface There {
  item: string;
  state: string;
  comments: { id: number; text: string }[];
}
const itemsThere = async (): Promise<There[]> => (await (await fetch(at('/_items'))).json()) as There[];
const isOpen = (i: There) => !['done', 'turned down', 'called off'].includes(i.state);

/** Registers the yard, asked about and calling back, and publishes an item that has two things looked after at once; gives the item. */
export async function publishYard(org: Organisation): Promise<string> {
  const whole = yard(process.env['YARD_URL']!);
  const actions = whole.actions.map((a) => ({
    ...a,
    later: { ...a.later!, asked: { ...a.later!.asked!, firstPauseSeconds: 1, mostPauseSeconds: 4 } },
  }));
  const kept = await keepWebSystem(viewerFor(org.people['dan']!, 'administrator'), {
    definition: { ...whole, actions },
    secret: process.env['YARD_TOKEN']!,
    answerKey: process.env['YARD_ANSWER_KEY'],
  });
  if (!kept.ok) throw new Error(kept.sentence);
  await setSystemOwners('host', { system: kept.id, people: [org.people['boss']!] });
  const open = (id: string): Step =>
    step('provision', id, {
      action: `web.${kept.id}.openItem`,
      inputs: {
        title: { literal: `The ${id}` },
        text: { literal: 'It slips.' },
        vessel: { literal: 'Anseli' },
        reference: { ref: 'request.number' },
      },
      retries: { times: 3, firstPauseSeconds: 1, factor: 1 },
      mirrors: true,
    });
  const branches = ['winch', 'hatch'].map((id) => ({ id, name: id, block: [open(id)] }));
  return publishPlan(org, 'Repair aboard', { steps: [step('together', 'both', { join: 'all', branches }), tell('end', 'End')] });
}

/** What its people do, and those who asked: a word there, a word here, a move, and now and then the end of it. */
export async function actAtYard(chance: (n: number) => number): Promise<void> {
  const open = (await itemsThere()).filter(isOpen);
  const one = open[chance(open.length)];
  if (!one) return;
  const roll = chance(10);
  if (roll < 4) await post(`/items/${one.item}/comment`, { by: 'Eir Holm', text: `There ${randomUUID()}` });
  else if (roll < 8) await writeFor(one.item);
  else if (roll === 8) await post(`/items/${one.item}/move`, { state: 'in work', says: `Under way ${chance(100)}` });
  else if (chance(3) === 0) await post(`/items/${one.item}/move`, { state: chance(4) === 0 ? 'turned down' : 'done', says: 'That is that.' });
}

/** Whoever asked for what an item is about writes about it, twice at once. */
async function writeFor(item: string): Promise<void> {
  const { rows } = await db().execute<{ number: number; by: string }>(sql`
    select k.number::int as number, k.requester_id as by from call c join run r on r.id = c.run_id join service_case k on k.id = r.case_id where c.mirrors and c.job = ${item}`);
  const [of] = rows;
  if (!of) return;
  const words = `Here ${randomUUID()}`;
  const word = { number: of.number, words, once: words, asRequester: true };
  for (const done of await Promise.all([writeOnRequest(viewerFor(of.by), word), writeOnRequest(viewerFor(of.by), word)]))
    if (!done.ok && done.code !== 'ended' && done.code !== 'too-many-tries') throw new Error(`${done.code}: ${done.sentence}`);
}

/** What is still to be exchanged is, whenever it would have been looked at next. */
async function exchangeDue(): Promise<void> {
  const due = await db().select({ id: call.id }).from(call).where(isNotNull(call.wordsDue));
  for (const { id } of due) await exchangeWords(id);
}

/** Everything at the yard is done, once it has heard what was to be said there. */
export async function endAtYard(): Promise<void> {
  await exchangeDue();
  for (const i of (await itemsThere()).filter(isOpen)) await post(`/items/${i.item}/move`, { state: 'done', says: 'That is that.' });
  await exchangeDue();
}

/** Holds what was said at the yard against what was said here; gives what is wrong, in sentences. */
export async function lookAtYard(tx: Tx): Promise<{ wrong: string[]; words: string }> {
  const wrong: string[] = [];
  const journal = (await (await fetch(at('/_journal'))).json()) as { change: string; item: string; comment?: number }[];
  const { rows } = await tx.execute<{ item: string; goes: string; text: string; there: string | null; refused: string | null; settled: boolean }>(sql`
    select c.job as item, m.goes, w.text, m.there_id as there, m.refused, m.settled_at is not null as settled
    from mirrored_word m join call c on c.id = m.call_id join case_word w on w.id = m.word_id`);
  const { rows: known } = await tx.execute<{ item: string }>(sql`select job as item from call where mirrors and job is not null`);
  const items = new Map((await itemsThere()).map((i) => [i.item, i]));
  const of = (item: string | null) => rows.filter((r) => r.item === item);
  for (const { item } of known) {
    const there = items.get(item);
    if (!there) {
      wrong.push(`${item} is followed, and the yard knows nothing of it.`);
      continue;
    }
    const texts = there.comments.map((c) => c.text);
    const [went, came] = [of(item).filter((r) => r.goes === 'there'), of(item).filter((r) => r.goes === 'here')];
    if (new Set(texts).size < texts.length) wrong.push(`Something was said twice about ${item}.`);
    if (new Set(of(item).map((r) => r.text)).size < of(item).length) wrong.push(`Something of ${item} stands twice on its request.`);
    for (const w of went) {
      if (!w.settled) wrong.push(`A word about ${item} is still on its way.`);
      else if (w.refused === null && !texts.includes(w.text)) wrong.push(`A word counts as said about ${item}, and is not there.`);
      else if (w.refused !== null && texts.includes(w.text)) wrong.push(`A word counts as not taken for ${item}, and is there.`);
    }
    // What is said after the end is read only where the yard can still tell of it.
    const its = journal.filter((j) => j.item === item);
    const end = its.findIndex((j) => ['done', 'turned down', 'called off'].includes(j.change));
    const inTime = new Set(its.slice(0, end < 0 ? its.length : end).flatMap((j) => (j.comment === undefined ? [] : [j.comment])));
    for (const c of there.comments)
      if (inTime.has(c.id) && !of(item).some((r) => r.text === c.text)) wrong.push(`What was said about ${item} is not on its request: ${c.text}.`);
    for (const w of came) if (!texts.includes(w.text)) wrong.push(`The request has words of ${item} that nobody said there.`);
  }
  const n = (goes: string, taken: boolean) => rows.filter((r) => r.goes === goes && (r.refused === null) === taken).length;
  const why = [...new Set(rows.flatMap((r) => (r.refused === null ? [] : [r.refused])))].slice(0, 6);
  return {
    wrong,
    words: `${known.length} items at the yard, ${n('there', true)} words said there from here, ${n('there', false)} not taken, ${n('here', true)} read${why.map((x) => `\n    not taken: ${x}`).join('')}`,
  };
}
