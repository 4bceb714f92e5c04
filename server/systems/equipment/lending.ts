import { isDate } from '../../../core/calendar/index.ts';
import { isLocation, isPerson, type Value } from '../../../core/values/index.ts';
import { db } from '../../db/database.ts';
import { issueName, lendUntil, letGo, standing, want, wantBack } from '../../equipment/wanted.ts';
import type { Action, AnswersLater, Reply } from '../action.ts';
import { PermanentError } from '../errors.ts';
import { equipmentName } from './id.ts';

/** How long is waited for a piece, and for one to come back, in days; then somebody looks. Common practice, no source. */
const waits = 90;
/** Each change tells the call at once; asked besides, for what was told and lost, so often. */
const every = 6 * 3600;

const later = (ask: (job: string) => Promise<Reply>): AnswersLater => ({
  by: (accepted) => new Date(accepted.getTime() + waits * 86_400_000),
  ask,
  pauseBefore: (_, wanted) => Math.max(every, wanted),
});

const kind = { name: 'kind', label: 'Kind of equipment', type: 'text' as const, required: true };
const person = { name: 'person', label: 'Person', type: 'person' as const, required: true };
const issued = { name: 'issue', label: 'Issue number', type: 'text' as const };

const text = (value: Value | undefined): string => (typeof value === 'string' ? value.trim() : '');
const dayIn = (value: Value | undefined): string | null => (typeof value === 'string' && isDate(value) ? value : null);

const accepted = (job: string, progress: string): Reply => ({ is: 'accepted', job, progress, wait: 0 });

/** How what is wanted stands, as a reply. */
async function handedOut(job: string): Promise<Reply> {
  const its = await standing(db(), job);
  if (!its) throw new PermanentError('Nothing is known of it any more.');
  const { issue, placeName, place } = its;
  if (issue.state === 'waiting')
    return accepted(
      job,
      its.before === 0 ? `Waiting for a ${its.kind}: the next one that is free` : `Waiting for a ${its.kind}: ${its.before} wait before`,
    );
  if (issue.state === 'setAside')
    return accepted(job, issue.readyAt ? `Ready to be fetched at ${placeName}` : `Set aside at ${placeName}, and being picked`);
  if (issue.state === 'cancelled') throw new PermanentError('It was not needed any more, and was not handed out.');
  return {
    is: 'done',
    outputs: { what: issue.what ?? its.kind, mark: its.mark, from: place === null ? null : { location: place }, issue: issueName(issue.number) },
  };
}

/** Lends a piece of equipment: it is set aside at the nearest place that has one, picked there and handed over. */
export const lend: Action = {
  spec: {
    id: 'equipment.lend',
    system: equipmentName,
    label: 'Hand out equipment',
    inputs: [
      kind,
      person,
      { name: 'place', label: 'Where it is wanted', type: 'location', required: false },
      { name: 'until', label: 'Until', type: 'date', required: false },
    ],
    outputs: [
      { name: 'what', label: 'What was handed out', type: 'text', always: true },
      { name: 'mark', label: 'Serial number', type: 'text', always: false },
      { name: 'from', label: 'Handed out at', type: 'location', always: true },
      { ...issued, always: true },
    ],
    undoneBy: 'equipment.takeBack',
    grants: true,
    within: `P${waits}D`,
    gives: { kind: 'equipment', person: 'person', what: 'what', until: 'until' },
  },
  run: async (values, key) => {
    const [who, at] = [values['person'], values['place']];
    if (!isPerson(who)) throw new PermanentError('No person was given.');
    if (text(values['kind']) === '') throw new PermanentError('No kind of equipment was given.');
    const wanted = await want({
      kind: text(values['kind']),
      person: who.person,
      place: isLocation(at) ? at.location : undefined,
      until: dayIn(values['until']),
      key,
    });
    if ('wrong' in wanted) throw new PermanentError(wanted.wrong);
    return handedOut(wanted.id);
  },
  later: {
    ...later(handedOut),
    cancel: async (job) => {
      await letGo(job);
      return handedOut(job);
    },
  },
};

/** How something that is to come back stands, as a reply. */
async function cameBack(job: string): Promise<Reply> {
  const its = await standing(db(), job);
  if (!its) throw new PermanentError('Nothing is known of it any more.');
  if (its.issue.state === 'dueBack') return accepted(job, `To be brought back${its.placeName === null ? '' : `; it came from ${its.placeName}`}`);
  return { is: 'done', outputs: { lost: its.issue.state === 'lost' } };
}

/** Has a piece come back: whoever keeps the stock takes it in. */
const takeBack: Action = {
  spec: {
    id: 'equipment.takeBack',
    system: equipmentName,
    label: 'Take equipment back',
    inputs: [{ ...issued, required: true }],
    outputs: [{ name: 'lost', label: 'Did not come back', type: 'boolean', always: true }],
    within: `P${waits}D`,
  },
  run: async (values, key) => {
    const back = await wantBack(text(values['issue']), key);
    if (!back) throw new PermanentError('No equipment was handed out under this issue number.');
    return cameBack(back.id);
  },
  later: later(cameBack),
};

/** Leaves a piece with whoever has it until a later day. */
const keep: Action = {
  spec: {
    id: 'equipment.keep',
    system: equipmentName,
    label: 'Lend equipment until another day',
    inputs: [
      { ...issued, required: true, known: true },
      { name: 'until', label: 'Until', type: 'date', required: true },
    ],
    outputs: [],
    about: { of: 'equipment.lend', until: 'until' },
    grants: true,
  },
  run: async (values) => {
    const until = dayIn(values['until']);
    if (until === null) throw new PermanentError('No day was given.');
    const lent = await lendUntil(text(values['issue']), until);
    if (lent?.state !== 'out') throw new PermanentError('It is not handed out any more: ask for it anew.');
    return { is: 'done', outputs: {} };
  },
};

/** What the stock of equipment can be asked to do. */
export const equipmentActions: Action[] = [lend, takeBack, keep];
