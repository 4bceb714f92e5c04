import { own } from '../boundary/index.ts';
import { minutesWords, spanWords, workingMinutes } from '../calendar/index.ts';
import { conditionWords, type Naming } from '../conditions/index.ts';
import { isGroup, isReference, plainText, type Operand, type Value } from '../values/index.ts';
import { actionOf, partOf, type Catalogue } from './catalogue.ts';
import type { Places } from './places.ts';
import type { Step } from './plan.ts';
import { outcomeWords, type Approvers, type Assignee, type GateRule, type Lookup } from './settings.ts';

/** Names for everything a plan mentions, from the places and the catalogue. */
export function namingOf(places: Places, catalogue: Catalogue): Naming {
  return {
    place: (ref) => places.get(ref)?.label ?? 'a value that does not exist',
    value: (value, ref) => {
      const option = places.get(ref)?.options?.find((o) => o.value === value);
      return option ? option.label : valueWords(value, catalogue);
    },
  };
}

function valueWords(value: Value, catalogue: Catalogue): string {
  if (value === null || value === '') return 'nothing';
  if (Array.isArray(value)) return value.map((v) => valueWords(v, catalogue)).join(', ') || 'nothing';
  if (isGroup(value)) return own(catalogue.groups, value.group) ?? 'a group';
  if (typeof value === 'object') return own(catalogue.people, value.person)?.name ?? 'someone';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return String(value);
}

const teamWords = (id: string, catalogue: Catalogue) => own(catalogue.teams, id)?.name ?? 'a team that does not exist';
const above = (levels: number | undefined) => (levels && levels > 1 ? `the manager ${levels} levels above` : 'the manager of');

/** Who a gate asks: "the owners of Group", "the manager of Requester". */
export function approversWords(a: Approvers | undefined, naming: Naming, catalogue: Catalogue): string {
  if (!a) return 'nobody yet';
  switch (a.from) {
    case 'people':
      return a.people.map((p) => valueWords(p, catalogue)).join(', ');
    case 'person':
      return naming.place(a.person.ref);
    case 'managerOf':
      return `${above(a.levels)} ${naming.place(a.person.ref)}`;
    case 'ownersOf':
      return `the owners of ${naming.place(a.group.ref)}`;
    case 'team':
      return teamWords(a.team, catalogue);
    case 'chain':
      return `the managers above ${naming.place(a.person.ref)}`;
    case 'policy':
      return `whom the policy ${own(catalogue.policies, a.policy)?.name ?? 'that does not exist'} names`;
  }
}

export function ruleWords(rule: GateRule): string {
  if (rule.rule === 'all') return 'all of them must approve';
  if (rule.rule === 'any') return 'one approval is enough';
  if (rule.rule === 'first') return 'the first reply decides';
  return `at least ${rule.count} must approve`;
}

const assigneeWords = (a: Assignee | undefined, naming: Naming, catalogue: Catalogue): string => {
  if (!a) return 'nobody yet';
  if ('team' in a) return teamWords(a.team, catalogue);
  return 'person' in a ? valueWords(a.person, catalogue) : naming.place(a.from.ref);
};

/** Who does a step, as the name of its row on the sheet; empty where nobody in particular does. */
export function partyWords(step: Step, naming: Naming, catalogue: Catalogue): string {
  switch (step.kind) {
    case 'gate':
      return capital(approversWords(step.approvers, naming, catalogue));
    case 'task':
      return capital(assigneeWords(step.assignee, naming, catalogue));
    case 'provision':
      return actionOf(catalogue, step.action)?.system ?? 'System not chosen';
    case 'tell':
      return step.to ? naming.place(step.to.ref) : 'Nobody yet';
    case 'askBack':
      return step.to ? naming.place(step.to.ref) : 'Requester';
    case 'mark':
    case 'finish':
      return 'Requester';
    case 'find':
    case 'workOut':
    case 'pause':
    case 'part':
      return 'The run itself';
    default:
      return '';
  }
}
const capital = (s: string) => s.charAt(0).toUpperCase() + s.slice(1);

function lookupWords(l: Lookup | undefined, naming: Naming, catalogue: Catalogue): string {
  if (!l) return 'nothing yet';
  if (l.find === 'managerOf') return `${above(l.levels)} ${naming.place(l.person.ref)}`;
  if (l.find === 'reportsOf') return `everyone whose manager is ${naming.place(l.person.ref)}`;
  if (l.find === 'teamMembers') return `the members of ${teamWords(l.team, catalogue)}`;
  return `the ${l.find === 'ownersOf' ? 'owners' : 'members'} of ${naming.place(l.group.ref)}`;
}

const times = (n: number) => (n === 1 ? 'once' : `${n} times`);
const working = (iso: string) => `${minutesWords(workingMinutes(iso))} of working time`;

/** A step as one sentence, the way the script reads it. */
export function stepSentence(step: Step, naming: Naming, catalogue: Catalogue): string {
  const operand = (o: Operand, ref: string) => (isReference(o) ? naming.place(o.ref) : naming.value(o.literal, ref));
  const given = (inputs: Record<string, Operand>, slots: { name: string; label: string }[]) => {
    const words = slots.flatMap((i) => (own(inputs, i.name) ? [`${i.label.toLowerCase()} ${operand(inputs[i.name]!, '')}`] : []));
    return words.length ? ` (${words.join(', ')})` : '';
  };
  switch (step.kind) {
    case 'gate': {
      const ruled =
        step.approvers?.from === 'policy'
          ? 'the policy says how many must approve'
          : step.approvers?.from === 'chain'
            ? 'one after another, each must approve'
            : ruleWords(step.rule);
      return [
        `Ask ${approversWords(step.approvers, naming, catalogue)}; ${ruled}${step.order === 'inTurn' ? ', one after another' : ''}.`,
        step.reminders && `Remind them after ${working(step.reminders.after)}, at most ${times(step.reminders.times)}.`,
        step.deadline && `Lapses after ${working(step.deadline)}.`,
        step.corrects?.length && `They may correct ${step.corrects.map((id) => naming.place(`form.${id}`)).join(', ')}.`,
        step.sendBack && 'They may send it back.',
      ]
        .filter(Boolean)
        .join(' ');
    }
    case 'task': {
      const due = step.due && ('within' in step.due ? `, due after ${working(step.due.within)}` : `, due by ${naming.place(step.due.by.ref)}`);
      const fills = step.fields.length ? ` They fill in ${step.fields.map((f) => f.label).join(', ')}.` : '';
      const checks = step.checklist.length ? ` ${step.checklist.length} to check off.` : '';
      return `${capital(assigneeWords(step.assignee, naming, catalogue))} does it${due ?? ''}.${checks}${fills}`;
    }
    case 'provision': {
      const action = actionOf(catalogue, step.action);
      if (!action) return 'Change something in a system, not chosen yet.';
      return `In ${action.system}: ${action.label.toLowerCase()}${given(step.inputs, action.inputs)}.`;
    }
    case 'tell':
      return `Tell ${step.to ? naming.place(step.to.ref) : 'nobody yet'}${step.by === 'chat' ? ' in chat' : ''}: “${plainText(step.subject, naming.place)}”.`;
    case 'askBack':
      return `Ask ${step.to ? naming.place(step.to.ref) : 'the requester'} “${plainText(step.question, naming.place)}” and wait; the clock is held.`;
    case 'find':
      return `Look up ${lookupWords(step.lookup, naming, catalogue)}.`;
    case 'workOut':
      return `Work out ${step.feel.trim() || 'nothing yet'}.`;
    case 'pause':
      if (!step.until) return 'Wait, not set how long.';
      return 'span' in step.until ? `Wait for ${spanWords(step.until.span)}.` : `Wait until ${naming.place(step.until.date.ref)}.`;
    case 'mark':
      return `${step.shows === 'milestone' ? 'The milestone' : 'From here on the status is'} “${step.words}”${step.shows === 'milestone' ? ' is reached' : ''}.${step.noReturn ? ' From here on the requester cannot withdraw.' : ''}`;
    case 'part': {
      const part = partOf(catalogue, step.part);
      return part ? `Do the part “${part.name}”${given(step.inputs, part.inputs)}.` : 'Do a part, not chosen yet.';
    }
    case 'choose':
      return `Take the first case that holds: ${step.cases.map((c) => (c.when ? conditionWords(c.when, naming) : 'not set')).join('; ')}${step.otherwise ? '; otherwise the last way' : ''}.`;
    case 'together':
      return `Do these side by side; go on when ${step.join === 'all' ? 'all are done' : 'the first is done, and leave the others'}.`;
    case 'forEach': {
      const how = step.atOnce === undefined ? 'all at once' : step.atOnce === 1 ? 'one after another' : `up to ${step.atOnce} at once`;
      return `For each of ${step.list ? naming.place(step.list.ref) : 'a list not chosen yet'}, ${how}.`;
    }
    case 'repeat': {
      const bounds = [step.tries !== undefined && `at most ${times(step.tries)}`, step.deadline && `for at most ${spanWords(step.deadline)}`]
        .filter(Boolean)
        .join(', ');
      return `Again${step.pause ? ` every ${spanWords(step.pause)}` : ''} until ${step.until ? conditionWords(step.until, naming) : 'something not set yet'}${bounds ? `, ${bounds}` : ''}.`;
    }
    case 'guard':
      return `Try this; if it fails${step.deadline ? ` or takes more than ${spanWords(step.deadline)}` : ''}, do the other.`;
    case 'finish':
      return `End as ${step.outcome ? outcomeWords[step.outcome] : 'nothing set'}.`;
  }
}

const branchHeads: Record<string, string> = {
  approved: 'When approved',
  declined: 'When declined',
  lapsed: 'When lapsed',
  otherwise: 'Otherwise',
  remedy: 'If it fails',
  late: 'If it is late',
};

/** The words at the head of a branch. */
export function branchWords(step: Step, branch: string, naming: Naming): string {
  if (step.kind === 'choose') {
    const found = step.cases.find((c) => c.id === branch);
    if (found) return found.when ? `${found.name}: ${conditionWords(found.when, naming)}` : found.name;
  }
  if (step.kind === 'together') return step.branches.find((b) => b.id === branch)?.name ?? branch;
  if (branch === 'body') {
    if (step.kind === 'forEach') return `Each of ${step.list ? naming.place(step.list.ref) : 'the list'}`;
    return step.kind === 'repeat' ? 'Each time' : 'Try';
  }
  return own(branchHeads, branch) ?? branch;
}
