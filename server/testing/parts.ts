import type { ItemDefinition } from '../../core/items/index.ts';
import type { Part, Plan } from '../../core/plans/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { createItem, publish, saveDraft } from '../items/commands.ts';

/** The names that sample plans and forms use for the person and the group that are stated, the team that works, the table of machines and the one that routes, as they are in a real organisation. */
export interface Stand {
  ada: string;
  desk: string;
  machines: string;
  tides: string;
  whoGets: string;
}
export const placed = <T>(value: T, stand: Stand): T =>
  JSON.parse(JSON.stringify(value).replace(/"(ada|desk|machines|tides|whoGets)"/g, (_, name: keyof Stand) => JSON.stringify(stand[name]))) as T;

/**
 * A generated plan as a draft holds it: its parts are published, each once (`known` remembers them), and its steps name
 * the published ones.
 */
export async function withParts(plan: Plan, designer: Viewer, stand: Stand, known: Map<string, string>): Promise<Plan> {
  const { parts = {}, ...bare } = plan;
  for (const [key, part] of Object.entries(parts)) if (!known.has(key)) known.set(key, await publishPart(part, designer, stand));
  const named = JSON.stringify(bare, (key, value: unknown) => (key === 'part' && typeof value === 'string' ? (known.get(value) ?? value) : value));
  return placed(JSON.parse(named) as Plan, stand);
}

async function publishPart(part: Part, designer: Viewer, stand: Stand): Promise<string> {
  const begun = await createItem(designer, { name: part.name, kind: 'part' });
  if (!begun.ok) throw new Error(begun.sentence);
  const draft: ItemDefinition = {
    name: part.name,
    summary: '',
    category: '',
    form: { fields: part.inputs.map((i) => ({ id: i.name, kind: 'person', label: i.label, required: i.required })) },
    plan: { steps: placed(part.steps, stand) },
    outputs: part.outputs,
  };
  const saved = await saveDraft(designer, { id: begun.id, version: 1, draft });
  if (!saved.ok) throw new Error(saved.sentence);
  const done = await publish(designer, { id: begun.id, version: saved.version, note: '' });
  if (!done.ok) throw new Error(`${done.sentence} ${JSON.stringify(done.problems)}`);
  return begun.id;
}
