import { describe, expect, it } from 'vitest';
import { add, catalogue, form, gate, joinGroup, step, tell } from '../testing/samples.ts';
import { audienceWords, blankItem, checkAudience, checkDefinition, ItemDefinition, partOfDefinition, placesAtStart, type Audience } from './index.ts';

const item: ItemDefinition = { name: 'Join a group', summary: '', category: 'Access', form, plan: joinGroup };
const codes = (kind: 'item' | 'part', d: ItemDefinition) => checkDefinition(kind, d, catalogue).map((f) => f.code);

describe('an item', () => {
  it('fits its schema from blank on, and not without a name or with a promise that is no duration', () => {
    expect(ItemDefinition.parse(blankItem('New'))).toEqual(blankItem('New'));
    for (const wrong of [{ name: ' ' }, { name: 'x'.repeat(81) }, { promise: 'two days' }, { form: { fields: [{ id: 'a' }] } }, { plan: {} }])
      expect(ItemDefinition.safeParse({ ...item, ...wrong }).success).toBe(false);
  });

  it('begins with the request and its answers', () => {
    const places = placesAtStart(item, 'item', catalogue);
    expect(places.get('form.group')).toMatchObject({ label: 'Group', type: 'group', always: true });
    expect(places.get('form.colleague')).toMatchObject({ always: false });
    expect(places.has('request.requester')).toBe(true);
    expect(places.has('part.group')).toBe(false);
  });

  it('is checked with its promise: a gate that lapses later than what is promised', () => {
    const late: ItemDefinition = { ...item, plan: { steps: [gate({ deadline: 'P5D' }), tell('end', 'End')] }, promise: 'P2D' };
    expect(checkDefinition('item', late, catalogue).some((f) => /promise/i.test(f.sentence))).toBe(true);
    expect(checkDefinition('item', { ...late, promise: 'P20D' }, catalogue).some((f) => /promise/i.test(f.sentence))).toBe(false);
  });
});

describe('who is told of the promise', () => {
  const told = (watched: ItemDefinition['watched'], more: Partial<ItemDefinition> = {}) =>
    checkDefinition('item', { ...item, promise: 'P40D', watched, ...more }, catalogue).map((f) => `${f.code}: ${f.sentence}`);
  const team = Object.keys(catalogue.teams!)[0]!;

  it('is a team that can be told, and of something that is promised', () => {
    expect(told(undefined)).toEqual([]);
    expect(told({ at: 75, team })).toEqual([]);
    expect(told({ at: 75, team: 'gone' })).toEqual(['unknown-team: The team that is to be told when the promise is near does not exist.']);
    expect(told({ at: 75, team }, { promise: undefined })).toEqual([
      `promise: ${catalogue.teams![team]!.name} is to be told when the promise is near, and nothing is promised.`,
    ]);
    const empty = { ...catalogue, teams: { [team]: { name: 'Desk', members: 0 } } };
    expect(checkDefinition('item', { ...item, promise: 'P40D', watched: { at: 1, team } }, empty).map((f) => f.sentence)).toContain(
      'Desk is to be told when the promise is near, and has no members.',
    );
    for (const at of [0, 100, 7.5]) expect(ItemDefinition.safeParse({ ...item, watched: { at, team } }).success).toBe(false);
  });
});

describe('a part', () => {
  const inPart = (steps: ItemDefinition['plan']['steps']): ItemDefinition => ({ ...item, plan: { steps } });
  const reads = step('provision', 'add', {
    action: 'directory.addMember',
    inputs: { group: { ref: 'part.group' }, person: { ref: 'request.requester' } },
  });

  it('is given what its form asks for, and gives back what it says', () => {
    const outputs = [{ name: 'already', label: 'Was in', type: 'boolean' as const, from: { ref: 'steps.add.already' } }];
    const part = partOfDefinition({ ...inPart([reads]), outputs });
    expect(part.inputs).toContainEqual({ name: 'group', label: 'Group', type: 'group', required: true });
    expect(part.inputs).toContainEqual({ name: 'colleague', label: 'Colleague', type: 'person', required: false });
    expect(part.outputs).toEqual(outputs);
    expect(partOfDefinition(item).outputs).toEqual([]);
  });

  it('reads what it is given and not the form of whoever uses it', () => {
    const places = placesAtStart(item, 'part', catalogue);
    expect(places.get('part.group')).toMatchObject({ type: 'group', always: true });
    expect(places.has('form.group')).toBe(false);
    expect(codes('part', inPart([reads]))).toEqual([]);
    expect(codes('part', inPart([add]))).not.toEqual([]);
  });

  it('need not tell the requester; an item must', () => {
    expect(codes('item', inPart([add]))).toContain('untold');
    expect(codes('part', inPart([reads]))).not.toContain('untold');
  });
});

describe('who may ask', () => {
  const called: Record<string, string> = { 'location lunnick': 'Lunnick Station', 'group tides': 'tide-models', 'person ada': 'Ada Strand' };
  const names = (kind: string, id: string) => called[`${kind} ${id}`];

  it('is said line by line, all that is stated together', () => {
    expect(
      audienceWords(
        [
          { department: 'Charts', location: { location: 'lunnick' } },
          { job: 'hydrographer', group: { group: 'tides' } },
          { person: { person: 'ada' } },
          { group: { group: 'gone' } },
        ],
        names,
      ),
    ).toBe(
      'everybody of Charts at Lunnick Station; everybody who works as hydrographer in tide-models; Ada Strand; everybody in a group that is not known any more',
    );
  });

  it('stops publishing where nobody may, a line says nothing, or somebody is gone', () => {
    const found = (audience: Audience | undefined) => checkAudience(audience, names).map((f) => [f.severity, f.sentence]);
    expect(found(undefined)).toEqual([]);
    expect(found([{ department: 'Charts' }, { location: { location: 'lunnick' } }])).toEqual([]);
    expect(found([])).toEqual([['stops', 'Nobody may ask for this.']]);
    expect(found([{ department: 'Charts' }, {}])).toEqual([['stops', 'Line 2 of who may ask says nothing.']]);
    expect(found([{ person: { person: 'gone' } }])).toEqual([['stops', 'Line 1 of who may ask names something that is not known any more.']]);
  });
});
