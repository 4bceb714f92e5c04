import { describe, expect, it } from 'vitest';
import { form } from '../testing/samples.ts';
import { missingFields, textLimit, validateAnswers, visibleFields } from './index.ts';

const good = { group: { group: 'g1' }, reason: 'Tide work', kind: 'daily' };

describe('answers held against a form', () => {
  it('are taken when they fit, trimmed, with empty optional fields as null', () => {
    const result = validateAnswers(form, { ...good, reason: '  Tide work ' });
    expect(result).toEqual({ ok: true, answers: { ...good, colleague: null } });
  });

  it('name every problem at its field and lose nothing typed', () => {
    const result = validateAnswers(form, { reason: 'x'.repeat(textLimit.longText + 1), kind: 'other' });
    expect(result.ok).toBe(false);
    if (result.ok) return;
    expect(result.problems.map((p) => p.field)).toEqual(['group', 'reason', 'kind']);
    expect(result.problems[0]!.sentence).toBe('Pick “Group”.');
    expect(result.problems[1]!.sentence).toBe('Why has 4001 characters; at most 4000 fit.');
    expect((result.answers['reason'] as string).length).toBe(4001);
  });

  it('of a hidden field are dropped, of a shown one wanted', () => {
    const hidden = validateAnswers(form, { ...good, project: 'Left over' });
    expect(hidden.answers).not.toHaveProperty('project');
    const shown = validateAnswers(form, { ...good, kind: 'project' });
    expect(shown).toMatchObject({ ok: false, problems: [{ field: 'project', sentence: 'Fill in “Project”.' }] });
  });

  it('of the wrong shape or naming what does not exist are refused with a sentence', () => {
    const wrong = validateAnswers(form, { ...good, group: 'tide', colleague: { person: 'nobody' } }, (kind) => kind === 'group');
    expect(wrong).toMatchObject({
      ok: false,
      problems: [{ field: 'group' }, { field: 'colleague', sentence: 'Colleague: this person is not known. Pick one from the list.' }],
    });
    expect(validateAnswers(form, { ...good, reason: { deep: [1] } })).toMatchObject({ ok: false, problems: [{ field: 'reason' }] });
  });

  it('tell which required fields still miss', () => {
    expect(missingFields(form, { kind: 'project' }).map((f) => f.label)).toEqual(['Group', 'Why', 'Project']);
    expect(visibleFields(form, {}).map((f) => f.id)).not.toContain('project');
  });
});
