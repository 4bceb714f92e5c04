import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { eq } from 'drizzle-orm';
import { usualHours, wallDay, type ServiceHours } from '../../core/calendar/index.ts';
import { step, tell } from '../../core/testing/samples.ts';
import { passages } from '../../core/plans/index.ts';
import { askedOf } from '../../core/lists/index.ts';
import { shiftClock } from '../clock.ts';
import { db } from '../db/database.ts';
import { location, person, team } from '../db/schema/index.ts';
import { addLocation } from '../people/commands.ts';
import { queueFor } from '../queue/list.ts';
import { world, type World } from '../testing/world.ts';
import { submitRequest } from '../requests/submit.ts';
import { hoursFor } from './asked-on.ts';
import { changeHours, createHours, giveHours } from './commands.ts';
import { calendarsOf } from './nearest.ts';
import { allHours, hoursOf } from './queries.ts';

let w: World;
let quay: string;
let floor: string;
beforeAll(async () => {
  w = await world();
  quay = (await db().select({ id: location.id }).from(location).where(eq(location.name, 'Quay House')))[0]!.id;
  const made = await addLocation('host', { name: 'Floor 1', kind: 'floor', parentId: quay });
  if (!made.ok) throw new Error(made.sentence);
  floor = made.id;
  await db()
    .update(person)
    .set({ locationId: floor })
    .where(eq(person.id, w.id('tor')));
});
afterAll(async () => {
  shiftClock(0);
  await w.close();
});

const dan = () => w.viewer('dan', 'designer');
let n = 0;
/** Hours of a desk that opens and closes at these hours, every day. */
async function hours(from: number, to: number, more: Partial<ServiceHours> = {}): Promise<string> {
  const name = `Hours ${++n}`;
  const begun = await createHours(dan(), { name });
  if (!begun.ok) throw new Error(begun.sentence);
  const week = Array.from({ length: 7 }, () => [{ from: from * 60, to: to * 60 }]);
  const kept = await changeHours(dan(), { id: begun.id, version: 1, definition: { ...usualHours('utc'), week, ...more, name } });
  if (!kept.ok) throw new Error(kept.sentence);
  return begun.id;
}
const give = (id: string, to: { teams?: string[]; places?: string[]; everywhere?: boolean }) =>
  giveHours(dan(), { id, teams: to.teams ?? [], places: to.places ?? [], everywhere: to.everywhere ?? false });
/** When it opens for somebody, or for a team. */
const opens = async (whose: { team?: string; person?: string }) =>
  (await calendarsOf(db()).of({ ...whose, zone: 'utc' })).on('2026-03-04')[0]!.from / 60;

describe('whose service hours count', () => {
  it('are the nearest: the team’s own, else those of its place or the place somebody works at, up the tree, else everybody’s', async () => {
    expect(await opens({ person: w.id('tor') })).toBe(8);
    const house = await hours(6, 20);
    expect(await give(house, { everywhere: true })).toEqual({ ok: true });
    expect([await opens({ person: w.id('tor') }), await opens({ person: w.id('ina') }), await opens({ team: w.teamId })]).toEqual([6, 6, 6]);
    const building = await hours(7, 15);
    await give(building, { places: [quay] });
    // Tor works on a floor of the house, the team is at it, Ina is nowhere.
    expect([await opens({ person: w.id('tor') }), await opens({ team: w.teamId }), await opens({ person: w.id('ina') })]).toEqual([7, 7, 6]);
    const own = await hours(10, 12);
    await give(own, { teams: [w.teamId] });
    expect([await opens({ team: w.teamId }), await opens({ person: w.id('tor') })]).toEqual([10, 7]);
    // Whoever is not named any more has the next nearer.
    await give(own, { teams: [] });
    expect(await opens({ team: w.teamId })).toBe(7);
    await give(building, { places: [floor] });
    expect([await opens({ team: w.teamId }), await opens({ person: w.id('tor') })]).toEqual([6, 7]);
    expect((await allHours(dan()))!.map((h) => [h.name, h.everywhere, h.places])).toEqual([
      ['Hours 1', true, []],
      ['Hours 2', false, ['Floor 1']],
      ['Hours 3', false, []],
    ]);
    expect((await hoursOf(dan(), building))!.places.find((p) => p.id === floor)).toMatchObject({ called: 'Hours 2' });
  });

  it('count a task by its team and a pause by who asked; a change counts for what is asked for from then on', async () => {
    shiftClock(Date.parse('2026-12-02T09:00:00Z') - Date.now());
    const teams = await hours(0, 24);
    await give(teams, { teams: [w.teamId] });
    const task = step('task', 'do', {
      assignee: { team: w.teamId },
      instructions: passages('Do it'),
      checklist: [],
      fields: [],
      due: { within: 'PT20H' },
    });
    const due = async () => {
      const { id } = await w.askPlan({ steps: [task, tell('end', 'End')] });
      const [row] = await w.query<{ due_at: Date }>('select due_at from task where run_id = $1', [id]);
      return row!.due_at.toISOString().slice(0, 16);
    };
    expect(await due()).toBe('2026-12-03T05:00');
    await changeHours(dan(), {
      id: teams,
      version: 2,
      definition: { ...usualHours('utc'), name: `Hours ${n}`, holidays: [{ day: '2026-12-03', words: 'Harbour day' }] },
    });
    // Seven hours are left of Wednesday, none on Thursday; eight on Friday, five on Monday.
    expect(await due()).toBe('2026-12-07T13:00');
    const left = (await queueFor(w.viewer('dan'), askedOf('queue'))).rows.map((r) => Math.round((r.left ?? 0) / 60));
    expect(left.toSorted((a, b) => a - b)).toEqual([7, 20]);
    shiftClock(0);
  });

  it('are given by several at once to the same, and the last word counts', async () => {
    const [a, b] = [await hours(1, 2), await hours(3, 4)];
    const all = [a, b, a, b].map((id) => give(id, { teams: [w.teamId], places: [quay], everywhere: true }));
    for (const done of await Promise.all(all)) expect(done).toEqual({ ok: true });
    const [team, everywhere] = [await opens({ team: w.teamId }), await opens({ person: w.id('ina') })];
    expect(team).toBe(everywhere);
    expect((await allHours(dan()))!.filter((h) => h.everywhere)).toHaveLength(1);
  });

  it('are refused where they are never open, not a week, changed by two at once, or called like others', async () => {
    const id = await hours(8, 16);
    const change = (definition: unknown, version = 2) => changeHours(dan(), { id, version, definition });
    const closed = { ...usualHours('utc'), week: [[], [], [], [], [], [], []] };
    expect(await change(closed)).toMatchObject({ ok: false, sentence: expect.stringContaining('never open') as string });
    expect(await change({ ...usualHours('utc'), week: [] })).toMatchObject({ ok: false, code: 'invalid' });
    expect(await change({ ...usualHours('utc'), week: Array.from({ length: 7 }, () => [{ from: 0, to: wallDay + 1 }]) })).toMatchObject({
      ok: false,
    });
    expect(await change(usualHours('utc'), 1)).toMatchObject({ ok: false, code: 'changed-meanwhile' });
    expect(await change({ ...usualHours('utc'), name: 'hours 1' })).toMatchObject({ ok: false, code: 'taken' });
    expect(await createHours(dan(), { name: 'HOURS 1' })).toMatchObject({ ok: false, code: 'taken' });
    expect(await createHours(dan(), { name: ' ' })).toMatchObject({ ok: false, code: 'invalid' });
    expect(await give(id, { teams: [crypto.randomUUID()] })).toMatchObject({ ok: false, code: 'invalid' });
    expect(await give(id, { places: ['nowhere'] })).toMatchObject({ ok: false, code: 'invalid' });
    expect(await db().$count(team)).toBe(1);
  });
});

describe('the working days of a form', () => {
  it('are those on which the desk of whoever asks is open', async () => {
    const date = (id: string, label: string) => ({ id, kind: 'date' as const, label, required: true });
    const item = await w.item(
      'Loan of a level',
      { steps: [tell('end', 'End')] },
      {
        fields: [date('first', 'First day'), date('last', 'Last day')],
        rules: [
          {
            id: 'apart',
            apart: { date: { ref: 'form.last' }, days: 2, counted: 'working', after: { ref: 'form.first' } },
            field: 'last',
            sentence: 'Two working days at least.',
          },
        ],
      },
    );
    // From Thursday, 5 March 2026, to that Saturday: open every day where Tor works, closed there on the Friday from then on.
    const ask = async (who: string) =>
      submitRequest(w.viewer(who), {
        itemId: item.id,
        revision: 1,
        answers: { first: '2026-03-05', last: '2026-03-07' },
        idempotencyKey: `loan-${++n}`,
      });
    await give(await hours(8, 16, { week: usualHours('utc').week }), { everywhere: true });
    await give(await hours(8, 16), { places: [floor] });
    expect(await ask('tor')).toMatchObject({ ok: true });
    expect(await ask('ina')).toMatchObject({ ok: false, problems: [{ field: 'last', sentence: 'Two working days at least.' }] });
    await give(await hours(8, 16, { holidays: [{ day: '2026-03-06', words: 'Stocktaking' }] }), { places: [floor] });
    expect(await ask('tor')).toMatchObject({ ok: false });
    const form = { fields: [], rules: [{ id: 'a', sentence: '', apart: { days: 1, counted: 'working' as const } }] };
    expect((await hoursFor(form, { id: w.id('tor'), zone: 'UTC' }))?.holidays).toHaveLength(1);
    expect(await hoursFor({ fields: [] }, { id: w.id('tor'), zone: 'UTC' })).toBeUndefined();
  });
});
