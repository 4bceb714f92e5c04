import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ItemDefinition } from '../../core/items/index.ts';
import { world, type World } from '../testing/world.ts';
import { publish, saveDraft } from './commands.ts';
import { browse } from './offered.ts';
import { draftOf } from './queries.ts';

let w: World;
beforeAll(async () => {
  w = await world();
  const dan = w.viewer('dan', 'designer');
  for (const [name, more] of [
    ['Colleague starting', { summary: 'Papers and a desk for somebody new.', category: 'People', alsoCalled: 'onboarding, new starter' }],
    ['Processing machine', { summary: 'A machine for tide models.', category: 'Machines' }],
    ['Réserver une salle', { summary: 'A room with a wide table.', category: 'Rooms' }],
    ['100 % charts_now', { summary: 'Printed charts.', category: 'Charts' }],
  ] as [string, Partial<ItemDefinition>][]) {
    const { id } = await w.item(name);
    const draft = (await draftOf(dan, id))!;
    const saved = await saveDraft(dan, { id, version: draft.version, draft: { ...draft.draft, ...more } });
    if (!saved.ok) throw new Error(saved.sentence);
    const published = await publish(dan, { id, version: saved.version, note: '' });
    if (!published.ok) throw new Error(published.sentence);
  }
});
afterAll(() => w.close());

describe('what can be asked for', () => {
  const names = async (words: string) => (await browse(words)).map((i) => i.name);

  it('is found by a part of what it is called, is for, or stands under; every word of it', async () => {
    expect(await names('machine')).toEqual(['Processing machine']);
    expect(await names('room table')).toEqual(['Réserver une salle']);
    expect(await names('machine room')).toEqual([]);
    expect((await names('')).length).toBe(4);
  });

  it('is found misspelt, without its accents, and by words that designers added', async () => {
    expect(await names('colleage')).toEqual(['Colleague starting']);
    expect(await names('procesing machin')).toEqual(['Processing machine']);
    expect(await names('RESERVER')).toEqual(['Réserver une salle']);
    expect(await names('réserver')).toEqual(['Réserver une salle']);
    expect(await names('onboarding')).toEqual(['Colleague starting']);
    expect(await names('zzz')).toEqual([]);
  });

  it('takes signs for what they are', async () => {
    expect(await names('%')).toEqual(['100 % charts_now']);
    expect(await names('charts_now')).toEqual(['100 % charts_now']);
    for (const odd of ["it's", '\\', ':*', "'; drop table item; --", 'x'.repeat(100)]) expect(await names(odd)).toEqual([]);
  });
});
