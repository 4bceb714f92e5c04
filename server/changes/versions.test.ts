import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { usualHours } from '../../core/calendar/index.ts';
import { changeHours, createHours } from '../hours/commands.ts';
import { ticketKit } from '../testing/tickets.ts';
import { world, type World } from '../testing/world.ts';
import { versionOf, versionsOf } from './versions.ts';

let w: World;
let kit: Awaited<ReturnType<typeof ticketKit>>;
beforeAll(async () => {
  w = await world();
  kit = await ticketKit(w);
});
afterAll(() => w.close());
const designer = () => w.viewer('dan', 'designer');

describe('what is live and was changed', () => {
  it('is there as it was under each version, and at the end of any day as it ran where its reader is', async () => {
    await kit.change({ ...kit.definition, categories: ['Access'] });
    await kit.change({ ...kit.definition, categories: ['Access', 'Boats'] });
    const versions = (await versionsOf(designer(), 'kind', kit.kindId))!;
    expect(versions.map((v) => v.version)).toEqual([4, 3, 2]);
    expect((await versionOf(designer(), 'kind', kit.kindId, { version: 3 }))!.definition.categories).toEqual(['Access']);
    // The log is not rewritten; its clock is that of the database, so the days are asked around now.
    const today = new Date().toISOString().slice(0, 10);
    expect((await versionOf(designer(), 'kind', kit.kindId, { day: today }))!.version).toBe(4);
    for (const day of ['2020-01-01', '2026-13-45', '2026-02-31', '0000-01-01', 'yesterday', "'; drop"])
      expect(await versionOf(designer(), 'kind', kit.kindId, { day })).toBeUndefined();
  });

  it('is nothing under a version that there cannot be', async () => {
    for (const version of [0, 1, 99, 999_999_999_999]) expect(await versionOf(designer(), 'kind', kit.kindId, { version })).toBeUndefined();
  });

  it('is each of its own sort: hours and routing tables too', async () => {
    const made = await createHours(designer(), { name: 'Night' });
    if (!made.ok) throw new Error(made.sentence);
    await changeHours(designer(), { id: made.id, version: 1, definition: { ...usualHours('utc'), name: 'Night watch' } });
    expect((await versionOf(designer(), 'hours', made.id, { version: 2 }))!.definition.name).toBe('Night watch');
    expect(await versionsOf(designer(), 'routing', made.id)).toEqual([]);
    await kit.route([]);
    const [table] = await w.query<{ id: string }>('select id from routing_table where for_tickets');
    expect((await versionOf(designer(), 'routing', table!.id, { version: 2 }))!.definition.rows).toEqual([]);
  });
});
