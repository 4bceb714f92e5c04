import { own } from '../../boundary/index.ts';
import { workingMinutes } from '../../calendar/index.ts';
import { acrossSettings } from '../blocks.ts';
import { correctsFindings, groupFindings, inputFindings, personFindings, teamFindings, typeFindings } from '../check.ts';
import type { Catalogue } from '../catalogue.ts';
import type { Naming } from '../../conditions/index.ts';
import { stop, unset, warn, type Finding } from '../finding.ts';
import type { Way } from '../flow.ts';
import { isReference, listWords } from '../../values/index.ts';
import { output, readOne, readOperands, type Places, type Reading } from '../place.ts';
import type { Room } from '../room.ts';
import type { BpmnFrom } from '../bpmn.ts';
import { capital, managerWords, teamWords, timesWords, statedWords, workingWords } from '../words.ts';
import { approversWanted } from './resolve.ts';
import { inputs, isTimed, on, reckoned, settle, start, withdraw } from './run.ts';
import { gateSchema, type Approvers, type ApproverSource, type Gate, type GateRule } from './settings.ts';

const outcomes = [
  { value: 'approved', label: 'Approved' },
  { value: 'declined', label: 'Declined' },
  { value: 'lapsed', label: 'Lapsed' },
];
const heads: Record<string, string> = { approved: 'When approved', declined: 'When declined', lapsed: 'When lapsed' };

/** Without a block for it a declined gate ends the request, and so does one that lapses; it lapses only with a deadline. */
function ways(gate: Gate): Way[] {
  const other = (id: 'declined' | 'lapsed', certain: string[]): Way => ({
    id,
    block: gate[id] ?? [],
    aside: true,
    certain,
    ...(!gate[id] && { ends: true }),
  });
  return [
    { id: 'approved', block: gate.approved ?? [], agreed: true },
    other('declined', ['decidedBy', 'comment']),
    ...(gate.deadline !== undefined ? [other('lapsed', [])] : gate.lapsed ? [{ ...other('lapsed', []), never: true }] : []),
  ];
}

/** The room of this kind; `room.ts` says what each member means. */
export const gate: Room<Gate> = {
  verb: 'Gate',
  does: 'Nothing passes until the approvers have let it',
  toRequester: 'Somebody is asked to agree',
  alsoCalled: ['approval', 'approve', 'sign-off', 'agree', 'permission', 'decision'],
  schema: gateSchema,
  fresh: () => ({ expected: { min: 'PT15M', likely: 'PT4H', max: 'P3D' }, rule: { rule: 'first' }, ownRequest: 'skip' }),
  across: acrossSettings('approved', 'declined', 'lapsed'),
  head: (_, branch) => own(heads, branch),
  flow: (step) => ({ is: 'one', ways: ways(step) }),
  reopens: (step) => (step.corrects?.length ?? 0) > 0 || step.sendBack === true,
  opens: (step) => step.corrects ?? [],
  lapsesAfter: (step) => step.deadline,
  isLock: true,
  asks: ({ approvers: a }) => ({
    refs: referencesOfApprovers(a).map((r) => r.ref),
    wanted: (valueAt) => a && approversWanted(a, valueAt),
  }),
  outputs: (step) => [
    { ...output(step, 'outcome', 'Decision', 'choice', true), options: outcomes },
    output(step, 'decidedBy', 'Decided by', 'person', false),
    output(step, 'comment', 'Comment', 'text', false),
  ],
  reads: (step, catalogue) => referencesOfApprovers(step.approvers, catalogue),
  people: (step) => [...namedAmong(step.approvers), ...(step.nobody?.then === 'ask' ? [step.nobody.person.person] : [])],
  lacks,
  party: (step, naming, catalogue) => capital(approversWords(step.approvers, naming, catalogue)),
  sentence: (step, naming, catalogue) => {
    const ruled =
      step.approvers?.from === 'policy'
        ? 'the policy says how many must approve'
        : step.approvers?.from === 'chain'
          ? 'one after another, each must approve'
          : ruleWords(step.rule);
    return [
      `Ask ${approversWords(step.approvers, naming, catalogue)}; ${ruled}${step.order === 'inTurn' ? ', one after another' : ''}.`,
      step.reminders && `Remind them after ${workingWords(step.reminders.after)}, at most ${timesWords(step.reminders.times)}.`,
      step.deadline && `Lapses after ${workingWords(step.deadline)}.`,
      step.corrects?.length && `They may correct ${step.corrects.map((id) => naming.place(`form.${id}`)).join(', ')}.`,
      step.sendBack && 'They may send it back.',
    ]
      .filter(Boolean)
      .join(' ');
  },
  inputs,
  start,
  settle,
  settlesIn: ['asking'],
  on,
  reckoned,
  withdraw,
  isTimed,
  endsWhenTaken: true,
  isFirm: true,
  bpmn: (step, from, write) => {
    const node = write.simple('bpmn:UserTask', step, from);
    const decision = write.add('bpmn:ExclusiveGateway', { id: write.idOf(step, '_decided'), name: 'Decision' });
    write.flow(node, decision);
    const way = (outcome: 'declined' | 'lapsed', out: BpmnFrom): BpmnFrom | undefined => {
      if (step[outcome]) return write.block(step[outcome], out);
      write.flow(out, write.terminating(write.idOf(step, `_${outcome}`), outcome));
      return undefined;
    };
    const ends = [
      write.block(step.approved ?? [], { node: decision, fallback: true, name: 'approved' }),
      way('declined', { node: decision, when: `steps.${step.id}.outcome = "declined"`, name: 'declined' }),
    ];
    // Nothing lapses without a deadline; with one, the deadline takes the question away.
    if (step.deadline !== undefined) {
      const late = write.add('bpmn:BoundaryEvent', {
        id: write.idOf(step, '_late'),
        name: 'Lapses',
        attachedToRef: node,
        eventDefinitions: [write.spent(write.idOf(step, '_deadline'), { length: step.deadline, counted: 'working' })],
      });
      ends.push(way('lapsed', late));
    }
    return write.merge(write.idOf(step, '_join'), ends);
  },
};

/** The places that approvers are found in: one, or several; a chain and a policy are none of them. */
const sourcesOf = (a: Approvers | undefined): readonly ApproverSource[] =>
  !a || a.from === 'chain' || a.from === 'policy' ? [] : a.from === 'several' ? a.of : [a];
/** People whom approvers name outright. */
const namedAmong = (a: Approvers | undefined): string[] => sourcesOf(a).flatMap((s) => (s.from === 'people' ? s.people.map((p) => p.person) : []));

/** What a gate reads to know whom to ask. */
function referencesOfApprovers(a: Approvers | undefined, catalogue?: Catalogue): Reading[] {
  if (!a || a.from === 'people' || a.from === 'team') return [];
  if (a.from === 'several') return a.of.flatMap((source) => referencesOfApprovers(source));
  if (a.from === 'ownersOf') return isReference(a.group) ? readOne(a.group.ref, 'Approvers') : [];
  if (a.from === 'policy')
    return readOperands(a.inputs, (name) => own(catalogue?.policies, a.policy)?.inputs.find((i) => i.name === name)?.label ?? name);
  return [...readOne(a.person.ref, 'Approvers'), ...(a.from === 'chain' ? readOne(a.amount?.ref, 'Amount') : [])];
}

/** Who a gate asks: "the owners of Group", "the manager of Requester". */
export function approversWords(a: Approvers | undefined, naming: Naming, catalogue: Catalogue): string {
  if (!a) return 'nobody yet';
  switch (a.from) {
    case 'people':
      return a.people.map((p) => statedWords(p, catalogue)).join(', ');
    case 'person':
      return naming.place(a.person.ref);
    case 'managerOf':
      return `${managerWords(a.levels)} ${naming.place(a.person.ref)}`;
    case 'ownersOf':
      return `the owners of ${isReference(a.group) ? naming.place(a.group.ref) : statedWords(a.group.literal, catalogue)}`;
    case 'team':
      return teamWords(a.team, catalogue);
    case 'chain':
      return `the managers above ${naming.place(a.person.ref)}`;
    case 'policy':
      return `whom the policy ${own(catalogue.policies, a.policy)?.name ?? 'that does not exist'} names`;
    case 'several':
      return listWords(a.of.map((source) => approversWords(source, naming, catalogue)));
  }
}

/** A rule as the end of a sentence. */
export function ruleWords(rule: GateRule): string {
  if (rule.rule === 'all') return 'all of them must approve';
  if (rule.rule === 'any') return 'one approval is enough';
  if (rule.rule === 'first') return 'the first reply decides';
  if (rule.rule === 'oneOfEach') return 'one of each must approve';
  return `at least ${rule.count} must approve`;
}

function lacks(gate: Gate, anywhere: Places, catalogue: Catalogue): Finding[] {
  const found: Finding[] = [];
  const a = gate.approvers;
  if (!a) found.push(unset(gate, 'approvers'));
  const sources = sourcesOf(a);
  found.push(...personFindings(gate, [...namedAmong(a), ...(gate.nobody?.then === 'ask' ? [gate.nobody.person.person] : [])], catalogue));
  if (gate.rule.rule === 'oneOfEach' && a && a.from !== 'several')
    found.push(
      warn(gate, {
        code: 'always-holds',
        sentence: `“${gate.name}” wants one approval of each side, and asks one side only.`,
        mend: 'Ask others besides, or choose another rule.',
        fix: { words: 'One approval is enough', edit: { replace: { ...gate, rule: { rule: 'any' } } } },
      }),
    );
  if (!gate.nobody) {
    found.push(
      stop(gate, {
        code: 'nobody-to-ask',
        sentence: `“${gate.name}” may find nobody to ask, and does not say what happens then.`,
        mend: 'State the answer: ask someone else, let it pass, or fail.',
        fix: { words: 'Then the request fails', edit: { replace: { ...gate, nobody: { then: 'fail' } } } },
      }),
    );
  }
  const asked =
    a?.from === 'people' ? new Set(a.people.map((p) => p.person)).size : a?.from === 'team' ? own(catalogue.teams, a.team)?.members : undefined;
  if (asked !== undefined && asked > 0 && gate.rule.rule === 'atLeast' && gate.rule.count > asked) {
    const count = asked;
    found.push(
      stop(gate, {
        code: 'nobody-to-ask',
        sentence: `“${gate.name}” wants ${gate.rule.count} approvals and asks ${count}.`,
        mend: 'Ask more people, or want fewer approvals.',
        fix: { words: `Want ${count}`, edit: { replace: { ...gate, rule: { rule: 'atLeast', count } } } },
      }),
    );
  }
  if (gate.lapsed && gate.deadline === undefined) {
    found.push(
      warn(gate, {
        code: 'never-reached',
        sentence: `“${gate.name}” says what happens when it lapses, and has no deadline, so it never does.`,
        mend: 'Give it a deadline, or remove what it would do.',
        fix: { words: 'Let it lapse after 5 working days', edit: { replace: { ...gate, deadline: 'P5D' } } },
      }),
    );
  }
  if (gate.reminders && gate.deadline !== undefined && workingMinutes(gate.reminders.after) >= workingMinutes(gate.deadline)) {
    found.push(
      warn(gate, {
        code: 'never-reached',
        sentence: `“${gate.name}” would remind after ${workingWords(gate.reminders.after)}, and lapses after ${workingWords(gate.deadline)}: nobody is ever reminded.`,
        mend: 'Remind sooner, or let it lapse later.',
      }),
    );
  }
  if (gate.ownRequest === 'allow') {
    found.push(
      warn(gate, {
        code: 'own-request',
        sentence: `At “${gate.name}” requesters may approve their own request.`,
        mend: 'Skip them, or ask their manager instead.',
        fix: { words: 'Ask their manager instead', edit: { replace: { ...gate, ownRequest: 'manager' } } },
      }),
    );
  }
  for (const s of sources) {
    if (s.from === 'team') found.push(...teamFindings(gate, s.team, catalogue));
    if (s.from === 'ownersOf')
      found.push(
        ...(isReference(s.group)
          ? typeFindings(gate, 'Approvers', s.group.ref, ['group'], anywhere)
          : groupFindings(gate, s.group.literal.group, catalogue)),
      );
    if (s.from === 'person') found.push(...typeFindings(gate, 'Approvers', s.person.ref, ['person', 'people'], anywhere));
    if (s.from === 'managerOf') found.push(...typeFindings(gate, 'Approvers', s.person.ref, ['person'], anywhere));
  }
  if (a?.from === 'chain') found.push(...typeFindings(gate, 'Approvers', a.person.ref, ['person'], anywhere));
  if (a?.from === 'chain') found.push(...typeFindings(gate, 'Amount', a.amount?.ref, ['number'], anywhere));
  if (a?.from === 'policy') {
    const policy = own(catalogue.policies, a.policy);
    if (!policy)
      found.push(
        stop(gate, { code: 'unknown-policy', sentence: `“${gate.name}” follows an approval policy that does not exist.`, mend: 'Pick a policy.' }),
      );
    else
      found.push(
        ...inputFindings(
          gate,
          a.inputs,
          policy.inputs.map((i) => ({ ...i, required: true })),
          anywhere,
        ),
      );
  }
  found.push(...correctsFindings(gate, 'approvers', anywhere, catalogue));
  return found;
}
