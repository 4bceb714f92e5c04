import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { instantIn } from '../../core/calendar/index.ts';
import { gate, step, tell } from '../../core/testing/samples.ts';
import { passages, type Plan } from '../../core/plans/index.ts';
import { shiftClock } from '../clock.ts';
import { config, useSettings } from '../config.ts';
import { sweep } from '../runtime/sweep.ts';
import { world, type World } from '../testing/world.ts';
import { publish, saveDraft } from './commands.ts';
import { offeredItem } from './offered.ts';
import { draftOf, releaseOf } from './queries.ts';
import { agreeRelease, planRelease, publishRelease, takeReleaseBack } from './releases.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());
afterEach(() => {
  shiftClock(0);
  useSettings({ ...stated(), SECOND_DESIGNER: 'off' });
});
const stated = () => Object.fromEntries(Object.entries(config()).map(([k, v]) => [k, v === undefined ? undefined : String(v)]));
const wantTwo = () => useSettings({ ...stated(), SECOND_DESIGNER: 'on' });

const hour = 3_600_000;
const inHours = (n: number) => new Date(Date.now() + n * hour);
const dan = () => w.viewer('dan', 'designer');
const runa = () => w.viewer('runa', 'designer');
let n = 0;
const plain: Plan = { steps: [gate({ approvers: { from: 'people', people: [{ person: 'ada' }] } }), tell('end', 'End')] };

/** A published item whose draft has been changed since; what plans its release, and what revision is offered. */
async function changed(plan = plain) {
  const { id } = await w.item(`Released ${++n}`, plan);
  const change = async (summary: string) => {
    const now = (await draftOf(dan(), id))!;
    const saved = await saveDraft(dan(), { id, version: now.version, draft: { ...now.draft, summary } });
    if (!saved.ok) throw new Error(saved.sentence);
    return saved.version;
  };
  const version = await change('As it is to be');
  const plan_ = async (at?: Date, v = version) => planRelease(dan(), { id, version: v, note: 'For the season', at });
  const planned = async (at?: Date) => {
    const made = await plan_(at);
    if (!made.ok) throw new Error(made.sentence);
    return made.release;
  };
  const offers = async () => (await offeredItem(w.viewer('tor'), id))!;
  return { id, version, change, plan: plan_, planned, offers };
}

describe('a revision that is published at a time', () => {
  it('is offered from then on, as the draft was when it was planned; told twice it is one revision', async () => {
    const i = await changed();
    const release = await i.planned(inHours(5));
    await i.change('Another thought');
    await publishRelease(release);
    expect((await i.offers()).revision).toBe(1);
    expect(await releaseOf(runa(), i.id)).toMatchObject({ by: 'Dan Strand', mine: false, wantsSecond: false, stopped: undefined });
    shiftClock(6 * hour);
    await Promise.all([publishRelease(release), publishRelease(release)]);
    expect(await i.offers()).toMatchObject({ revision: 2, definition: { summary: 'As it is to be' } });
    expect((await draftOf(dan(), i.id))!.draft.summary).toBe('Another thought');
    expect((await draftOf(dan(), i.id))!.revisions[0]).toMatchObject({ number: 2, by: 'Dan Strand', note: 'For the season' });
    expect(await releaseOf(dan(), i.id)).toBeUndefined();
  });

  it('has a job for its time, and one again where that was lost', async () => {
    const i = await changed();
    const release = await i.planned(inHours(5));
    const jobs = () => w.query<{ at: Date }>('select run_at as at from graphile_worker.jobs where key = $1', [`release:${release}`]);
    expect((await jobs()).map((j) => Math.abs(j.at.getTime() - inHours(5).getTime()) < 60_000)).toEqual([true]);
    await w.asOwner(`delete from graphile_worker._private_jobs where key = 'release:${release}'`);
    await w.query(`update item_release set due_at = now() - interval '10 minutes' where id = $1`, [release]);
    await sweep();
    expect(await jobs()).toHaveLength(1);
  });

  it('is planned for a time to come, once, and of a draft that can be published; it is taken back', async () => {
    const i = await changed();
    for (const at of [inHours(-1), inHours(400 * 24), instantIn('2026-02-30', '08:00', 'UTC'), undefined])
      expect(await i.plan(at)).toMatchObject({ ok: false, problems: [{ field: 'at' }] });
    expect(await i.plan(inHours(1), 1)).toMatchObject({ ok: false, code: 'changed-meanwhile' });
    const release = await i.planned(inHours(1));
    expect(await i.plan(inHours(2))).toMatchObject({ ok: false, code: 'taken' });
    expect(await publish(dan(), { id: i.id, version: i.version, note: '' })).toMatchObject({ ok: false, code: 'taken' });
    expect(await takeReleaseBack(runa(), release)).toEqual({ ok: true });
    expect(await takeReleaseBack(runa(), release)).toMatchObject({ ok: false, code: 'ended' });
    shiftClock(2 * hour);
    await publishRelease(release);
    expect((await i.offers()).revision).toBe(1);
    expect(await publish(dan(), { id: i.id, version: i.version, note: '' })).toEqual({ ok: true, number: 2 });
  });

  it('is stopped by what the check finds when its time has come, and says so', async () => {
    const [team] = await w.query<{ id: string }>(`insert into team (name, location_id) select 'Passing', location_id from team limit 1 returning id`);
    await w.query('insert into team_member (team_id, person_id) values ($1, $2)', [team!.id, w.id('runa')]);
    const work = step('task', 't', { assignee: { team: team!.id }, instructions: passages('Do it'), checklist: [], fields: [] });
    const i = await changed({ steps: [work, tell('end', 'End')] });
    const release = await i.planned(inHours(1));
    await w.query('delete from team_member where team_id = $1', [team!.id]);
    await w.query('delete from team where id = $1', [team!.id]);
    shiftClock(2 * hour);
    await publishRelease(release);
    expect((await i.offers()).revision).toBe(1);
    expect(await releaseOf(dan(), i.id)).toMatchObject({ stopped: expect.stringContaining('team') });
  });
});

describe('a second designer', () => {
  it('agrees before anything is published, where the organisation wants that; never the one who asked, and one only', async () => {
    const i = await changed();
    wantTwo();
    expect(await publish(dan(), { id: i.id, version: i.version, note: '' })).toMatchObject({ ok: false, code: 'not-allowed' });
    const release = await i.planned();
    await publishRelease(release);
    expect((await i.offers()).revision).toBe(1);
    expect(await agreeRelease(dan(), release)).toMatchObject({ ok: false, code: 'not-allowed' });
    const both = await Promise.all([agreeRelease(runa(), release), agreeRelease(w.viewer('olav', 'designer'), release)]);
    expect(both.filter((b) => b.ok)).toEqual([{ ok: true, number: 2 }]);
    expect((await i.offers()).revision).toBe(2);
  });

  it('and a time: it is published at the later of both', async () => {
    const [i, other] = [await changed(), await changed()];
    wantTwo();
    const release = await i.planned(inHours(3));
    shiftClock(4 * hour);
    await publishRelease(release);
    expect((await i.offers()).revision).toBe(1);
    expect(await agreeRelease(runa(), release)).toEqual({ ok: true, number: 2 });
    shiftClock(0);
    const late = await other.planned(inHours(3));
    expect(await agreeRelease(runa(), late)).toEqual({ ok: true });
    expect((await other.offers()).revision).toBe(1);
    shiftClock(4 * hour);
    await publishRelease(late);
    expect((await other.offers()).revision).toBe(2);
  });
});
