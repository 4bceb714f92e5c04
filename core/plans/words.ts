import { conditionWords, type Naming } from '../conditions/index.ts';
import { isReference, type Operand, type Value } from '../values/index.ts';
import { actionOf, type Catalogue } from './catalogue.ts';
import type { Places } from './places.ts';
import { outcomeWords, type Approvers, type GateRule, type Step } from './plan.ts';

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
  if (typeof value === 'object') return 'person' in value ? (catalogue.people[value.person]?.name ?? 'someone') : 'a group';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return String(value);
}

/** Who a gate asks: "the owners of Group", "the manager of Requester". */
export function approversWords(a: Approvers | undefined, naming: Naming, catalogue: Catalogue): string {
  if (!a) return 'nobody yet';
  if (a.from === 'people') return a.people.map((p) => valueWords(p, catalogue)).join(', ');
  if (a.from === 'person') return naming.place(a.person.ref);
  if (a.from === 'managerOf') return `the manager of ${naming.place(a.person.ref)}`;
  return `the owners of ${naming.place(a.group.ref)}`;
}

export function ruleWords(rule: GateRule): string {
  if (rule.rule === 'all') return 'all of them must approve';
  if (rule.rule === 'any') return 'one approval is enough';
  if (rule.rule === 'first') return 'the first reply decides';
  return `at least ${rule.count} must approve`;
}

/** A step as one sentence, the way the script reads it. */
export function stepSentence(step: Step, naming: Naming, catalogue: Catalogue): string {
  const operand = (o: Operand, ref: string) => (isReference(o) ? naming.place(o.ref) : naming.value(o.literal, ref));
  switch (step.kind) {
    case 'gate':
      return `Ask ${approversWords(step.approvers, naming, catalogue)}; ${ruleWords(step.rule)}.`;
    case 'provision': {
      const action = actionOf(catalogue, step.action);
      if (!action) return 'Change something in a system, not chosen yet.';
      const inputs = action.inputs.flatMap((i) => {
        const o = step.inputs[i.name];
        return o ? [`${i.label.toLowerCase()} ${operand(o, '')}`] : [];
      });
      return `In ${action.system}: ${action.label.toLowerCase()}${inputs.length ? ` (${inputs.join(', ')})` : ''}.`;
    }
    case 'tell':
      return `Tell ${step.to ? naming.place(step.to.ref) : 'nobody yet'}: “${step.subject.map((p) => p.map((x) => (isReference(x) ? naming.place(x.ref) : x.text)).join('')).join(' ')}”.`;
    case 'choose':
      return `Take the first case that holds: ${step.cases.map((c) => (c.when ? conditionWords(c.when, naming) : 'not set')).join('; ')}${step.otherwise ? '; otherwise the last way' : ''}.`;
    case 'finish':
      return `End as ${step.outcome ? outcomeWords[step.outcome] : 'nothing set'}.`;
  }
}

/** The words at the head of a branch. */
export function branchWords(step: Step, branch: string, naming: Naming): string {
  if (branch === 'approved') return 'When approved';
  if (branch === 'declined') return 'When declined';
  if (branch === 'otherwise') return 'Otherwise';
  const found = step.kind === 'choose' ? step.cases.find((c) => c.id === branch) : undefined;
  return found?.when ? `${found.name}: ${conditionWords(found.when, naming)}` : (found?.name ?? branch);
}
