import { Validator } from '@seriousme/openapi-schema-validator';
import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';
import { anotherOwner } from '../../demo/another-owner.ts';
import { projectSpace } from '../../demo/project-space.ts';
import { spaceStillUsed } from '../../demo/space-still-used.ts';
import { openSpaces, projectSpaces as registered, spaceTemplates, unusedSpaces } from '../../demo/project-spaces.ts';
import { askedOf } from '../../core/lists/index.ts';
import { openApiActions } from '../../core/systems/index.ts';
import { projectSpaces } from '../../standins/spaces.ts';
import { tendCall } from '../calls/tend.ts';
import { setSystemOwners } from '../consents/commands.ts';
import { differenceList } from '../differences/list.ts';
import { giveBack } from '../holdings/commands.ts';
import { thingsHeld } from '../holdings/queries.ts';
import { submitRequest } from '../requests/submit.ts';
import { answerQuestion, withdrawRequest } from '../requests/commands.ts';
import { askOfRow } from '../tables/asking.ts';
import { changeTable, createTable } from '../tables/commands.ts';
import { itemsForRows } from '../tables/lists.ts';
import { readingOf, rowOf, rowsOf, tableOf } from '../tables/queries.ts';
import { readTable } from '../tables/reading.ts';
import { loopback } from '../testing/loopback.ts';
import { replays } from '../testing/replays.ts';
import { world, type World } from '../testing/world.ts';
import { keepWebSystem } from './commands.ts';

/** The project space of the demo, against the stand-in of its system over real HTTP. */
let w: World;
const on = loopback();
let base: string;
let system: string;
let items: { space: string; owner: string; used: string };
let spaces: string;
beforeAll(async () => {
  w = await world();
  const house = projectSpaces({ token: 'key-of-the-spaces' });
  base = await on.listen(house);
  const designer = w.viewer('dan', 'designer');
  system = good(await keepWebSystem(w.viewer('dan', 'administrator'), { definition: registered(`${base}/house`), secret: 'key-of-the-spaces' })).id;
  good(await setSystemOwners('host', { system, people: [w.id('boss')] }));
  const read = async (definition: ReturnType<typeof openSpaces>) => {
    const { id } = good(await createTable(designer, { name: definition.name }));
    good(await changeTable(designer, { id, version: 1, definition }));
    await readTable(id);
    return id;
  };
  const templates = await read(spaceTemplates(system));
  spaces = await read(openSpaces(system));
  const space = projectSpace({ access: w.teamId, signoff: w.groupId('tide-models'), spaces: system, templates });
  const owner = anotherOwner(system);
  const used = spaceStillUsed(system, spaces, w.teamId);
  items = {
    space: (await w.item(space.name, space.plan, space.form)).id,
    owner: (await w.item(owner.name, owner.plan, owner.form)).id,
    used: (await w.item(used.name, used.plan, used.form)).id,
  };
  survey = { table: templates, key: 'Survey' };
});
afterAll(async () => {
  await on.close();
  await w.close();
});
let survey: { table: string; key: string };
const good = <T extends object>(r: { ok: boolean } & T): T & { ok: true } => {
  if (!r.ok) throw new Error(JSON.stringify(r));
  return r as T & { ok: true };
};
const post = (path: string, body: object) =>
  fetch(`${base}${path}`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
beforeEach(() => post('/_manner', { manner: 'well' }));

const journal = async (space: string) =>
  ((await (await fetch(`${base}/_journal`)).json()) as { change: string; space: string; owner?: string }[])
    .filter((j) => j.space === space)
    .map((j) => [j.change, ...(j.owner ? [j.owner] : [])].join(' '));
const there = async (name: string) =>
  ((await (await fetch(`${base}/_spaces`)).json()) as { name: string; state: string; owners: string[]; template: string; seen: string }[]).find(
    (s) => s.name === name,
  );
const people = (...names: string[]) => names.map((n) => ({ person: w.id(n) }));
const ask = (name: string, owners = ['ina', 'olav']) =>
  submitRequest(w.viewer('tor'), {
    itemId: items.space,
    revision: 1,
    answers: { name, seen: 'members', template: survey, purpose: 'Soundings of the sound', owners: people(...owners) } as never,
    idempotencyKey: crypto.randomUUID(),
  });
const runOf = async (number: number) =>
  (
    await w.query<{ id: string; outcome: string | null }>(
      "select run.id, state ->> 'outcome' as outcome from run join service_case k on k.id = run.case_id where k.number = $1",
      [number],
    )
  )[0]!;
/** All that follows on what was done, call by call. */
async function rounds(): Promise<void> {
  for (let i = 0; i < 6; i++) await w.work();
}
/** The calls that wait, and no timer: no deadline is over. */
async function calls(): Promise<void> {
  for (let i = 0; i < 3; i++) for (const c of await w.query<{ id: string }>('select id from call where closed_at is null')) await tendCall(c.id);
}
async function agreed(number: number, ...names: string[]): Promise<string> {
  const { id } = await runOf(number);
  for (const name of names) good(await w.decide(name, id, 'approve'));
  await rounds();
  return id;
}

it('describes itself in a document that OpenAPI 3.1 allows (held against its published schema), from which all of it can be registered', async () => {
  const document = (await (await fetch(`${base}/openapi.json`)).json()) as never;
  expect(await new Validator().validate(document)).toEqual({ valid: true });
  const offered = openApiActions(document);
  expect(offered.ok && [offered.offered.left, offered.offered.lists.map((l) => l.path)]).toEqual([[], ['/templates', '/spaces', '/owners']]);
});

it('is prepared, owned by those who agreed to it, and opened; each of them holds it, and the table of spaces says so', async () => {
  const { number } = good(await ask('torvay-sound'));
  const id = await agreed(number, 'ina', 'olav');
  expect(await runOf(number)).toMatchObject({ outcome: 'fulfilled' });
  expect(await journal('torvay-sound')).toEqual(['prepared', `owner added ${w.id('ina')}`, `owner added ${w.id('olav')}`, 'opened']);
  expect(await there('torvay-sound')).toMatchObject({ state: 'open', template: 'survey', seen: 'members' });
  for (const name of ['ina', 'olav'])
    expect((await thingsHeld(w.viewer(name), 'mine')).rows).toMatchObject([{ kind: 'project space', what: 'torvay-sound' }]);
  await readTable(spaces);
  expect((await rowsOf(w.viewer('dan', 'designer'), spaces, { words: '', off: false }))!.rows.map((r) => r.cells)).toEqual([
    { space: 'torvay-sound', purpose: 'Soundings of the sound', owner: { person: w.id('ina') }, owners: 2, idle: 0 },
  ]);
  // What is held is what there is.
  await w.read(system);
  const { rows } = (await differenceList(w.viewer('boss', 'administrator'), askedOf('differences')))!;
  expect(rows).toEqual([]);
  await replays(w, id);
});

it('a name that is taken is refused while somebody types it, and at the system where two ask at once: then it is set up by hand', async () => {
  const key = { authorization: 'Bearer key-of-the-spaces', 'content-type': 'application/json' };
  const theirs = { name: 'anseli-refit', template: 'empty', seen: 'members', purpose: 'Made past us' };
  await fetch(`${base}/house/spaces`, { method: 'POST', headers: key, body: JSON.stringify(theirs) });
  expect(await ask('anseli-refit')).toMatchObject({
    ok: false,
    problems: [{ field: 'name', sentence: 'Name of the space is taken already. Choose another.' }],
  });
  const [one, two] = [good(await ask('lunnick-bank')), good(await ask('lunnick-bank'))];
  for (const { number } of [one, two]) for (const name of ['ina', 'olav']) good(await w.decide(name, (await runOf(number)).id, 'approve'));
  await rounds();
  expect(await runOf(one.number)).toMatchObject({ outcome: 'fulfilled' });
  expect(await runOf(two.number)).toMatchObject({ outcome: null });
  expect(await w.query<{ name: string }>('select name from task where run_id = $1', [(await runOf(two.number)).id])).toEqual([
    { name: 'Set up the space by hand' },
  ]);
  expect((await journal('lunnick-bank')).filter((j) => j === 'prepared')).toHaveLength(1);
});

it('what was begun is taken back in reverse order where it is withdrawn: owners first, then the space', async () => {
  const { number } = good(await ask('kittiwake-log'));
  const { id } = await runOf(number);
  for (const name of ['ina', 'olav']) good(await w.decide(name, id, 'approve'));
  // Prepared, and then the system answers no more.
  await w.work();
  await post('/_manner', { manner: 'failing' });
  await w.work();
  await post('/_manner', { manner: 'well' });
  const before = await journal('kittiwake-log');
  good(await withdrawRequest(w.viewer('tor'), { number }));
  await rounds();
  expect(before[0]).toBe('prepared');
  expect((await journal('kittiwake-log')).at(-1)).toBe('removed');
  expect(await there('kittiwake-log')).toBeUndefined();
  expect((await thingsHeld(w.viewer('ina'), 'mine')).rows.filter((r) => r.what === 'kittiwake-log')).toEqual([]);
  await replays(w, id);
});

it('an owner names another, who has to agree, and then gives theirs back; the last two are kept', async () => {
  const held = async (name: string) => (await thingsHeld(w.viewer(name), 'mine')).rows.find((r) => r.what === 'torvay-sound');
  const mine = (await held('ina'))!;
  // Two owners it has: the system keeps them, and whoever answers for it has a task.
  good(await giveBack(w.viewer('ina'), { id: mine.id, why: '' }));
  await rounds();
  expect((await there('torvay-sound'))!.owners).toHaveLength(2);
  const olavs = (await held('olav'))!;
  const asked = good(
    await submitRequest(w.viewer('olav'), {
      itemId: items.owner,
      revision: 1,
      answers: { owned: { holding: olavs.id }, who: { person: w.id('runa') }, reason: 'I move to Charts.' } as never,
      idempotencyKey: crypto.randomUUID(),
    }),
  );
  await agreed(asked.number, 'runa');
  expect(await runOf(asked.number)).toMatchObject({ outcome: 'fulfilled' });
  expect((await there('torvay-sound'))!.owners).toEqual([w.id('ina'), w.id('olav'), w.id('runa')]);
  good(await giveBack(w.viewer('olav'), { id: olavs.id, why: '' }));
  await rounds();
  expect((await there('torvay-sound'))!.owners).toEqual([w.id('ina'), w.id('runa')]);
  expect(await held('olav')).toBeUndefined();
  expect(await held('runa')).toMatchObject({ kind: 'project space' });
});

it('one that nobody uses: its first owner is asked, once until it is time again; it is closed where it can be', async () => {
  const designer = w.viewer('dan', 'designer');
  expect((await itemsForRows(designer, spaces))!.items).toEqual([{ id: items.used, name: 'Is a project space still used' }]);
  expect(await itemsForRows(w.viewer('tor'), spaces)).toBeUndefined();
  const { version, definition } = (await tableOf(designer, spaces))!;
  const wrong = { ...unusedSpaces(items.space, w.id('boss')) };
  expect(await changeTable(designer, { id: spaces, version, definition: { ...definition, asks: wrong } })).toMatchObject({
    sentence: 'Not saved: what is to follow a row is not published, or its form does not take a row of this table and nothing else.',
  });
  good(await changeTable(designer, { id: spaces, version, definition: { ...definition, asks: unusedSpaces(items.used, w.id('boss')) } }));
  const followed = async () => (await rowOf(designer, spaces, 'torvay-sound'))!.asked;
  const due = async () => {
    const jobs = await w.query<{ id: string; row: string }>(
      "select id, payload ->> 'id' as row from graphile_worker._private_jobs where key like 'row:%' order by id",
    );
    // Twice at once, as where a worker was thought dead.
    for (const j of jobs) await Promise.all([askOfRow(j.row), askOfRow(j.row)]);
    await w.query('select from graphile_worker.complete_jobs($1::bigint[])', [jobs.map((j) => j.id)]);
  };
  await readTable(spaces);
  await due();
  expect(await followed()).toEqual([]);
  await post('/_use/torvay-sound', { daysAgo: 120 });
  await Promise.all([readTable(spaces), readTable(spaces)]);
  await readTable(spaces);
  await due();
  const [asked, ...others] = await followed();
  expect(others).toEqual([]);
  expect(asked).toMatchObject({ state: 'asked', by: 'Ina Strand' });
  await readTable(spaces);
  await due();
  expect(await followed()).toHaveLength(1);
  expect((await readingOf(designer, spaces))!.followed).toEqual({ asked: 1 });
  // Whoever asks about a space that is not theirs does not decide about it: its owner is asked.
  const curious = good(
    await submitRequest(w.viewer('tor'), {
      itemId: items.used,
      revision: 1,
      answers: { space: { table: spaces, key: 'torvay-sound' } },
      idempotencyKey: crypto.randomUUID(),
    }),
  );
  expect(await w.query('select to_id from question where run_id = $1', [(await runOf(curious.number)).id])).toEqual([{ to_id: w.id('ina') }]);
  const { id } = await runOf(asked!.request!);
  const [question] = await w.query<{ id: string }>('select id from question where run_id = $1', [id]);
  good(await answerQuestion(w.viewer('ina'), { id: question!.id, values: { answer: 'close' } }));
  await calls();
  expect(await runOf(asked!.request!)).toMatchObject({ outcome: 'fulfilled' });
  expect(await there('torvay-sound')).toMatchObject({ state: 'closed' });
  await readTable(spaces);
  expect(await rowOf(designer, spaces, 'torvay-sound')).toMatchObject({ retiredAt: expect.any(Date) as Date });
  await replays(w, id);
});

it('what cannot be asked for says why, and is tried again a day later; what is not so any more when it is its turn is over', async () => {
  const designer = w.viewer('dan', 'designer');
  const [one] = await w.query<{ id: string }>("insert into row_asked (table_id, key, at) values ($1, 'torvay-sound', now()) returning id", [spaces]);
  await askOfRow(one!.id);
  expect((await rowOf(designer, spaces, 'torvay-sound'))!.asked[0]).toMatchObject({ state: 'over', request: null });
  // Its first owner does not work here any more, and nor does whoever is named instead.
  await post('/_use/lunnick-bank', { daysAgo: 200 });
  await w.query('update person set active = false where id = any($1::uuid[])', [[w.id('ina'), w.id('boss')]]);
  const jobs = () => w.query<{ row: string }>("select payload ->> 'id' as row from graphile_worker._private_jobs where key like 'row:%'");
  await readTable(spaces);
  const [job] = await jobs();
  await askOfRow(job!.row);
  const why = 'The row names nobody who works here, and whom the table names instead does not either.';
  expect((await rowOf(designer, spaces, 'lunnick-bank'))!.asked).toMatchObject([{ state: 'refused', why }]);
  await readTable(spaces);
  expect(await jobs()).toHaveLength(1);
  await w.query("update row_asked set at = at - interval '25 hours' where key = 'lunnick-bank'");
  await readTable(spaces);
  expect(await jobs()).toHaveLength(2);
  await w.query('update person set active = true where id = any($1::uuid[])', [[w.id('ina'), w.id('boss')]]);
});
