import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { removeSteps, walk, type Plan } from '../plans/index.ts';
import { anyPlan, wideCatalogue } from '../testing/any-plan.ts';
import { add, catalogue, gate, joinGroup, step, tell, wideForm } from '../testing/samples.ts';
import { blankItem, compareItems, type ItemDefinition } from './index.ts';

const item = (more: Partial<ItemDefinition> = {}): ItemDefinition => ({ ...blankItem('Join a group'), form: wideForm, plan: joinGroup, ...more });
const told = (before: ItemDefinition, after: ItemDefinition) => compareItems('item', before, after, catalogue).map((d) => d.sentence);
const fields = (change: (f: (typeof wideForm.fields)[number]) => (typeof wideForm.fields)[number] | undefined) =>
  item({ form: { ...wideForm, fields: wideForm.fields.flatMap((f) => change(f) ?? []) } });

describe('two revisions compared', () => {
  it('say how a gate, a message and an outcome changed, and what came, went and moved', () => {
    const gated = (rule: 'first' | 'all') => item({ plan: { steps: [gate({ rule: { rule } }), add, tell('t', 'Tell the end')] } });
    expect(told(gated('first'), gated('all'))).toEqual([
      expect.stringMatching(/^Gate “Owners agree”: “.*the first reply decides.*” became “.*all of them must approve.*”$/),
    ]);
    const reversed = told(item(), item({ plan: { steps: joinGroup.steps.toReversed() } }));
    expect([reversed.length, reversed.every((t) => t.endsWith('moved.'))]).toEqual([2, true]);
    expect(told(gated('all'), item({ plan: { steps: [gate({ rule: { rule: 'all' }, name: 'All agree' }), tell('t', 'Tell the end')] } }))).toEqual([
      'Gate “Owners agree” is called “All agree” now.',
      'Provision “Add to the group” is gone.',
    ]);
    const longer = { ...tell('t', 'Tell the end'), expected: { min: 'PT1H', likely: 'PT2H', max: 'PT3H' } };
    expect(told(gated('all'), item({ plan: { steps: [gate({ rule: { rule: 'all' } }), add, longer] } }))).toEqual([
      'Tell “Tell the end”: the expected working time changed.',
    ]);
    expect(
      told(gated('all'), item({ plan: { steps: [gate({ rule: { rule: 'all' } }), add, tell('t', 'Tell the end'), tell('n', 'News')] } }))[0],
    ).toMatch(/^Tell “News” was added: /);
  });

  it('say how fields changed', () => {
    const one = (id: string, more: object) =>
      told(
        item(),
        fields((f) => (f.id === id ? ({ ...f, ...more } as typeof f) : f)),
      );
    expect(one('reason', { required: false })).toEqual(['“Why” is not required any more.']);
    expect(one('cores', { max: 8, unit: 'cores' })).toEqual(['“Processors”: at most 16 became 8.', 'The unit of “Processors” changed.']);
    expect(one('reason', { kind: 'text' })).toEqual(['“Why” is asked in another way.']);
    expect(one('reason', { kind: 'number' })).toEqual(['“Why” is a number now; it was a text.']);
    expect(one('account', { held: undefined })).toEqual(['“Counted for” is filled in by whoever asks; it was by nobody, and is not seen.']);
    expect(one('project', { visibleWhen: undefined })).toEqual(['“Project” is shown always; it was when Kind of work is A project.']);
    expect(
      one('kit', {
        options: [
          { value: 'vest', label: 'Vest' },
          { value: 'boat', label: 'Boat' },
        ],
      }),
    ).toEqual([
      'The choice “Life vest” of “Equipment” is called “Vest” now.',
      '“Equipment” offers “Boat” too.',
      '“Equipment” does not offer “Laptop” any more.',
    ]);
    expect(
      told(
        item(),
        fields((f) => (f.id === 'sketch' ? undefined : f)),
      ),
    ).toEqual(['The form does not ask “Sketches” any more.']);
    const [first, ...rest] = wideForm.fields;
    expect(told(item(), item({ form: { ...wideForm, fields: [...rest, first!] } }))).toEqual(['“Group” moved.']);
    expect(told(item(), item({ form: { ...wideForm, rules: undefined } }))).toEqual([
      'The rule of the form “Elsewhere there are no machines of 16 processors. Choose fewer.” is gone.',
    ]);
  });

  it('say what the whole is and promises', () => {
    expect(told(item(), item({ summary: 'New', promise: 'P1D', prices: [] }))).toEqual([
      'The purpose: “” became “New”.',
      'The price changed.',
      'The promise: no promise became 1 d.',
    ]);
    const team = Object.keys(wideCatalogue.teams!)[0]!;
    expect(told(item(), item({ watched: { at: 75, team } }))).toEqual([
      `Who is told of the promise: nobody became ${wideCatalogue.teams![team]!.name}, from 75 % on.`,
    ]);
  });

  it('are the same exactly where nothing is told, and every step that came, went or changed is named, on any two plans', () => {
    const plain = (plan: Plan) => JSON.stringify([plan.steps, plan.undoWhen ?? null]);
    fc.assert(
      fc.property(anyPlan, anyPlan, fc.nat(), (a, b, n) => {
        expect(compareItems('item', item({ plan: a }), item({ plan: structuredClone(a) }), wideCatalogue)).toEqual([]);
        const found = compareItems('item', item({ plan: a }), item({ plan: b }), wideCatalogue);
        expect(found.length > 0).toBe(plain(a) !== plain(b));
        const steps = (p: Plan) => new Map([...walk(p.steps)].map((w) => [w.step.id, w.step]));
        const [old, next] = [steps(a), steps(b)];
        const named = (is: string) => new Set(found.flatMap((d) => (d.is === is ? [d.step] : [])));
        for (const [id, s] of next) if (!old.has(id) || old.get(id)!.kind !== s.kind) expect(named('added').has(id)).toBe(true);
        for (const [id, s] of old) if (!next.has(id) || next.get(id)!.kind !== s.kind) expect(named('gone').has(id)).toBe(true);
        // One step taken out is one that is gone, with what it holds; nothing else has changed.
        const ids = [...old.keys()];
        if (ids.length === 0) return;
        const id = ids[n % ids.length]!;
        const without = removeSteps(a, [id]);
        const gone = compareItems('item', item({ plan: a }), item({ plan: without }), wideCatalogue);
        expect(new Set(gone.map((d) => d.is)).size <= 2 && gone.some((d) => d.is === 'gone' && d.step === id)).toBe(true);
        expect(gone.some((d) => d.is === 'moved' || d.is === 'added')).toBe(false);
      }),
      { numRuns: 150 },
    );
  });

  it('call a step that changed places moved, and no other', () => {
    const plan: Plan = {
      steps: ['a', 'b', 'c', 'd', 'e'].map((id) => step('task', id, { assignee: { team: 'desk' }, instructions: [], checklist: [], fields: [] })),
    };
    const order = (ids: string) => item({ plan: { steps: [...ids].map((id) => plan.steps.find((s) => s.id === id)!) } });
    const moved = (ids: string) => compareItems('item', order('abcde'), order(ids), catalogue).map((d) => `${d.is} ${d.step}`);
    expect(moved('bcdea')).toEqual(['moved a']);
    expect(moved('eabcd')).toEqual(['moved e']);
    expect(moved('acbde')).toHaveLength(1);
    expect(moved('abcde')).toEqual([]);
  });
});
