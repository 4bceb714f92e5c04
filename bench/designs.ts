import dayjs from 'dayjs';
import businessTime from 'dayjs-business-time';
import utc from 'dayjs/plugin/utc.js';
import pg from 'pg';
import { afterWorking, compileHours, openBetween, usualHours } from '../core/calendar/index.ts';
import { z } from 'zod';
import { replay, whyNotOver, newState } from '../core/engine/index.ts';
import { validateAnswers, type Answers, type Field } from '../core/forms/index.ts';
import { blankItem, compareItems, type ItemDefinition } from '../core/items/index.ts';
import { passages, type Catalogue, type Step } from '../core/plans/index.ts';
import { play } from '../core/testing/player.ts';
import { step, tell } from '../core/testing/samples.ts';
import { useSettings } from '../server/config.ts';
import { disconnect } from '../server/db/database.ts';
import { browse } from '../server/items/offered.ts';
import { makeOrganisation } from '../server/testing/organisation.ts';
import { viewerFor } from '../server/testing/parties.ts';
import { besideRaw, line, timed } from './measure.ts';

/** What designers and askers wait for, in numbers: a long form, the difference of two long plans, a run gone over, a large catalog searched. */
useSettings(process.env);
const beside = async (what: string, ours: () => unknown, reference: string, theirs: () => unknown, rounds = 21) => {
  const [a, b] = [await timed(() => Promise.resolve(ours()), rounds), await timed(() => Promise.resolve(theirs()), rounds)];
  const times = a > b ? `${(a / b).toFixed(1)} times` : `a ${(b / a).toFixed(0)}th`;
  line(what, `${a.toFixed(2)} ms`, `${reference} ${b.toFixed(2)} ms: ${times}`);
};

// Working time in compiled hours, beside the reference library on the same questions.
dayjs.extend(utc);
dayjs.extend(businessTime);
const open = [{ start: '08:00:00', end: '16:00:00' }];
dayjs.setBusinessTime({ monday: open, tuesday: open, wednesday: open, thursday: open, friday: open, saturday: null, sunday: null } as never);
const holidays = Array.from({ length: 15 }, (_, i) => `2026-${String((i % 12) + 1).padStart(2, '0')}-${String(i + 5).padStart(2, '0')}`);
const calendar = compileHours({ ...usualHours('utc'), holidays: holidays.map((day) => ({ day, words: '' })) });
dayjs.setHolidays(holidays);
const starts = Array.from({ length: 1000 }, (_, i) => new Date(Date.UTC(2026, 0, 1) + i * 29_700_000).toISOString());
const moments = starts.map((at) => Date.parse(at));
for (let i = 0; i < 20; i++) moments.forEach((at) => afterWorking(at, 60_000, calendar));
for (const minutes of [240, 4800])
  await beside(
    `${minutes / 60} h of working time after 1,000 moments`,
    () => moments.forEach((at) => afterWorking(at, minutes * 60_000, calendar)),
    'dayjs-business-time',
    () => starts.forEach((at) => (dayjs.utc(at) as unknown as { addBusinessMinutes: (n: number) => unknown }).addBusinessMinutes(minutes)),
    5,
  );
await beside(
  'working time between 1,000 pairs of moments',
  () => moments.forEach((at, i) => openBetween(at, moments[(i * 7) % 1000]!, calendar)),
  'dayjs-business-time',
  () =>
    starts.forEach((at, i) =>
      (dayjs.utc(at) as unknown as { businessMinutesDiff: (d: unknown) => number }).businessMinutesDiff(dayjs.utc(starts[(i * 7) % 1000]!)),
    ),
  5,
);

// A form of sixty fields, beside a schema of the same sixty written by hand for them.
const kinds = ['text', 'number', 'date', 'yesNo', 'choice', 'address'] as const;
const fields = Array.from({ length: 60 }, (_, i): Field => {
  const kind = kinds[i % kinds.length]!;
  return {
    id: `f${i}`,
    kind,
    label: `Field ${i}`,
    required: i % 2 === 0,
    ...(kind === 'number' && { min: 0, max: 1000 }),
    ...(kind === 'choice' && { options: ['a', 'b', 'c'].map((value) => ({ value, label: value })) }),
  };
});
const of: Record<(typeof kinds)[number], [unknown, z.ZodType]> = {
  text: ['Some words', z.string().min(1).max(200)],
  number: [42, z.number().min(0).max(1000)],
  date: ['2026-12-04', z.iso.date()],
  yesNo: [true, z.boolean()],
  choice: ['b', z.enum(['a', 'b', 'c'])],
  address: ['guest@example.org', z.email()],
};
const answers = Object.fromEntries(fields.map((f, i) => [f.id, of[kinds[i % kinds.length]!][0]])) as Answers;
const schema = z.object(Object.fromEntries(fields.map((f, i) => [f.id, of[kinds[i % kinds.length]!][1].nullable().optional()])));
if (!validateAnswers({ fields }, answers).ok || !schema.safeParse(answers).success) throw new Error('The answers of the bench do not hold.');
await beside(
  'a form of 60 fields held to its answers, 100 times',
  () => {
    for (let i = 0; i < 100; i++) validateAnswers({ fields }, answers);
  },
  'a hand-written Zod schema',
  () => {
    for (let i = 0; i < 100; i++) schema.safeParse(answers);
  },
);

// Two revisions of three hundred steps, thirty of them otherwise, three moved.
const task = (i: number, words: string): Step =>
  step('task', `s${i}`, { assignee: { team: 'desk' }, instructions: passages(words), checklist: [], fields: [] });
const plan = (changed: boolean): ItemDefinition => {
  const steps = Array.from({ length: 300 }, (_, i) => task(i, changed && i % 10 === 0 ? 'Do it otherwise' : 'Do it'));
  if (changed) for (const at of [40, 120, 200]) steps.splice(at + 30, 0, ...steps.splice(at, 1));
  return { ...blankItem('Long'), plan: { steps: [...steps, tell('end', 'End')] } };
};
const catalogue: Catalogue = { actions: [], people: {}, teams: { desk: { name: 'Desk', members: 3 } } };
const [first, second] = [plan(false), plan(true)];
if (compareItems('item', first, second, catalogue).length !== 33) throw new Error('The difference of the bench is not what it should be.');
await beside(
  'the difference of two revisions of 300 steps',
  () => compareItems('item', first, second, catalogue),
  'both written as JSON',
  () => JSON.stringify(first) === JSON.stringify(second),
);

// A run with a hundred tasks behind it, looked at whether it can go over.
const p = play(first.plan);
for (let i = 0; i < 100; i++) p.feed({ type: 'taskDone', key: p.open(`s${i}`)!.key, person: 'tech', values: {} });
const later = { ...second, plan: { steps: [...first.plan.steps.slice(0, 150), ...second.plan.steps.slice(150)] } };
if (whyNotOver(first, later, p.events) !== undefined) throw new Error('The run of the bench cannot go over.');
await beside(
  `whether a run with ${p.events.length} events can go over`,
  () => whyNotOver(first, later, p.events),
  'two replays of it',
  () => [replay(first.plan, p.events, newState()), replay(later.plan, p.events, newState())],
  7,
);

// A catalog of two thousand items.
const client = new pg.Client({ connectionString: process.env['DATABASE_URL'] });
await client.connect();
const org = await makeOrganisation();
const viewer = viewerFor(org.people['tor']!);
const words = ['Survey', 'Chart', 'Tide', 'Vessel', 'Machine', 'Access', 'Tablet', 'Desk', 'Sounding', 'Buoy'];
const items = Array.from({ length: 2000 }, (_, i) => {
  const name = `${words[i % 10]} ${words[(i * 7 + 3) % 10]!.toLowerCase()} ${i}`;
  const some = i % 5 === 0 ? { audience: [{ department: 'Charts' }, { group: { group: org.groups['tide-models']! } }] } : {};
  return {
    name,
    definition: { ...blankItem(name), summary: `All about ${words[(i * 3) % 10]!.toLowerCase()}.`, category: words[i % 7]!, ...some, format: 2 },
  };
});
await client.query(
  `with made as (insert into item (name, draft, published_revision) select g ->> 'name', g -> 'definition', 1 from jsonb_array_elements($1::jsonb) g returning id, draft)
   insert into revision (item_id, number, definition, content_hash, published_by) select id, 1, draft, md5(draft::text), $2 from made`,
  [JSON.stringify(items), viewer.id],
);
await client.query('vacuum analyze item, revision');
const raw = besideRaw(client);
const ilike = `select i.id, v.name, v.summary, v.category from item i join revision v on v.item_id = i.id and v.number = i.published_revision
  where i.archived_at is null and v.name || ' ' || v.summary ilike $1 order by v.name limit 500`;
await raw('2,000 items: found by a word', () => browse(viewer, 'buoy'), ilike, ['%buoy%']);
await raw('2,000 items: found misspelt', () => browse(viewer, 'sounting'), ilike, ['%sounding%']);
await raw('2,000 items: all of them, the first 500', () => browse(viewer, ''), ilike, ['%']);
await client.end();
await disconnect();
