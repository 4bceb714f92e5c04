import { own } from '../boundary/index.ts';
import { readExpression } from '../expressions/index.ts';
import { isEmpty, isOfType, isReference, piecesOf, rowType, typeWords, type Operand, type RichText, type ValueType } from '../values/index.ts';
import { actionOf, partOf, type Catalogue } from './catalogue.ts';
import { stop, unset, warn, type Finding } from './finding.ts';
import type { Places } from './places.ts';
import type { Gate, Step } from './plan.ts';
import type { Passage } from './settings.ts';

/** What is missing or wrong in a step's own settings. `anywhere` holds every place of the plan. */
export function checkStep(step: Step, anywhere: Places, catalogue: Catalogue): Finding[] {
  const typed = (setting: string, ref: string | undefined, ...want: ValueType[]) => typeFinding(step, setting, ref, want, anywhere);
  const empty = (text: RichText) => !piecesOf(text).some((x) => isReference(x) || x.text.trim() !== '');
  const noWords = (all: Passage[]) => all.every((p) => empty(p.text));
  switch (step.kind) {
    case 'gate':
      return checkGate(step, anywhere, catalogue);
    case 'task': {
      const a = step.assignee;
      return [
        ...(a ? [] : [unset(step, 'anyone to do it')]),
        ...(a && 'team' in a ? teamFindings(step, a.team, catalogue) : []),
        ...(a && 'person' in a ? personFindings(step, [a.person.person], catalogue) : []),
        ...(a && 'from' in a ? typed('Who does it', a.from.ref, 'person') : []),
        ...(noWords(step.instructions) ? [unset(step, 'instructions')] : []),
        ...(step.due && 'by' in step.due ? typed('Due', step.due.by.ref, 'date', 'instant') : []),
        ...step.checklist.flatMap((c) => (c.words.trim() ? [] : [unset(step, 'words for a line of its checklist')])),
        ...step.fields.flatMap((f) => (f.label.trim() ? [] : [unset(step, 'a label for one of its fields')])),
      ];
    }
    case 'provision': {
      if (!step.action) return [unset(step, 'an action')];
      const action = actionOf(catalogue, step.action);
      if (!action) {
        return [
          stop(step, {
            code: 'unknown-action',
            sentence: `“${step.name}” uses an action that no registered system offers (${step.action}).`,
            mend: 'Pick an action of a registered system.',
          }),
        ];
      }
      return inputFindings(step, step.inputs, action.inputs, anywhere);
    }
    case 'part': {
      if (!step.part) return [unset(step, 'a part')];
      const part = partOf(catalogue, step.part);
      if (!part)
        return [
          stop(step, {
            code: 'unknown-part',
            sentence: `“${step.name}” uses a part that is not published.`,
            mend: 'Pick a part, or publish it first.',
          }),
        ];
      return inputFindings(step, step.inputs, part.inputs, anywhere);
    }
    case 'tell':
      return [
        ...(step.to ? typed('To', step.to.ref, 'person', 'people') : [unset(step, 'anyone to tell')]),
        ...(empty(step.subject) ? [unset(step, 'a subject')] : []),
        ...(noWords(step.body) ? [unset(step, 'a message')] : []),
      ];
    case 'askBack':
      return [
        ...(empty(step.question) ? [unset(step, 'a question')] : []),
        ...(step.fields.length === 0 ? [unset(step, 'a field for the answer')] : []),
        ...typed('To', step.to?.ref, 'person'),
      ];
    case 'find': {
      const l = step.lookup;
      if (!l) return [unset(step, 'anything to look up')];
      if (l.find === 'teamMembers') return teamFindings(step, l.team, catalogue);
      return 'group' in l ? typed('Look up', l.group.ref, 'group') : typed('Look up', l.person.ref, 'person');
    }
    case 'workOut': {
      const parsed = readExpression(step.feel);
      return parsed.ok
        ? []
        : [stop(step, { code: 'wrong-expression', sentence: `“${step.name}”: ${parsed.sentence}`, mend: 'Correct the expression.' })];
    }
    case 'pause':
      if (!step.until) return [unset(step, 'a length or a date')];
      return 'date' in step.until ? typed('Until', step.until.date.ref, 'date', 'instant') : [];
    case 'mark':
      return step.words.trim() ? [] : [unset(step, 'the words the requester sees')];
    case 'finish':
      if (step.outcome) return [];
      return [
        {
          ...unset(step, 'an outcome'),
          code: 'no-outcome',
          fix: { words: 'Make it Fulfilled', edit: { replace: { ...step, outcome: 'fulfilled' } } },
        },
      ];
    case 'choose':
      if (step.cases.length === 0) return [unset(step, 'any case')];
      return step.cases.flatMap((c) => (c.when ? [] : [unset(step, `a condition for the case “${c.name}”`)]));
    case 'together':
      return step.branches.length < 2 ? [unset(step, 'two branches')] : [];
    case 'forEach':
      return step.list ? typed('List', step.list.ref, 'people', 'texts') : [unset(step, 'a list')];
    case 'repeat': {
      const found = step.until ? [] : [unset(step, 'a condition that ends it')];
      if (step.tries !== undefined || step.deadline) return found;
      return [
        ...found,
        stop(step, {
          code: 'does-not-end',
          sentence: `“${step.name}” may go on for ever: it has no number of tries and no deadline.`,
          mend: 'Say how often at most, or for how long.',
          fix: { words: 'At most 100 tries', edit: { replace: { ...step, tries: 100 } } },
        }),
      ];
    }
    case 'guard':
      return step.body.length === 0 ? [unset(step, 'anything to try')] : [];
  }
}

function checkGate(gate: Gate, anywhere: Places, catalogue: Catalogue): Finding[] {
  const found: Finding[] = [];
  const a = gate.approvers;
  if (!a) found.push(unset(gate, 'approvers'));
  found.push(
    ...personFindings(
      gate,
      [...(a?.from === 'people' ? a.people.map((p) => p.person) : []), ...(gate.nobody?.then === 'ask' ? [gate.nobody.person.person] : [])],
      catalogue,
    ),
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
  if (a?.from === 'team') found.push(...teamFindings(gate, a.team, catalogue));
  if (a?.from === 'ownersOf') found.push(...typeFinding(gate, 'Approvers', a.group.ref, ['group'], anywhere));
  if (a?.from === 'person') found.push(...typeFinding(gate, 'Approvers', a.person.ref, ['person', 'people'], anywhere));
  if (a?.from === 'managerOf' || a?.from === 'chain') found.push(...typeFinding(gate, 'Approvers', a.person.ref, ['person'], anywhere));
  if (a?.from === 'chain') found.push(...typeFinding(gate, 'Amount', a.amount?.ref, ['number'], anywhere));
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
  for (const id of gate.corrects ?? []) {
    if (!anywhere.has(`form.${id}`)) {
      found.push(
        stop(gate, {
          code: 'unknown-reference',
          sentence: `“${gate.name}” lets approvers correct a field that does not exist any more (${id}).`,
          mend: 'Take it off the list.',
          fix: { words: 'Take it off', edit: { replace: { ...gate, corrects: gate.corrects!.filter((c) => c !== id) } } },
        }),
      );
    }
  }
  return found;
}

function personFindings(step: Step, ids: string[], catalogue: Catalogue): Finding[] {
  return ids.flatMap((id) => {
    const person = own(catalogue.people, id);
    if (person?.active) return [];
    const sentence = person ? `“${step.name}” asks ${person.name}, who has left.` : `“${step.name}” asks a person who is not known.`;
    return [stop(step, { code: 'unknown-person', sentence, mend: 'Pick somebody else.' })];
  });
}

function teamFindings(step: Step, id: string, catalogue: Catalogue): Finding[] {
  const team = own(catalogue.teams, id);
  if (!team) return [stop(step, { code: 'unknown-team', sentence: `“${step.name}” names a team that does not exist.`, mend: 'Pick a team.' })];
  return team.members > 0
    ? []
    : [
        stop(step, {
          code: 'nobody-to-ask',
          sentence: `“${step.name}” goes to ${team.name}, which has no members.`,
          mend: 'Give the team members, or pick another.',
        }),
      ];
}

function inputFindings(
  step: Step,
  given: Record<string, Operand>,
  wanted: { name: string; label: string; type: ValueType; required: boolean }[],
  anywhere: Places,
): Finding[] {
  return wanted.flatMap((input) => {
    const operand = given[input.name];
    if (!operand) return input.required ? [unset(step, `“${input.label}”`)] : [];
    if (isReference(operand)) return typeFinding(step, input.label, operand.ref, [input.type], anywhere);
    if (isEmpty(operand.literal)) return input.required ? [unset(step, `“${input.label}”`)] : [];
    if (isOfType(operand.literal, input.type)) return [];
    return [
      stop(step, {
        code: 'wrong-type',
        sentence: `${input.label} of “${step.name}” needs a ${typeWords[input.type]} and something else is stated.`,
        mend: `State a ${typeWords[input.type]}, or pick a value.`,
      }),
    ];
  });
}

const fits = (have: ValueType, want: ValueType) => have === want || (want === 'text' && (have === 'choice' || have === 'address' || have === 'date'));

/** A picked value of the wrong type; a place that exists nowhere is found as an unknown reference instead. */
function typeFinding(step: Step, setting: string, ref: string | undefined, want: ValueType[], anywhere: Places): Finding[] {
  const have = ref === undefined ? undefined : anywhere.get(ref)?.type;
  if (have === undefined || want.some((w) => fits(have, w))) return [];
  const list = rowType(have) ? '; put the step into a For each to do it for every row' : '';
  return [
    stop(step, {
      code: 'wrong-type',
      sentence: `${setting} of “${step.name}” needs a ${want.map((w) => typeWords[w]).join(' or a ')} and is given a ${typeWords[have]}.`,
      mend: `Pick a ${typeWords[want[0]!]}${list}.`,
    }),
  ];
}
