import { dayOf, isInstant, minutesWords, workingMinutes } from '../../calendar/index.ts';
import type { Naming } from '../../conditions/index.ts';
import { isTeam } from '../../values/index.ts';
import type { Catalogue } from '../catalogue.ts';
import { areWordless, personFindings, teamFindings, typeFindings } from '../check.ts';
import { unset } from '../finding.ts';
import { fieldPlace, inText, output, readOne, readPassages } from '../place.ts';
import type { Room } from '../room.ts';
import {
  afterNow,
  ended,
  fail,
  hoursOf,
  outputsOf,
  personOf,
  read,
  readAs,
  snapshotOfPassages,
  setOutputs,
  wantInstant,
  type RunContext,
  type Scope,
} from '../run/context.ts';
import type { Activity } from '../run/state.ts';
import { passages } from '../settings.ts';
import { capital, teamWords, statedWords, workingWords } from '../words.ts';
import { Task, type Assignee, type Due } from './settings.ts';

const byWords = (due: Extract<Due, { by: unknown }>, naming: Naming): string => {
  const { workingDaysBefore: n } = due;
  const day = naming.place(due.by.ref);
  return n === undefined ? `by ${day}` : `${n} working ${n === 1 ? 'day' : 'days'} before ${day}`;
};

const assigneeWords = (a: Assignee | undefined, naming: Naming, catalogue: Catalogue): string => {
  if (!a) return 'nobody yet';
  if ('team' in a) return teamWords(a.team, catalogue);
  return 'person' in a ? statedWords(a.person, catalogue) : naming.place(a.from.ref);
};

/** Who does it as values are now; undefined where they lead to nobody. */
function whoDoes(context: RunContext, a: Assignee | undefined, scope: Scope): { team: string } | { person: string } | undefined {
  if (!a) return undefined;
  if ('team' in a) return { team: a.team };
  if ('person' in a) return { person: a.person.person };
  const value = read(context, scope, a.from.ref);
  const person = personOf(value);
  return person !== undefined ? { person } : isTeam(value) ? { team: value.team } : undefined;
}

/** When it is due, by the hours of the team that does it: after so much working time, or at the end of a day. */
function due(context: RunContext, step: Task, activity: Activity, scope: Scope): void {
  if (!step.due) return;
  const who = whoDoes(context, step.assignee, scope);
  const hours = hoursOf(context, who && 'team' in who ? who.team : undefined);
  if ('within' in step.due) return wantInstant(context, activity, 'due', { hours, ...afterNow(context, step.due.within) });
  const by = read(context, scope, step.due.by.ref);
  if (typeof by !== 'string') return;
  const { workingDaysBefore } = step.due;
  const before = workingDaysBefore !== undefined && { workingDaysBefore };
  if (isInstant(by) && !before) context.effects.push({ effect: 'taskDue', key: activity.key, at: new Date(by).toISOString() });
  else if (isInstant(by)) wantInstant(context, activity, 'due', { hours, day: dayOf(by, hours.zone), edge: 'closes', ...before });
  else wantInstant(context, activity, 'due', { hours, day: by, edge: 'closes', ...before });
}

/** The room of this kind; `room.ts` says what each member means. */
export const task: Room<Task> = {
  verb: 'Task',
  does: 'Somebody does something and says when it is done',
  toRequester: 'The desk works on it',
  alsoCalled: ['to-do', 'work', 'job', 'manual', 'assign'],
  schema: () => Task,
  fresh: () => ({ expected: { min: 'PT15M', likely: 'PT1H', max: 'P1D' }, instructions: passages(''), checklist: [], fields: [] }),
  outputs: (step) => [
    ...step.fields.map((f) => fieldPlace(f, `steps.${step.id}.${f.id}`, step.name)),
    output(step, 'doneBy', 'Done by', 'person', true),
    output(step, 'doneAt', 'Done at', 'instant', true),
  ],
  reads: (step) => [
    ...(step.assignee && 'from' in step.assignee ? readOne(step.assignee.from.ref, 'Who does it') : []),
    ...inText(readPassages(step.instructions, 'Instructions')),
    ...(step.due && 'by' in step.due ? readOne(step.due.by.ref, 'Due') : []),
  ],
  conditions: (step) => step.instructions.flatMap((p) => (p.when ? [{ when: p.when, setting: 'A condition in the instructions' }] : [])),
  people: (step) => (step.assignee && 'person' in step.assignee ? [step.assignee.person.person] : []),
  lacks: (step, anywhere, catalogue) => {
    const a = step.assignee;
    return [
      ...(a ? [] : [unset(step, 'anyone to do it')]),
      ...(a && 'team' in a ? teamFindings(step, a.team, catalogue) : []),
      ...(a && 'person' in a ? personFindings(step, [a.person.person], catalogue) : []),
      ...(a && 'from' in a ? typeFindings(step, 'Who does it', a.from.ref, ['person', 'team'], anywhere) : []),
      ...(areWordless(step.instructions) ? [unset(step, 'instructions')] : []),
      ...(step.due && 'by' in step.due ? typeFindings(step, 'Due', step.due.by.ref, ['date', 'instant'], anywhere) : []),
      ...step.checklist.flatMap((c) => (c.words.trim() ? [] : [unset(step, 'words for a line of its checklist')])),
      ...step.fields.flatMap((f) => (f.label.trim() ? [] : [unset(step, 'a label for one of its fields')])),
    ];
  },
  party: (step, naming, catalogue) => capital(assigneeWords(step.assignee, naming, catalogue)),
  brief: ({ due }, naming) => due && ('within' in due ? `in ${minutesWords(workingMinutes(due.within))}` : byWords(due, naming)),
  sentence: (step, naming, catalogue) => {
    const due = step.due && ('within' in step.due ? `, due after ${workingWords(step.due.within)}` : `, due ${byWords(step.due, naming)}`);
    const fills = step.fields.length ? ` They fill in ${step.fields.map((f) => f.label).join(', ')}.` : '';
    const checks = step.checklist.length ? ` ${step.checklist.length} to check off.` : '';
    const told = step.tellTeam ? ' The team is told by mail when it arrives.' : '';
    return `${capital(assigneeWords(step.assignee, naming, catalogue))} does it${due ?? ''}.${told}${checks}${fills}`;
  },
  inputs: (context, step, scope) => readAs(context, scope, 'person', step.assignee && 'from' in step.assignee ? step.assignee.from.ref : undefined),
  start: (context, step, activity, scope) => {
    const a = step.assignee;
    const assignee = whoDoes(context, a, scope);
    if (!assignee) return void fail(context, scope, activity, `“${step.name}” has nobody to do it.`);
    activity.phase = 'working';
    const row = read(context, scope, 'row.value');
    context.effects.push({
      effect: 'openTask',
      key: activity.key,
      name: step.name,
      ...(row !== undefined && { row }),
      assignee,
      ...(step.tellTeam && 'team' in assignee && { tellTeam: true }),
      instructions: snapshotOfPassages(context, scope, step.instructions),
      checklist: step.checklist,
      fields: step.fields,
    });
    due(context, step, activity, scope);
  },
  reckoned: (context, { activity }, _, at) => {
    if (at !== null) context.effects.push({ effect: 'taskDue', key: activity.key, at });
  },
  on: (context, { step, activity, scope }, event) => {
    if (event.type !== 'taskDone' || activity.phase !== 'working') return 'not-open';
    setOutputs(scope, step.id, { ...event.values, doneBy: { person: event.person }, doneAt: context.now });
    context.effects.push({ effect: 'closeTask', key: activity.key, result: 'done', by: event.person, values: event.values });
    ended(context, activity, 'done', outputsOf(scope, step.id));
    return undefined;
  },
  withdraw: (context, _, a) => {
    if (a.phase === 'working') context.effects.push({ effect: 'closeTask', key: a.key, result: 'withdrawn' });
  },
  bpmn: (step, from, write) => write.simple('bpmn:UserTask', step, from),
};
