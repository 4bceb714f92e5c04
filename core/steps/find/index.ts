import type { Naming } from '../../conditions/index.ts';
import { isGroup, type Value } from '../../values/index.ts';
import type { Catalogue } from '../catalogue.ts';
import { teamFindings, typeFindings } from '../check.ts';
import { unset } from '../finding.ts';
import { output, readOne } from '../place.ts';
import type { Room } from '../room.ts';
import { ended, fail, personOf, putOutputs, read, type RunContext, type Scope } from '../run/context.ts';
import type { Wanted } from '../run/effect.ts';
import type { Candidate } from '../run/event.ts';
import type { Activity } from '../run/state.ts';
import { managerWords, teamWords } from '../words.ts';
import { Find, type Lookup } from './settings.ts';

function lookupWords(l: Lookup | undefined, naming: Naming, catalogue: Catalogue): string {
  if (!l) return 'nothing yet';
  if (l.find === 'managerOf') return `${managerWords(l.levels)} ${naming.place(l.person.ref)}`;
  if (l.find === 'reportsOf') return `everyone whose manager is ${naming.place(l.person.ref)}`;
  if (l.find === 'teamMembers') return `the members of ${teamWords(l.team, catalogue)}`;
  return `the ${l.find === 'ownersOf' ? 'owners' : 'members'} of ${naming.place(l.group.ref)}`;
}

/** What the look-up asks for, by values as they are now; undefined where what it reads leads to nobody. */
function wantedOf(context: RunContext, l: Lookup, scope: Scope): Wanted | undefined {
  if (l.find === 'teamMembers') return { from: 'team', team: l.team };
  if (l.find === 'ownersOf' || l.find === 'membersOf') {
    const group = read(context, scope, l.group.ref);
    return isGroup(group) ? { from: l.find, group: group.group } : undefined;
  }
  const person = personOf(read(context, scope, l.person.ref));
  if (person === undefined) return undefined;
  return l.find === 'reportsOf' ? { from: 'reportsOf', person } : { from: 'managerOf', person, levels: l.levels ?? 1 };
}

/** A look-up of one person may find nobody; a list may be empty. */
function lookedUp(context: RunContext, step: Find, activity: Activity, scope: Scope, people: Candidate[]): void {
  const list = people.map((p) => ({ person: p.person }));
  const outputs: Record<string, Value> = step.lookup?.find === 'managerOf' ? { person: list[0] ?? null } : { people: list, count: list.length };
  putOutputs(scope, step.id, outputs);
  ended(context, activity, 'done', outputs);
}

/** The room of this kind; `room.ts` says what each member means. */
export const find: Room<Find> = {
  verb: 'Find',
  does: 'Look up a person or people',
  alsoCalled: ['look up', 'person', 'manager', 'search'],
  schema: () => Find,
  fresh: () => ({}),
  outputs: (step) =>
    step.lookup?.find === 'managerOf'
      ? [output(step, 'person', 'The one found', 'person', false)]
      : // Nobody may be found: the list is there, and empty.
        [
          output(step, 'people', 'Those found', 'people', false),
          { ...output(step, 'count', 'How many were found', 'number', true), counts: `steps.${step.id}.people` },
        ],
  reads: ({ lookup }) =>
    !lookup || lookup.find === 'teamMembers' ? [] : readOne('group' in lookup ? lookup.group.ref : lookup.person.ref, 'Look up'),
  lacks: (step, anywhere, catalogue) => {
    const l = step.lookup;
    if (!l) return [unset(step, 'anything to look up')];
    if (l.find === 'teamMembers') return teamFindings(step, l.team, catalogue);
    return 'group' in l
      ? typeFindings(step, 'Look up', l.group.ref, ['group'], anywhere)
      : typeFindings(step, 'Look up', l.person.ref, ['person'], anywhere);
  },
  steers: true,
  party: () => 'The run itself',
  sentence: (step, naming, catalogue) => `Look up ${lookupWords(step.lookup, naming, catalogue)}.`,
  start: (context, step, activity, scope) => {
    if (!step.lookup) return void fail(context, scope, activity, `“${step.name}” has nothing to look up.`);
    const wanted = wantedOf(context, step.lookup, scope);
    if (!wanted) return lookedUp(context, step, activity, scope, []);
    activity.phase = 'finding';
    context.effects.push({ effect: 'find', key: activity.key, wanted });
  },
  on: (context, { step, activity, scope }, event) => {
    if (event.type !== 'found' || activity.phase !== 'finding') return 'not-open';
    activity.phase = 'inside';
    lookedUp(context, step, activity, scope, event.people);
    return undefined;
  },
  bpmn: (step, from, write) => write.simple('bpmn:ServiceTask', step, from),
};
