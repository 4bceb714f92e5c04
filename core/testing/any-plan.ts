import fc from 'fast-check';
import type { Condition } from '../conditions/index.ts';
import {
  branches,
  passages,
  type Approvers,
  type Block,
  type Catalogue,
  type Gate,
  type Part,
  type Passage,
  type Plan,
  type Step,
} from '../plans/index.ts';
import { idFrom, sentence } from '../values/index.ts';
import { add, catalogue, finish, gate, step, tell } from './samples.ts';

/**
 * Valid plans of any shape: every step kind, and every setting there is, drawn by itself. Whoever adds a setting draws it
 * here; the tests of the engine, the checks, the runtime, the formats and the soak all live on these plans.
 */

/** Names that once meant something to every object, to HTML, or to a reader of lines. */
const names = fc.constantFrom(
  'Constructor',
  'toString',
  '__proto__',
  'has Own Property',
  '<b>Bold</b> & "quoted"',
  'Øvre skjær 🛶',
  'مرحبا',
  'Entries',
  'Hand out from Stores',
);
const duration = fc.constantFrom('PT2H', 'P1D', 'PT30M');
const span = fc.record({ length: duration, counted: fc.constantFrom('working' as const, 'always' as const) });

/** Conditions over the form, of every kind of comparison; they hold, or not, for the answers of the samples. */
const condition: fc.Arbitrary<Condition> = fc.letrec<{ c: Condition }>((tie) => ({
  c: fc.oneof(
    { maxDepth: 2, depthSize: 'small' },
    fc.constantFrom<Condition>(
      { compare: 'is', left: { ref: 'form.kind' }, right: { literal: 'daily' } },
      { compare: 'is', left: { ref: 'form.kind' }, right: { literal: 'project' } },
      { compare: 'isNot', left: { ref: 'form.kind' }, right: { literal: 'daily' } },
      { compare: 'atLeast', left: { ref: 'form.cores' }, right: { literal: 4 } },
      { compare: 'less', left: { ref: 'form.cores' }, right: { literal: 3 } },
      { compare: 'more', left: { ref: 'form.from' }, right: { literal: '2026-03-01' } },
      { compare: 'is', left: { ref: 'form.remote' }, right: { literal: true } },
      { compare: 'is', left: { ref: 'form.colleague' }, right: { ref: 'request.requester' } },
      { has: { ref: 'form.colleague' } },
      { has: { ref: 'form.kit' } },
    ),
    fc.array(tie('c'), { minLength: 1, maxLength: 2 }).map((all) => ({ all })),
    fc.array(tie('c'), { minLength: 1, maxLength: 2 }).map((any) => ({ any })),
    tie('c').map((not) => ({ not })),
  ),
})).c as fc.Arbitrary<Condition>;

const approvers: fc.Arbitrary<Approvers> = fc.constantFrom<Approvers>(
  { from: 'ownersOf', group: { ref: 'form.group' } },
  { from: 'people', people: [{ person: 'ada' }] },
  { from: 'person', person: { ref: 'request.requester' } },
  { from: 'person', person: { ref: 'form.crew' } },
  { from: 'managerOf', person: { ref: 'request.requester' } },
  { from: 'managerOf', person: { ref: 'request.requester' }, levels: 2 },
  { from: 'team', team: 'desk' },
  { from: 'chain', person: { ref: 'request.requester' }, levels: 2 },
  { from: 'chain', person: { ref: 'request.requester' }, levels: 3, amount: { ref: 'form.cores' }, limits: [1, 5] },
);

const body: fc.Arbitrary<Passage[]> = fc.array(
  fc.record(
    {
      when: condition,
      text: fc.constantFrom(
        sentence('About your request'),
        [[{ text: 'Number ' }, { ref: 'request.number', bold: true as const }]],
        [[{ ref: 'form.reason' }, { text: ' <i>' }], { list: 'points' as const, items: [[{ ref: 'form.kind' }]] }],
      ),
    },
    { requiredKeys: ['text'] },
  ),
  { minLength: 1, maxLength: 2 },
);

type Made = (id: string, more: (blocks: Shape[]) => Block) => Step;
/** A step without its id: made when the whole plan is there, so that ids are each their own. */
export interface Shape {
  make: Made;
  name: string | undefined;
}
const leaf = (arbitrary: fc.Arbitrary<(id: string) => Step>): fc.Arbitrary<Made> => arbitrary;

const simple: fc.Arbitrary<Made> = fc.oneof(
  leaf(
    fc.record({ body, by: fc.constantFrom(undefined, 'mail' as const, 'chat' as const), to: fc.constantFrom('request.requester', 'form.crew') }).map(
      ({ body: b, by, to }) =>
        (id) =>
          ({ ...tell(id, `Tell ${id}`), to: { ref: to }, body: b, ...(by && { by }) }) as Step,
    ),
  ),
  leaf(
    fc.record({ times: fc.integer({ min: 0, max: 3 }), undo: fc.constantFrom('directory.removeMember', 'none', undefined) }).map(
      ({ times, undo }) =>
        (id) =>
          ({
            ...add,
            id,
            name: `Provision ${id}`,
            ...(undo && { undo }),
            ...(times > 0 && { retries: { times, firstPauseSeconds: 1, factor: 2 } }),
          }) as Step,
    ),
  ),
  leaf(
    fc
      .record({
        assignee: fc.constantFrom({ team: 'desk' }, { person: { person: 'ada' } }, { from: { ref: 'request.requester' } }),
        due: fc.constantFrom(undefined, { within: 'PT4H' }, { by: { ref: 'form.from' } }),
        field: fc.constantFrom(undefined, 'note', 'entries', 'length'),
        check: fc.boolean(),
        instructions: body,
      })
      .map(
        ({ assignee, due, field, check, instructions }) =>
          (id) =>
            step('task', id, {
              assignee,
              instructions,
              checklist: check ? [{ id: 'first', words: 'Look at it' }] : [],
              fields: field ? [{ id: field, kind: 'text', label: `Field ${field}`, required: true }] : [],
              ...(due && { due }),
            }),
      ),
  ),
  leaf(
    fc.record({ reminders: fc.boolean(), to: fc.boolean() }).map(
      ({ reminders, to }) =>
        (id) =>
          step('askBack', id, {
            question: [[{ text: 'Which, for ' }, { ref: 'request.number' }, { text: '?' }]],
            fields: [{ id: 'answer', kind: 'text', label: 'Answer', required: true }],
            ...(reminders && { reminders: { after: 'PT4H', times: 2 } }),
            ...(to && { to: { ref: 'request.requester' } }),
          }),
    ),
  ),
  leaf(
    fc
      .constantFrom(
        { find: 'managerOf', person: { ref: 'request.requester' } } as const,
        { find: 'managerOf', person: { ref: 'request.requester' }, levels: 2 } as const,
        { find: 'ownersOf', group: { ref: 'form.group' } } as const,
        { find: 'membersOf', group: { ref: 'form.group' } } as const,
        { find: 'teamMembers', team: 'desk' } as const,
        { find: 'reportsOf', person: { ref: 'request.requester' } } as const,
      )
      .map((lookup) => (id: string) => step('find', id, { lookup })),
  ),
  leaf(
    fc
      .constantFrom(
        { feel: 'form.cores * 2', type: 'number' } as const,
        { feel: '0.1 + 0.2 + form.cores', type: 'number' } as const,
        { feel: 'if form.remote != null and form.remote then "away" else "here"', type: 'text' } as const,
        { feel: 'count(for c in form.crew return c) > 2', type: 'boolean' } as const,
        { feel: 'date(form.from) + duration("P1D")', type: 'date' } as const,
      )
      .map((w) => (id: string) => step('workOut', id, w)),
  ),
  leaf(
    fc
      .oneof(
        span.map((s) => ({ span: s })),
        fc.constant({ date: { ref: 'form.from' } }),
      )
      .map((until) => (id: string) => step('pause', id, { until })),
  ),
  leaf(
    fc.record({ shows: fc.constantFrom('milestone' as const, 'status' as const), noReturn: fc.constantFrom(false, false, false, true) }).map(
      ({ shows, noReturn }) =>
        (id: string) =>
          step('mark', id, { shows, words: `Mark ${id}`, ...(noReturn && { noReturn }) }),
    ),
  ),
  leaf(fc.constantFrom('declined' as const, 'fulfilled' as const, 'failed' as const).map((outcome) => (id: string) => finish(id, outcome))),
  leaf(fc.constantFrom('plain', 'giving').map((part) => (id: string) => step('part', id, { part, inputs: { who: { ref: 'request.requester' } } }))),
);

const compound = (inner: fc.Arbitrary<Shape[]>): fc.Arbitrary<Made> =>
  fc.oneof(
    fc
      .record({
        approvers,
        rule: fc.constantFrom<Gate['rule']>({ rule: 'all' }, { rule: 'any' }, { rule: 'first' }, { rule: 'atLeast', count: 2 }),
        ownRequest: fc.constantFrom('skip' as const, 'manager' as const, 'allow' as const),
        nobody: fc.constantFrom<NonNullable<Gate['nobody']>>({ then: 'ask', person: { person: 'ada' } }, { then: 'pass' }, { then: 'fail' }),
        order: fc.constantFrom('together' as const, 'inTurn' as const),
        deadline: fc.boolean(),
        reminders: fc.boolean(),
        sendBack: fc.boolean(),
        corrects: fc.constantFrom<string[]>([], ['cores'], ['kind', 'colleague']),
        approved: fc.option(inner),
        declined: fc.option(inner),
        lapsed: fc.option(inner),
      })
      .map((g): Made => (id, blocks) => {
        const one = g.approvers.from === 'people' && g.rule.rule === 'atLeast';
        return gate({
          id,
          name: `Gate ${id}`,
          approvers: g.approvers,
          rule: one ? { rule: 'all' } : g.rule,
          ownRequest: g.ownRequest,
          nobody: g.nobody,
          order: g.order,
          sendBack: g.sendBack,
          ...(g.corrects.length > 0 && { corrects: g.corrects }),
          ...(g.deadline && { deadline: 'P5D' }),
          ...(g.reminders && { reminders: { after: 'P1D', times: 2 } }),
          ...(g.approved && { approved: blocks(g.approved) }),
          ...(g.declined && { declined: blocks(g.declined) }),
          ...(g.lapsed && { lapsed: blocks(g.lapsed) }),
        });
      }),
    fc
      .record({
        cases: fc.array(fc.record({ when: condition, block: inner, share: fc.constantFrom(undefined, 30) }), { minLength: 1, maxLength: 3 }),
        otherwise: fc.option(inner),
      })
      .map(
        ({ cases, otherwise }): Made =>
          (id, blocks) =>
            step('choose', id, {
              cases: cases.map((c, i) => ({
                id: `case${i}`,
                name: `Case ${i}`,
                when: c.when,
                ...(c.share && { share: c.share }),
                block: blocks(c.block),
              })),
              ...(otherwise && { otherwise: blocks(otherwise) }),
            }),
      ),
    fc.record({ side: fc.array(inner, { minLength: 2, maxLength: 3 }), join: fc.constantFrom('all' as const, 'first' as const) }).map(
      ({ side, join }): Made =>
        (id, blocks) =>
          step('together', id, { join, branches: side.map((b, i) => ({ id: `b${i}`, name: `Branch ${i}`, block: blocks(b) })) }),
    ),
    fc.record({ body: inner, atOnce: fc.constantFrom(undefined, 1, 2), list: fc.constantFrom('form.crew', 'form.kit') }).map(
      ({ body: b, atOnce, list }): Made =>
        (id, blocks) =>
          step('forEach', id, { list: { ref: list }, ...(atOnce && { atOnce }), body: blocks(b) }),
    ),
    fc
      .record({
        body: inner,
        tries: fc.option(fc.integer({ min: 1, max: 3 })),
        pause: fc.option(span),
        deadline: fc.option(span),
        ends: fc.boolean(),
      })
      .map(
        ({ body: b, tries, pause, deadline, ends }): Made =>
          (id, blocks) =>
            step('repeat', id, {
              body: blocks(b),
              until: { compare: 'is', left: { ref: 'form.kind' }, right: { literal: ends ? 'daily' : 'project' } },
              // Without a pause only a number of tries ends it before it is a runaway.
              ...((tries ?? (deadline && pause ? null : 2)) !== null && { tries: tries ?? 2 }),
              ...(pause && { pause }),
              ...(deadline && { deadline }),
            }),
      ),
    fc
      .record({ body: inner, remedy: inner, deadline: fc.option(span), late: fc.option(inner) })
      .map(({ body: b, remedy, deadline, late }): Made => (id, blocks) => {
        const inside = blocks(b);
        return step('guard', id, {
          body: inside.length ? inside : [tell(`${id}x`, `Tell ${id}x`)],
          remedy: blocks(remedy),
          ...(deadline && { deadline }),
          ...(deadline && late && { late: blocks(late) }),
        });
      }),
  );

const named = (made: fc.Arbitrary<Made>): fc.Arbitrary<Shape> =>
  fc.record({ make: made, name: fc.oneof({ arbitrary: fc.constant(undefined), weight: 4 }, { arbitrary: names, weight: 1 }) });

const anyBlock: fc.Arbitrary<Shape[]> = fc.letrec<{ block: Shape[]; step: Shape }>((tie) => ({
  block: fc.array(tie('step'), { minLength: 0, maxLength: 3 }),
  step: fc.oneof({ maxDepth: 3, depthSize: 'small' }, named(simple), named(compound(tie('block') as fc.Arbitrary<Shape[]>))),
})).block as fc.Arbitrary<Shape[]>;

/** The parts that generated plans use: one that only tells, one that asks, gives and hands something back. */
export const parts: Record<string, Part> = {
  plain: {
    name: 'Plain words',
    inputs: [{ name: 'who', label: 'Who', type: 'person', required: true }],
    outputs: [],
    steps: [{ ...tell('words', 'Say it'), to: { ref: 'part.who' } } as Step],
  },
  giving: {
    name: 'Ask and give',
    inputs: [{ name: 'who', label: 'Who', type: 'person', required: true }],
    outputs: [{ name: 'rounds', label: 'Rounds', type: 'number', from: { ref: 'steps.sum.value' } }],
    steps: [
      gate({ id: 'asked', name: 'Asked inside', approvers: { from: 'managerOf', person: { ref: 'part.who' } }, declined: [] }),
      step('task', 'hand', { assignee: { team: 'desk' }, instructions: passages('Hand it over'), checklist: [], fields: [] }),
      step('workOut', 'sum', { feel: '1 + 1', type: 'number' }),
    ],
  },
};

/** The catalogue that generated plans are checked by. */
export const wideCatalogue: Catalogue = { ...catalogue, parts };

export const anyPlan: fc.Arbitrary<Plan> = fc
  .record({ block: anyBlock, undoWhen: fc.subarray(['failed', 'declined', 'lapsed', 'withdrawn'] as const) })
  .map(({ block, undoWhen }) => {
    const ids = new Set<string>();
    const used = new Set<string>();
    let n = 0;
    const build = (shapes: Shape[]): Block =>
      shapes.map(({ make, name }) => {
        let id = name === undefined ? `s${++n}` : idFrom(name, ids);
        while (name === undefined && ids.has(id)) id = `s${++n}`;
        ids.add(id);
        const made = make(id, build);
        const said = name === undefined ? made.name : used.has(name) ? `${name} ${id}` : name;
        used.add(said);
        return { ...made, name: said };
      });
    const steps = build(block);
    const needs = new Set<string>();
    const visit = (b: Block) =>
      b.forEach((s) => {
        if (s.kind === 'part' && s.part) needs.add(s.part);
        branches(s).forEach((x) => visit(x.block));
      });
    visit(steps);
    return {
      steps,
      ...(needs.size > 0 && { parts: Object.fromEntries([...needs].map((p) => [p, parts[p]!])) }),
      ...(undoWhen.length > 0 && { undoWhen }),
    };
  });
