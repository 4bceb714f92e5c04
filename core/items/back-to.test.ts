import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { freshFieldId, withoutField } from '../forms/index.ts';
import { freeze, removeSteps, stepIds, walk } from '../plans/index.ts';
import { anyPlan, wideCatalogue } from '../testing/any-plan.ts';
import { add, catalogue, gate, step, tell, wideForm } from '../testing/samples.ts';
import { backTo, blankItem, ItemDefinition } from './index.ts';

const item = (more: Partial<ItemDefinition>): ItemDefinition => ({ ...blankItem('Survey'), form: wideForm, ...more });

describe('a draft as a revision had it', () => {
  it('publishes what that revision did, whatever the plan and whatever the draft was meanwhile', () => {
    fc.assert(
      fc.property(anyPlan, anyPlan, (then, now) => {
        const revision = item({ plan: freeze(then, wideCatalogue), summary: 'As it was' });
        const back = backTo(item({ name: 'Renamed', plan: now, summary: 'Since' }), revision, wideCatalogue);
        const again = freeze(back.plan, wideCatalogue);
        const kept = freeze(then, wideCatalogue);
        expect([again.steps, again.parts, again.undoWhen]).toEqual([kept.steps, kept.parts, kept.undoWhen]);
        expect([back.name, back.summary]).toEqual(['Renamed', 'As it was']);
        expect(ItemDefinition.safeParse(JSON.parse(JSON.stringify(back))).success).toBe(true);
        // No key of what was added since is given again, and none that is there is withheld.
        const there = stepIds(back.plan);
        for (const { step: s } of walk(now.steps)) expect(there.has(s.id) || back.plan.retired?.includes(s.id)).toBe(true);
        expect(back.plan.retired?.filter((id) => there.has(id)) ?? []).toEqual([]);
      }),
      { numRuns: 60 },
    );
  });

  it('an undo that somebody chose is kept; one that the system states is left to it', () => {
    const stated = freeze({ steps: [add] }, catalogue);
    const chosen = freeze({ steps: [{ ...add, undo: 'none' } as typeof add] }, catalogue);
    expect(backTo(item({}), item({ plan: stated }), catalogue).plan.steps).toEqual([add]);
    expect(backTo(item({}), item({ plan: chosen }), catalogue).plan.steps[0]).toMatchObject({ undo: 'none' });
  });

  it('what was taken out since is there again under its own name, and what was added since is told by the name it had', () => {
    const revision = item({ plan: { steps: [gate(), tell('end', 'End')] } });
    const since = item({
      form: {
        ...withoutField(wideForm, 'cores'),
        fields: [...withoutField(wideForm, 'cores').fields, { id: 'depth', kind: 'number', label: 'Depth', required: false }],
      },
      plan: { ...removeSteps(revision.plan, ['end']), steps: [gate(), step('mark', 'seen', { shows: 'milestone', words: 'Seen' } as never)] },
    });
    const back = backTo(since, revision, catalogue);
    expect(back.form.fields).toEqual(wideForm.fields);
    expect([back.form.retired, back.form.wereCalled]).toEqual([['depth'], [{ id: 'depth', name: 'Depth' }]]);
    expect([back.plan.retired, back.plan.wereCalled]).toEqual([['seen'], [{ id: 'seen', name: 'mark seen' }]]);
    expect(freshFieldId(back.form, 'Depth')).not.toBe('depth');
  });
});
