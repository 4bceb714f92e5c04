import { dayOf, isInstant, minutesWords, workingMinutes } from '../../calendar/index.ts';
import type { Naming } from '../../conditions/index.ts';
import { isLocation, isTeam } from '../../values/index.ts';
import { own } from '../../boundary/index.ts';
import type { Catalogue } from '../catalogue.ts';
import { areWordless, correctsFindings, personFindings, teamFindings, typeFindings } from '../check.ts';
import { stop, unset, warn, type Finding } from '../finding.ts';
import { fieldPlace, inText, output, readOne, readPassages, type Places } from '../place.ts';
import type { Room } from '../room.ts';
import {
  afterNow,
  correctOpened,
  ended,
  fail,
  hoursOf,
  outputsOf,
  personOf,
  read,
  readAs,
  snapshotOfPassages,
  setOutputs,
  setTimer,
  wantInstant,
  type RunContext,
  type Scope,
} from '../run/context.ts';
import type { Activity } from '../run/state.ts';
import { passages } from '../settings.ts';
import { capital, teamWords, statedWords, timesWords, workingWords } from '../words.ts';
import { Task, type Assignee, type TaskAssignee, type Due, type Late } from './settings.ts';

const byWords = (due: Extract<Due, { by: unknown }>, naming: Naming): string => {
  const { workingDaysBefore: n } = due;
  const day = naming.place(due.by.ref);
  return n === undefined ? `by ${day}` : `${n} working ${n === 1 ? 'day' : 'days'} before ${day}`;
};

const assigneeWords = (a: TaskAssignee | undefined, naming: Naming, catalogue: Catalogue): string => {
  if (!a) return 'nobody yet';
  if ('routed' in a) {
    const table = own(catalogue.routing, a.routed)?.name;
    return `whoever ${table === undefined ? 'a routing table that does not exist' : `“${table}”`} names${a.place ? `, at ${naming.place(a.place.ref)}` : ''}`;
  }
  if ('team' in a) return teamWords(a.team, catalogue);
  return 'person' in a ? statedWords(a.person, catalogue) : naming.place(a.from.ref);
};

/** Who does it as values are now; undefined where they lead to nobody. */
function whoIs(context: RunContext, a: Assignee | undefined, scope: Scope): { team: string } | { person: string } | undefined {
  if (!a) return undefined;
  if ('team' in a) return { team: a.team };
  if ('person' in a) return { person: a.person.person };
  const value = read(context, scope, a.from.ref);
  const person = personOf(value);
  return person !== undefined ? { person } : isTeam(value) ? { team: value.team } : undefined;
}

/** Who does a task that has begun: of one that is routed, whom the table named then. */
const whoDoes = (context: RunContext, step: Task, activity: Activity, scope: Scope) =>
  step.assignee && 'routed' in step.assignee ? activity.routed : whoIs(context, step.assignee, scope);

/** When it is due, by the hours of the team that does it: after so much working time, or at the end of a day. */
function due(context: RunContext, step: Task, activity: Activity, scope: Scope): void {
  if (!step.due) return;
  const who = whoDoes(context, step, activity, scope);
  const hours = hoursOf(context, who && 'team' in who ? who.team : undefined);
  if ('within' in step.due) return wantInstant(context, activity, 'due', { hours, ...afterNow(context, step.due.within) });
  const by = read(context, scope, step.due.by.ref);
  if (typeof by !== 'string') return;
  const { workingDaysBefore } = step.due;
  const before = workingDaysBefore !== undefined && { workingDaysBefore };
  if (isInstant(by) && !before) isDue(context, step, activity, new Date(by).toISOString());
  else if (isInstant(by)) wantInstant(context, activity, 'due', { hours, day: dayOf(by, hours.zone), edge: 'closes', ...before });
  else wantInstant(context, activity, 'due', { hours, day: by, edge: 'closes', ...before });
}

/** The instant from which it is late. */
function isDue(context: RunContext, step: Task, activity: Activity, at: string): void {
  context.effects.push({ effect: 'taskDue', key: activity.key, at });
  if (step.late) setTimer(context, activity, 'late', at);
}

/** The task is there to be done by whoever this is; nobody is a failure. */
function open(
  context: RunContext,
  step: Task,
  activity: Activity,
  scope: Scope,
  assignee: { team: string } | { person: string } | undefined,
  holder?: string,
): void {
  if (!assignee) return void fail(context, scope, activity, `“${step.name}” has nobody to do it.`);
  activity.phase = 'working';
  const row = read(context, scope, 'row.value');
  context.effects.push({
    effect: 'openTask',
    key: activity.key,
    name: step.name,
    ...(row !== undefined && { row }),
    assignee,
    ...(holder !== undefined && { holder }),
    ...(step.tellTeam && 'team' in assignee && { tellTeam: true }),
    instructions: snapshotOfPassages(context, scope, step.instructions),
    checklist: step.checklist,
    fields: step.fields,
    ...(step.corrects?.length && { corrects: step.corrects }),
  });
  due(context, step, activity, scope);
}

/** So much working time from now, by the hours of the team that does it. */
function later(context: RunContext, step: Task, activity: Activity, scope: Scope, name: string, length: string): void {
  const who = whoDoes(context, step, activity, scope);
  wantInstant(context, activity, name, { hours: hoursOf(context, who && 'team' in who ? who.team : undefined), ...afterNow(context, length) });
}

/** It is late: reminders begin, and it is counted when others are to know. */
function isLate(context: RunContext, step: Task, activity: Activity, scope: Scope): void {
  remind(context, step, activity, scope);
  if (step.late?.raise && workingMinutes(step.late.raise.after) > 0) later(context, step, activity, scope, 'raise', step.late.raise.after);
  else raise(context, step, activity, scope);
}

function remind(context: RunContext, step: Task, activity: Activity, scope: Scope): void {
  const { reminders } = step.late ?? {};
  if (!reminders) return;
  const sent = (activity.count = (activity.count ?? 0) + 1);
  context.effects.push({ effect: 'taskLate', key: activity.key });
  if (sent < reminders.times) later(context, step, activity, scope, 'remind', reminders.after);
}

function raise(context: RunContext, step: Task, activity: Activity, scope: Scope): void {
  const to = step.late?.raise && whoIs(context, step.late.raise.to, scope);
  if (to) context.effects.push({ effect: 'raiseTask', key: activity.key, to, how: step.late!.raise!.how });
}

const lateWords = (late: Late | undefined, naming: Naming, catalogue: Catalogue): string => {
  if (!late) return '';
  const { reminders, raise } = late;
  const often = reminders && reminders.times > 1 ? `, and again each ${workingWords(reminders.after)}, at most ${timesWords(reminders.times)}` : '';
  const reminded = reminders ? ` Whoever has it is told when it is late${often}.` : '';
  if (!raise) return reminded;
  const to = capital(assigneeWords(raise.to, naming, catalogue));
  const when = workingMinutes(raise.after) === 0 ? 'once it is late' : `once it is late by ${workingWords(raise.after)}`;
  return `${reminded} ${raise.how === 'tell' ? `${to} is told of it ${when}` : `${to} has it ${when}`}.`;
};

/** What a table looks at that no request says: of a kind of ticket only, or an answer that this form does not ask for. */
function notSaid(column: { fact: string; field?: string | undefined }, anywhere: Places): string | undefined {
  if (column.fact === 'kind' || column.fact === 'priority') return `the ${column.fact} of a ticket`;
  return column.fact === 'answer' && !anywhere.has(`form.${column.field}`)
    ? `the answer “${column.field}”, for which the form does not ask`
    : undefined;
}

function routedFindings(
  step: Task,
  setting: string,
  a: Extract<TaskAssignee, { routed: string }>,
  anywhere: Places,
  catalogue: Catalogue,
): Finding[] {
  const table = own(catalogue.routing, a.routed);
  if (!table)
    return [
      stop(step, {
        code: 'unknown-routing',
        sentence: `“${step.name}” goes to whoever a routing table names that does not exist.`,
        mend: 'Choose another table, or say who does it.',
      }),
    ];
  const unsaid = table.columns.flatMap((c) => notSaid(c, anywhere) ?? []);
  return [
    ...(a.place ? typeFindings(step, setting, a.place.ref, ['location'], anywhere) : []),
    ...unsaid.map((what) =>
      warn(step, {
        code: 'unknown-reference',
        sentence: `“${step.name}” goes by “${table.name}”, which looks at ${what}: rows that state something there never count.`,
        mend: 'Let another table say it, or take that column out of the table.',
      }),
    ),
  ];
}

/** What keeps somebody from being one who does it. */
const assigneeFindings = (step: Task, setting: string, a: TaskAssignee, anywhere: Places, catalogue: Catalogue): Finding[] => {
  if ('routed' in a) return routedFindings(step, setting, a, anywhere, catalogue);
  if ('team' in a) return teamFindings(step, a.team, catalogue);
  if ('person' in a) return personFindings(step, [a.person.person], catalogue);
  return typeFindings(step, setting, a.from.ref, ['person', 'team'], anywhere);
};

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
    ...(step.assignee && 'routed' in step.assignee // Where it says nothing, the place of the requester counts.
      ? readOne(step.assignee.place?.ref, 'Where it is to be done').map((r) => ({ ...r, needed: false }))
      : []),
    ...inText(readPassages(step.instructions, 'Instructions')),
    ...(step.due && 'by' in step.due ? readOne(step.due.by.ref, 'Due') : []),
    ...(step.late?.raise?.to && 'from' in step.late.raise.to ? readOne(step.late.raise.to.from.ref, 'When it is late') : []),
  ],
  reopens: (step) => (step.corrects?.length ?? 0) > 0,
  opens: (step) => step.corrects ?? [],
  conditions: (step) => step.instructions.flatMap((p) => (p.when ? [{ when: p.when, setting: 'A condition in the instructions' }] : [])),
  people: (step) => [step.assignee, step.late?.raise?.to].flatMap((a) => (a && 'person' in a ? [a.person.person] : [])),
  lacks: (step, anywhere, catalogue) => {
    const a = step.assignee;
    return [
      ...(a ? [] : [unset(step, 'anyone to do it')]),
      ...(a ? assigneeFindings(step, 'Who does it', a, anywhere, catalogue) : []),
      ...(step.late?.raise
        ? step.late.raise.to
          ? assigneeFindings(step, 'When it is late', step.late.raise.to, anywhere, catalogue)
          : [
              stop(step, {
                code: 'unset-setting',
                sentence: `“${step.name}” does not say before whom it is brought when it stays late.`,
                mend: 'Name a person or a team, or take that out.',
              }),
            ]
        : []),
      ...(step.late && !step.due
        ? [
            warn(step, {
              code: 'never-reached' as const,
              sentence: `“${step.name}” says what happens when it is late, and not when it is due, so it never is.`,
              mend: 'Say when it is due, or take out what happens when it is late.',
              fix: { words: 'Take it out', edit: { replace: { ...step, late: undefined } } },
            }),
          ]
        : []),
      ...correctsFindings(step, 'whoever does it', anywhere, catalogue),
      ...(areWordless(step.instructions) ? [unset(step, 'instructions')] : []),
      ...(step.due && 'by' in step.due ? typeFindings(step, 'Due', step.due.by.ref, ['date', 'instant'], anywhere) : []),
      ...step.checklist.flatMap((c) => (c.words.trim() ? [] : [unset(step, 'words for a line of its checklist')])),
      ...step.fields.flatMap((f) => (f.label.trim() ? [] : [unset(step, 'a label for one of its fields')])),
    ];
  },
  party: ({ assignee: a }, naming, catalogue) =>
    (a && 'routed' in a && own(catalogue.routing, a.routed)?.name) || capital(assigneeWords(a, naming, catalogue)),
  brief: ({ due }, naming) => due && ('within' in due ? `in ${minutesWords(workingMinutes(due.within))}` : byWords(due, naming)),
  sentence: (step, naming, catalogue) => {
    const due = step.due && ('within' in step.due ? `, due after ${workingWords(step.due.within)}` : `, due ${byWords(step.due, naming)}`);
    const fills = step.fields.length ? ` They fill in ${step.fields.map((f) => f.label).join(', ')}.` : '';
    const corrects = step.corrects?.length ? ` They may correct ${step.corrects.map((id) => naming.place(`form.${id}`)).join(', ')}.` : '';
    const checks = step.checklist.length ? ` ${step.checklist.length} to check off.` : '';
    const told = step.tellTeam ? ' The team is told by mail when it arrives.' : '';
    const late = lateWords(step.late, naming, catalogue);
    return `${capital(assigneeWords(step.assignee, naming, catalogue))} does it${due ?? ''}.${told}${late}${checks}${fills}${corrects}`;
  },
  inputs: (context, step, scope) => readAs(context, scope, 'person', step.assignee && 'from' in step.assignee ? step.assignee.from.ref : undefined),
  start: (context, step, activity, scope) => {
    const a = step.assignee;
    if (!a || !('routed' in a)) return open(context, step, activity, scope, whoIs(context, a, scope));
    const place = a.place && read(context, scope, a.place.ref);
    activity.phase = 'finding';
    context.effects.push({
      effect: 'find',
      key: activity.key,
      wanted: { from: 'routed', table: a.routed, ...(isLocation(place) && { place: place.location }) },
    });
  },
  reckoned: (context, { step, activity }, name, at) => {
    if (at === null) return;
    if (name === 'due') isDue(context, step, activity, at);
    else setTimer(context, activity, name, at);
  },
  isTimed: (step) => step.late !== undefined && step.due !== undefined,
  on: (context, { step, activity, scope }, event) => {
    if (activity.phase === 'finding' && event.type === 'found') {
      const [holder] = event.people;
      const who = event.team !== undefined ? { team: event.team } : holder && { person: holder.person };
      if (who) activity.routed = who;
      open(context, step, activity, scope, who, event.team !== undefined ? holder?.person : undefined);
      return undefined;
    }
    if (activity.phase !== 'working') return 'not-open';
    if (event.type === 'timer') {
      if (event.name === 'late') isLate(context, step, activity, scope);
      if (event.name === 'remind') remind(context, step, activity, scope);
      if (event.name === 'raise') raise(context, step, activity, scope);
      return undefined;
    }
    if (event.type === 'corrected') {
      correctOpened(context, event.person, step.corrects ?? [], event);
      return undefined;
    }
    if (event.type !== 'taskDone') return 'not-open';
    setOutputs(scope, step.id, { ...event.values, doneBy: { person: event.person }, doneAt: context.now });
    context.effects.push({ effect: 'closeTask', key: activity.key, result: 'done', by: event.person, values: event.values });
    if (step.late && step.due) context.effects.push({ effect: 'cancelTimers', key: activity.key });
    ended(context, activity, 'done', outputsOf(scope, step.id));
    return undefined;
  },
  withdraw: (context, _, a) => {
    if (a.phase === 'working') context.effects.push({ effect: 'closeTask', key: a.key, result: 'withdrawn' });
  },
  bpmn: (step, from, write) => write.simple('bpmn:UserTask', step, from),
};
