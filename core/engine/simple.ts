import { own } from '../boundary/index.ts';
import { dateCloses, dateOpens, isInstant, workingMinutes } from '../calendar/index.ts';
import { workOut } from '../expressions/index.ts';
import { defaultRetries, type StepOf } from '../plans/index.ts';
import { isEmpty, isGroup, isPerson } from '../values/index.ts';
import type { Wanted } from './effect.ts';
import type { Candidate } from './event.ts';
import {
  afterSpan,
  afterWorking,
  ended,
  fail,
  finish,
  givenBy,
  outputsOf,
  putOutputs,
  personOf,
  read,
  said,
  saidPassages,
  setTimer,
  valuesOf,
  type Go,
  type Scope,
  type Settled,
} from './go.ts';
import type { Activity, RunState } from './state.ts';

// Steps without blocks: each `begin…` is the first move; those that wait are ended by an event.

export function beginProvision(go: Go, step: StepOf<'provision'>, activity: Activity, scope: Scope): Settled {
  if (!step.action) return fail(go, scope, activity, `“${step.name}” has no action set.`);
  activity.phase = 'calling';
  activity.inputs = valuesOf(go, scope, step.inputs);
  go.effects.push({
    effect: 'call',
    key: activity.key,
    action: step.action,
    inputs: activity.inputs,
    round: activity.round ?? 0,
    retries: step.retries ?? defaultRetries,
  });
  return 'waiting';
}

/** A call went well, or a person did it by hand. */
export function provisioned(go: Go, step: StepOf<'provision'>, activity: Activity, changed: boolean, outputs: RunState['outputs'][string]): void {
  if (!changed) return;
  const given = givenBy(step, activity, outputs);
  (go.state.given ??= []).push(given);
  go.effects.push({ effect: 'gave', given });
}

export function tell(go: Go, step: StepOf<'tell'>, activity: Activity, scope: Scope): Settled {
  const to = step.to && read(go, scope, step.to.ref);
  const people = Array.isArray(to) ? to : [to];
  const known = people.flatMap((p) => (isPerson(p) ? [p.person] : []));
  if (known.length === 0) return fail(go, scope, activity, `“${step.name}” has nobody to tell.`);
  const words = { subject: said(go, scope, step.subject), body: saidPassages(go, scope, step.body) };
  for (const person of known) go.effects.push({ effect: 'message', key: activity.key, to: person, ...(step.by && { by: step.by }), ...words });
  return ended(go, activity, 'done');
}

export function beginFind(go: Go, step: StepOf<'find'>, activity: Activity, scope: Scope): Settled {
  if (!step.lookup) return fail(go, scope, activity, `“${step.name}” has nothing to look up.`);
  const wanted = wantedOf(go, step.lookup, scope);
  if (!wanted) return lookedUp(go, step, activity, scope, []);
  activity.phase = 'finding';
  go.effects.push({ effect: 'find', key: activity.key, wanted });
  return 'waiting';
}

function wantedOf(go: Go, l: NonNullable<StepOf<'find'>['lookup']>, scope: Scope): Wanted | undefined {
  if (l.find === 'teamMembers') return { from: 'team', team: l.team };
  if (l.find === 'ownersOf' || l.find === 'membersOf') {
    const group = read(go, scope, l.group.ref);
    return isGroup(group) ? { from: l.find, group: group.group } : undefined;
  }
  const person = personOf(read(go, scope, l.person.ref));
  if (person === undefined) return undefined;
  return l.find === 'reportsOf' ? { from: 'reportsOf', person } : { from: 'managerOf', person, levels: l.levels ?? 1 };
}

/** A lookup of one person may find nobody; a list may be empty. */
export function lookedUp(go: Go, step: StepOf<'find'>, activity: Activity, scope: Scope, people: Candidate[]): Settled {
  const list = people.map((p) => ({ person: p.person }));
  const outputs: RunState['outputs'][string] = step.lookup?.find === 'managerOf' ? { person: list[0] ?? null } : { people: list, count: list.length };
  putOutputs(scope, step.id, outputs);
  return ended(go, activity, 'done', outputs);
}

export function workOutHere(go: Go, step: StepOf<'workOut'>, activity: Activity, scope: Scope): Settled {
  const result = workOut(step.feel, step.type, (ref) => read(go, scope, ref));
  if (!result.ok) return fail(go, scope, activity, `“${step.name}”: ${result.sentence}`);
  const outputs = { value: result.value };
  putOutputs(scope, step.id, outputs);
  return ended(go, activity, 'done', outputs);
}

export function beginPause(go: Go, step: StepOf<'pause'>, activity: Activity, scope: Scope): Settled {
  const { until } = step;
  if (!until) return fail(go, scope, activity, `“${step.name}” does not say how long it lasts.`);
  let at: string;
  if ('span' in until) at = afterSpan(go, until.span);
  else {
    const date = read(go, scope, until.date.ref);
    const moment = typeof date === 'string' ? momentOf(date, (day) => dateOpens(day, go.calendar)) : undefined;
    if (moment === undefined) return fail(go, scope, activity, `“${step.name}” waits for a date that has no value.`);
    at = moment;
  }
  if (at <= go.now) return ended(go, activity, 'done', {}, { note: 'The time had passed already.' });
  activity.phase = 'pausing';
  setTimer(go, activity, 'over', at);
  return 'waiting';
}

/** An instant as it is, a day by what the desk does on it; undefined when it is neither. */
const momentOf = (text: string, onDay: (day: string) => string | undefined): string | undefined =>
  isInstant(text) ? new Date(text).toISOString() : onDay(text);

export function mark(go: Go, step: StepOf<'mark'>, activity: Activity): Settled {
  const waits = go.state.additions?.some((a) => a.to === step.id);
  if (waits) {
    activity.phase = 'held';
    return 'waiting';
  }
  const { state } = go;
  if (step.shows === 'milestone') state.reached = [...(state.reached ?? []), step.id];
  else state.shown = step.words;
  if (step.noReturn) state.noReturn = true;
  go.effects.push({ effect: 'mark', key: activity.key, step: step.id, shows: step.shows, words: step.words });
  return ended(go, activity, 'done');
}

export function finishHere(go: Go, step: StepOf<'finish'>, activity: Activity, scope: Scope): Settled {
  if (!step.outcome) return fail(go, scope, activity, `“${step.name}” has no outcome set.`);
  ended(go, activity, 'done');
  return finish(go, step.outcome, step.outcome === 'declined' ? lastComment(scope) : undefined);
}

/** The words of the decline that led here. */
function lastComment(scope: Scope): string | undefined {
  const declined = Object.values(scope.outputs)
    .filter((o) => own(o, 'outcome') === 'declined')
    .at(-1);
  const comment = declined?.['comment'];
  return typeof comment === 'string' && !isEmpty(comment) ? comment : scope.outer && lastComment(scope.outer);
}

// Work of people

export function beginTask(go: Go, step: StepOf<'task'>, activity: Activity, scope: Scope): Settled {
  const a = step.assignee;
  const person = a && 'from' in a ? personOf(read(go, scope, a.from.ref)) : a && 'person' in a ? a.person.person : undefined;
  const assignee = a && 'team' in a ? { team: a.team } : person === undefined ? undefined : { person };
  if (!assignee) return fail(go, scope, activity, `“${step.name}” has nobody to do it.`);
  let dueAt: string | undefined;
  if (step.due && 'within' in step.due) dueAt = afterWorking(go, workingMinutes(step.due.within));
  else if (step.due) {
    const date = read(go, scope, step.due.by.ref);
    if (typeof date === 'string') dueAt = momentOf(date, (day) => dateCloses(day, go.calendar));
  }
  activity.phase = 'working';
  const row = read(go, scope, 'row.value');
  go.effects.push({
    effect: 'openTask',
    key: activity.key,
    name: step.name,
    ...(row !== undefined && { row }),
    assignee,
    instructions: saidPassages(go, scope, step.instructions),
    checklist: step.checklist,
    fields: step.fields,
    ...(dueAt && { dueAt }),
  });
  return 'waiting';
}

export function beginAskBack(go: Go, step: StepOf<'askBack'>, activity: Activity, scope: Scope): Settled {
  const to = step.to ? personOf(read(go, scope, step.to.ref)) : go.state.request!.requester.person;
  if (to === undefined) return fail(go, scope, activity, `“${step.name}” has nobody to ask.`);
  activity.phase = 'answering';
  go.effects.push({ effect: 'openQuestion', key: activity.key, to, name: step.name, question: said(go, scope, step.question), fields: step.fields });
  if (step.reminders) setTimer(go, activity, 'remind', afterWorking(go, workingMinutes(step.reminders.after)));
  return 'waiting';
}

/** Reminds of a question, and sets the next reminder while some are left. */
export function remind(go: Go, step: StepOf<'askBack'>, activity: Activity): void {
  const { reminders } = step;
  if (!reminders) return;
  const sent = (activity.count = (activity.count ?? 0) + 1);
  go.effects.push({ effect: 'remind', key: activity.key, people: [] });
  if (sent < reminders.times) setTimer(go, activity, 'remind', afterWorking(go, workingMinutes(reminders.after)));
}

export const setOutputs = (scope: Scope, step: string, values: RunState['outputs'][string]): void => {
  Object.assign(outputsOf(scope, step), values);
};
