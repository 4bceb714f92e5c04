import { describe, expect, it } from 'vitest';
import { walk, type Step } from '../plans/index.ts';
import { catalogue } from '../testing/samples.ts';
import { checkDefinition, ItemDefinition, templates } from './index.ts';

describe('what ships to begin an item from', () => {
  it('is eight or more, each called otherwise', () => {
    expect(templates.length).toBeGreaterThanOrEqual(8);
    expect(new Set(templates.map((t) => t.id)).size).toBe(templates.length);
    expect(new Set(templates.map((t) => t.name.toLowerCase())).size).toBe(templates.length);
  });

  it.each(templates.map((t) => [t.name, t] as const))('%s: a draft that lacks nothing but the teams', (_, template) => {
    const made = template.make('Made from it');
    expect(ItemDefinition.parse(made)).toEqual(made);
    expect(made.name).toBe('Made from it');
    // It is a draft of its own: nothing of it is shared with the next.
    expect(template.make('Another')).toEqual({ ...made, name: 'Another' });
    const found = checkDefinition('item', made, catalogue);
    const tasks = [...walk(made.plan.steps)].filter(({ step }) => step.kind === 'task');
    expect(found.map((f) => f.sentence)).toEqual(tasks.map(({ step }) => `“${step.name}” does not have anyone to do it yet.`));
    const withTeams = JSON.parse(
      JSON.stringify(made.plan, (_key, value: unknown) => (isTask(value) ? { ...value, assignee: { team: 'desk' } } : value)),
    ) as typeof made.plan;
    expect(checkDefinition('item', { ...made, plan: withTeams }, catalogue)).toEqual([]);
  });
});
const isTask = (x: unknown): x is Step => typeof x === 'object' && x !== null && 'kind' in x && x.kind === 'task' && 'instructions' in x;
