import { stepIds, thaw, walk, type Catalogue } from '../plans/index.ts';
import type { ItemDefinition } from './definition.ts';

interface Keyed {
  retired?: string[] | undefined;
  wereCalled?: { id: string; name: string }[] | undefined;
}

/**
 * A draft as a revision had it: what it asks, does and says of itself. Its name stays, since another item may be called as it was;
 * and what was added since keeps its key for itself, as if it had been taken out.
 */
export function backTo(draft: ItemDefinition, revision: ItemDefinition, catalogue: Catalogue): ItemDefinition {
  const plan = thaw(revision.plan, catalogue);
  const fields = new Set(revision.form.fields.map((f) => f.id));
  const asked = draft.form.fields.map((f) => ({ id: f.id, name: f.label }));
  const done = [...walk(draft.plan.steps)].map(({ step }) => ({ id: step.id, name: step.name }));
  return {
    ...revision,
    name: draft.name,
    form: { ...revision.form, ...without(draft.form, revision.form, asked, fields) },
    plan: { ...plan, ...without(draft.plan, plan, done, stepIds(plan)) },
  };
}

/** The keys that are not given again: those of both, and of what the draft has and the revision has not. */
function without(draft: Keyed, revision: Keyed, has: { id: string; name: string }[], there: ReadonlySet<string>): Keyed {
  const gone = has.filter((x) => !there.has(x.id));
  const retired = [...new Set([...(revision.retired ?? []), ...(draft.retired ?? []), ...gone.map((x) => x.id)])].filter((id) => !there.has(id));
  const names = new Map([...(revision.wereCalled ?? []), ...(draft.wereCalled ?? []), ...gone].map((x) => [x.id, x.name]));
  const wereCalled = [...names].flatMap(([id, name]) => (there.has(id) || name === '' ? [] : [{ id, name }]));
  return { retired: retired.length > 0 ? retired : undefined, wereCalled: wereCalled.length > 0 ? wereCalled : undefined };
}
