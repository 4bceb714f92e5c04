import { randomUUID } from 'node:crypto';
import fc from 'fast-check';
import type { Form } from '../core/forms/index.ts';
import { type Plan } from '../core/plans/index.ts';
import { anyPlan, wideCatalogue } from '../core/testing/any-plan.ts';
import { step, tell as tellStep, wideForm } from '../core/testing/samples.ts';
import { sentence } from '../core/values/index.ts';
import { createItem, publish, saveDraft } from '../server/items/commands.ts';
import { makePublicLink, publicLinkOf } from '../server/outside/links.ts';
import { submitRequest } from '../server/requests/submit.ts';
import type { Result } from '../server/refusal.ts';
import type { makeOrganisation } from '../server/testing/organisation.ts';
import { consentTo } from '../server/testing/consent.ts';
import { viewerFor } from '../server/testing/parties.ts';
import { placed, withParts } from '../server/testing/parts.ts';
import { checkItem, stops } from '../core/checks/index.ts';

export type Organisation = Awaited<ReturnType<typeof makeOrganisation>>;

export function good<T extends object>(result: Result<T>): T {
  if (!result.ok) throw new Error(`${result.code}: ${result.sentence}`);
  return result;
}

/** Numbers from a seed (mulberry32), so that a run can be repeated. */
export function randomFrom(seed: number): (n: number) => number {
  let state = seed >>> 0;
  return (n) => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return Math.floor((((t ^ (t >>> 14)) >>> 0) / 4_294_967_296) * n);
  };
}

/** Generated plans that can be published, with waits of seconds where they would be days. */
export const quickPlans = (count: number, seed: number): Plan[] =>
  fc
    .sample(
      anyPlan.filter((p) => p.steps.length > 0 && stops(checkItem(wideForm, p, wideCatalogue)).length === 0),
      { seed, numRuns: count },
    )
    .map((p) => {
      const text = JSON.stringify(p)
        .replace(/\{"length":"PT2H","counted":"working"\}/g, '{"length":"PT2S","counted":"always"}')
        .replace(/\{"length":"(PT5M|PT8H|P1D)","counted":"\w+"\}/g, '{"length":"PT3S","counted":"always"}')
        .replace(/"action":"directory.addMember"/g, '"action":"directory.addMember","retries":{"times":3,"firstPauseSeconds":1,"factor":1}');
      return JSON.parse(text) as Plan;
    });

/** The parts that were published already. */
const published = new Map<string, string>();

/** Publishes a plan as an item that the people of the small organisation can ask for. */
export async function publishPlan(org: Organisation, name: string, plan: Plan, form: Form = generatedForm): Promise<string> {
  const designer = viewerFor(org.people['dan']!, 'designer');
  const stand = { ada: org.people['boss']!, desk: org.teamId, machines: org.machines, tides: org.groups['tide-models']!, whoGets: org.routing };
  const real = await withParts(plan, designer, stand, published);
  const made = good(await createItem(designer, { name }));
  const saved = good(
    await saveDraft(designer, {
      id: made.id,
      version: 1,
      draft: {
        name,
        summary: '',
        category: 'Generated',
        form: placed(form, stand),
        plan: real,
        // Near at once, and late soon.
        promise: 'PT1M',
        watched: { at: 1, team: org.teamId },
        onBehalf: { managers: false, by: [{ person: { person: org.people['tor']! } }] },
      },
    }),
  );
  good(await consentTo(viewerFor(org.people['boss']!), () => publish(designer, { id: made.id, version: saved.version, note: '' })));
  return made.id;
}

/** Publishes an item that those from outside ask for, and are asked about; gives the token of its link. */
export async function publishOutside(org: Organisation): Promise<string> {
  const designer = viewerFor(org.people['dan']!, 'designer');
  const name = 'Asked from outside';
  const made = good(await createItem(designer, { name }));
  const fields = [{ id: 'where', kind: 'text' as const, label: 'Where', required: true }];
  const question = step('askBack', 'when', { question: sentence('When was that?'), fields: [{ ...fields[0]!, id: 'answer', label: 'When' }] });
  const draft = { name, summary: '', category: 'Generated', form: { fields }, plan: { steps: [question, tellStep('end', 'Done')] }, outsiders: true };
  const saved = good(await saveDraft(designer, { id: made.id, version: 1, draft }));
  good(await publish(designer, { id: made.id, version: saved.version, note: '' }));
  good(await makePublicLink(designer, made.id));
  const its = await publicLinkOf(designer, made.id);
  return its!.link!.split('/public/')[1]!;
}

/** The form of the generated items: of a code one open request only may have it. */
const generatedForm: Form = { ...wideForm, fields: wideForm.fields.map((f) => (f.id === 'code' ? { ...f, unique: { among: 'open' } } : f)) };

/** Answers that every generated item takes; `more` stand in place of the usual ones. */
export const answersFor = (org: Organisation, group = 'tide-models', more: Record<string, unknown> = {}): Record<string, unknown> => ({
  group: { group: org.groups[group] },
  reason: 'Tide tables',
  kind: 'daily',
  crew: ['ina', 'runa', 'dan'].map((u) => ({ person: org.people[u] })),
  cores: 2,
  price: { amount: '1250.50', currency: 'EUR' },
  by: { team: org.teamId },
  from: '2026-03-04',
  machine: { table: org.machines, key: 'Large' },
  gear: [{ entry: { what: 'Echo sounder', many: 2, by: { person: org.people['ina'] } } }, { entry: { what: 'Tide gauge', many: 1 } }],
  ...more,
});

/** Asks for a generated item. `idempotencyKey` makes a repeat the same request; `more` answers stand in place of the usual ones. */
export const askFor = (
  org: Organisation,
  itemId: string,
  idempotencyKey: string = randomUUID(),
  who = 'tor',
  group = 'tide-models',
  more: Record<string, unknown> = {},
  forWhom?: string,
) =>
  submitRequest(viewerFor(org.people[who]!), {
    itemId,
    revision: 1,
    idempotencyKey,
    // One of those who ask may do so for others.
    forWhom: who === 'tor' && forWhom !== undefined ? org.people[forWhom] : undefined,
    answers: answersFor(org, group, more),
  });
