import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Policy } from '../../core/policies/index.ts';
import { gate, tell } from '../../core/testing/samples.ts';
import { world, type World } from '../testing/world.ts';
import { createPolicy, changePolicy } from './commands.ts';
import { askedOf } from '../../core/lists/index.ts';
import { policies } from './list.ts';
import { policyOf } from './queries.ts';
import { createItem, saveDraft } from '../items/commands.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());

const designer = () => w.viewer('dan', 'designer');
const definition = (name: string, levels = 1): Policy => ({
  name,
  purpose: 'For a test',
  inputs: [{ name: 'cores', label: 'Processors', type: 'number' }],
  lines: [{ id: 'all', approvers: { from: 'chain', levels }, rule: { rule: 'any' } }],
});
async function begun(name: string): Promise<string> {
  const made = await createPolicy(designer(), { name });
  if (!made.ok) throw new Error(made.sentence);
  return made.id;
}
const read = async (id: string) => {
  return (await policyOf(designer(), id))!;
};

describe('an approval policy', () => {
  it('has a name that no other has, whatever its capitals, also when two begin it at once', async () => {
    const both = await Promise.all([createPolicy(designer(), { name: 'Travel' }), createPolicy(designer(), { name: 'Travel' })]);
    expect(both.map((r) => r.ok).sort()).toEqual([false, true]);
    expect(both.find((r) => !r.ok)).toMatchObject({ code: 'taken', problems: [{ field: 'name' }] });
    const other = await begun('Tickets');
    expect(await changePolicy(designer(), { id: other, version: 1, definition: definition('TRAVEL'), note: '' })).toMatchObject({
      ok: false,
      code: 'taken',
    });
    expect((await read(other)).definition.name).toBe('Tickets');
    expect(await createPolicy(designer(), { name: '   ' })).toMatchObject({ ok: false, code: 'invalid' });
  });

  it('changed by two at once: one version counts, the other is told and has overwritten nothing', async () => {
    const id = await begun('Boats');
    const change = (levels: number) =>
      changePolicy(designer(), { id, version: 1, definition: definition('Boats', levels), note: `${levels} levels` });
    const both = await Promise.all([change(2), change(3)]);
    expect(both.map((r) => r.ok).sort()).toEqual([false, true]);
    expect(both.find((r) => !r.ok)).toMatchObject({
      code: 'changed-meanwhile',
      sentence: expect.stringContaining('Nothing of theirs was overwritten'),
    });
    const kept = await read(id);
    const won = both[0].ok ? 2 : 3;
    expect(kept.definition.lines[0]!.approvers).toEqual({ from: 'chain', levels: won });
    expect(kept.versions.map((v) => [v.version, v.note])).toEqual([
      [2, `${won} levels`],
      [1, 'Begun'],
    ]);
    expect(await change(4)).toMatchObject({ ok: false, code: 'changed-meanwhile' });
  });

  it('that does not fit is refused with the place; what would never be followed is told, and kept', async () => {
    const id = await begun('Rooms');
    const broken = { ...definition('Rooms'), lines: [{ id: 'all', approvers: { from: 'people', people: [] }, rule: { rule: 'any' } }] };
    expect(await changePolicy(designer(), { id, version: 1, definition: broken, note: '' })).toMatchObject({
      ok: false,
      code: 'invalid',
      problems: [{ field: 'lines[0].approvers.people', sentence: 'Name at least one person.' }],
    });
    const twice = { ...definition('Rooms'), lines: [definition('').lines[0], { ...definition('').lines[0], id: 'again' }] };
    expect(await changePolicy(designer(), { id, version: 1, definition: twice, note: '' })).toMatchObject({
      ok: true,
      version: 2,
      findings: [expect.stringContaining('Line 2 is never followed')],
    });
  });

  it('says which items follow it, drafts and offered ones', async () => {
    const id = await begun('Followed');
    const follows = gate({ approvers: { from: 'policy', policy: id, inputs: {} } });
    const made = await createItem(designer(), { name: 'Follows in draft' });
    if (!made.ok) throw new Error(made.sentence);
    const draft = { name: 'Follows in draft', summary: '', category: '', form: { fields: [] }, plan: { steps: [follows, tell('end', 'End')] } };
    expect(await saveDraft(designer(), { id: made.id, version: 1, draft })).toMatchObject({ ok: true });
    expect((await read(id)).usedBy.map((i) => i.name)).toEqual(['Follows in draft']);
    expect((await read(await begun('Unused'))).usedBy).toEqual([]);
  });

  it('is kept and read by designers only', async () => {
    const id = await begun('Private');
    for (const other of [w.viewer('tor'), w.viewer('runa', 'teamMember'), w.viewer('olav', 'auditor')]) {
      expect(await createPolicy(other, { name: 'Mine' })).toMatchObject({ ok: false, code: 'not-allowed' });
      expect(await changePolicy(other, { id, version: 1, definition: definition('Mine'), note: '' })).toMatchObject({
        ok: false,
        code: 'not-allowed',
      });
      expect(await policies(other, askedOf('policies'))).toBeUndefined();
      expect(await policyOf(other, id)).toBeUndefined();
    }
    expect(await changePolicy(designer(), { id: crypto.randomUUID(), version: 1, definition: definition('Gone'), note: '' })).toMatchObject({
      ok: false,
      code: 'not-found',
    });
  });
});
