import { isPerson, namedIn, plainText, sentence } from '../../values/index.ts';
import { areWordless, isWordless, typeFindings } from '../check.ts';
import { unset } from '../finding.ts';
import { inText, readOne, readPassages, readText } from '../place.ts';
import type { Room } from '../room.ts';
import { ended, fail, read, readAs, snapshotOf, snapshotOfPassages } from '../run/context.ts';
import { passages } from '../settings.ts';
import { Tell } from './settings.ts';

const toRequester = (step: Tell): boolean => step.to?.ref === 'request.requester';

const readAttached = (step: Tell) => (step.attaches ?? []).flatMap((a) => readOne(a.ref, 'Attached'));

/** The room of this kind; `room.ts` says what each member means. */
export const tell: Room<Tell> = {
  verb: 'Tell',
  does: 'Send a message',
  toRequester: 'Somebody is told',
  alsoCalled: ['mail', 'notify', 'message', 'email', 'chat', 'inform'],
  schema: () => Tell,
  fresh: () => ({ to: { ref: 'request.requester' }, subject: sentence(''), body: passages('') }),
  tells: toRequester,
  // There is always a requester to tell.
  isSure: toRequester,
  reads: (step) => [
    ...readOne(step.to?.ref, 'To'),
    ...inText([...readText(step.subject, 'Subject'), ...readPassages(step.body, 'Message'), ...readAttached(step)]),
  ],
  conditions: (step) => step.body.flatMap((p) => (p.when ? [{ when: p.when, setting: 'A condition in the message' }] : [])),
  lacks: (step, anywhere) => [
    ...(step.to ? typeFindings(step, 'To', step.to.ref, ['person', 'people'], anywhere) : [unset(step, 'anyone to tell')]),
    ...(isWordless(step.subject) ? [unset(step, 'a subject')] : []),
    ...(areWordless(step.body) ? [unset(step, 'a message')] : []),
    ...(step.attaches ?? []).flatMap((a) => typeFindings(step, 'Attached', a.ref, ['file', 'files'], anywhere)),
  ],
  party: (step, naming) => (step.to ? naming.place(step.to.ref) : 'Nobody yet'),
  sentence: (step, naming) =>
    `Tell ${step.to ? naming.place(step.to.ref) : 'nobody yet'}${step.by === 'chat' ? ' in chat' : ''}: “${plainText(step.subject, naming.place)}”${step.attaches?.length ? `, with ${step.attaches.map((a) => naming.place(a.ref)).join(', ')}` : ''}.`,
  inputs: (context, step, scope) => readAs(context, scope, 'to', step.to?.ref),
  settle: (context, step, activity, scope) => {
    const to = step.to && read(context, scope, step.to.ref);
    const people = Array.isArray(to) ? to : [to];
    const known = people.flatMap((p) => (isPerson(p) ? [p.person] : []));
    if (known.length === 0) return fail(context, scope, activity, `“${step.name}” has nobody to tell.`);
    const words = { subject: snapshotOf(context, scope, step.subject), body: snapshotOfPassages(context, scope, step.body) };
    const files = (step.attaches ?? []).flatMap((a) => namedIn(read(context, scope, a.ref)).flatMap((n) => (n.kind === 'file' ? [n.id] : [])));
    const more = { ...(step.by && { by: step.by }), ...(files.length > 0 && { files }) };
    for (const person of known) context.effects.push({ effect: 'message', key: activity.key, to: person, ...more, ...words });
    return ended(context, activity, 'done');
  },
  bpmn: (step, from, write) => write.simple('bpmn:SendTask', step, from),
};
