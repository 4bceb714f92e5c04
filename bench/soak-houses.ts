import { sql } from 'drizzle-orm';
import type { Form } from '../core/forms/index.ts';
import type { Step } from '../core/plans/index.ts';
import { step, tell } from '../core/testing/samples.ts';
import { guestHouse } from '../demo/guest-house.ts';
import { projectSpaces } from '../demo/project-spaces.ts';
import { robots } from '../demo/robots.ts';
import type { WebSystem } from '../core/systems/index.ts';
import { setSystemOwners } from '../server/consents/commands.ts';
import type { Tx } from '../server/db/database.ts';
import { submitRequest } from '../server/requests/submit.ts';
import { keepWebSystem } from '../server/systems/commands.ts';
import { viewerFor } from '../server/testing/parties.ts';
import { good, publishPlan, type Organisation } from './generated.ts';

/** A guest who may or may not accept, a job of a robot that may never end, and a project space in three steps: while workers are killed. */

type House = 'GUESTS' | 'ROBOTS' | 'SPACES';
const at = (house: House, path: string) => new URL(path, process.env[`${house}_URL`]);
const read = async <T>(house: House, path: string): Promise<T> => (await (await fetch(at(house, path))).json()) as T;
const post = (house: House, path: string, body: object) =>
  fetch(at(house, path), { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });

const form: Form = {
  fields: [
    { id: 'mail', kind: 'address', label: 'Mail address', required: true },
    { id: 'name', kind: 'text', label: 'Name', required: true },
    { id: 'until', kind: 'date', label: 'Until', required: true },
  ],
};
const retries = { times: 3, firstPauseSeconds: 1, factor: 1 };

/** Registers the three, each with what it takes to be called and to call back, and publishes an item that wants something of all of them. */
export async function publishHouses(org: Organisation): Promise<string> {
  const registered = async (house: House, definition: WebSystem): Promise<string> => {
    const [secret, answerKey] = [process.env[`${house}_TOKEN`]!, process.env[`${house}_ANSWER_KEY`]];
    const { id } = good(await keepWebSystem(viewerFor(org.people['dan']!, 'administrator'), { definition, secret, answerKey }));
    await setSystemOwners('host', { system: id, people: [org.people['boss']!] });
    return id;
  };
  const guests = guestHouse(process.env['GUESTS_URL']!);
  const desk = robots(process.env['ROBOTS_URL']!);
  const guestsId = await registered('GUESTS', {
    ...guests,
    // Here it is asked each second, and not every five minutes.
    actions: guests.actions.map(({ apart: _, ...a }) => a),
  });
  const robotsId = await registered('ROBOTS', {
    ...desk,
    actions: desk.actions.map((a) => ({
      ...a,
      later: { ...a.later!, within: 'PT1M', asked: { ...a.later!.asked!, firstPauseSeconds: 1, mostPauseSeconds: 3 } },
    })),
  });
  const spacesId = await registered('SPACES', projectSpaces(process.env['SPACES_URL']!));
  const call = (id: string, action: string, inputs: Record<string, unknown>, more = {}): Step =>
    step('provision', id, { action: `web.${action}`, inputs: inputs as never, retries, ...more });
  const owner = (who: string): Step =>
    call(`own${who}`, `${spacesId}.addOwner`, { space: { ref: 'form.name' }, owner: { literal: { person: org.people[who]! } } });
  const guest: Step[] = [
    call('invite', `${guestsId}.invite`, {
      mail: { ref: 'form.mail' },
      name: { ref: 'form.name' },
      until: { ref: 'form.until' },
      sponsor: { ref: 'request.requester' },
    }),
    step('guard', 'wait', {
      deadline: { length: 'PT40S', counted: 'always' },
      body: [
        step('repeat', 'accepts', {
          pause: { length: 'PT1S', counted: 'always' },
          deadline: { length: 'PT1H', counted: 'always' },
          until: { compare: 'is', left: { ref: 'steps.look.accepted' }, right: { literal: true } },
          body: [call('look', `${guestsId}.look`, { id: { ref: 'steps.invite.id' } })],
        }),
        call('letIn', `${guestsId}.letIn`, { id: { ref: 'steps.invite.id' }, room: { literal: 'chart-reviews' } }),
      ],
      remedy: [tell('gone', 'Gone')],
      late: [tell('late', 'Late')],
    }),
  ];
  const robot: Step[] = [
    step('guard', 'orNot', {
      body: [
        call('reset', `${robotsId}.resetPassword`, { account: { ref: 'form.mail' } }, { note: { to: { ref: 'request.requester' }, openFor: 'P3D' } }),
      ],
      remedy: [tell('notReset', 'Not reset')],
    }),
  ];
  const space: Step[] = [
    call('prepare', `${spacesId}.prepare`, {
      name: { ref: 'form.name' },
      template: { literal: 'survey' },
      seen: { literal: 'members' },
      purpose: { literal: 'Soundings' },
    }),
    owner('ina'),
    owner('runa'),
    call('openIt', `${spacesId}.open`, { space: { ref: 'form.name' } }),
  ];
  const branches = Object.entries({ guest, robot, space }).map(([id, block]) => ({ id, name: id, block }));
  return publishPlan(
    org,
    'Of three houses',
    { undoWhen: ['withdrawn', 'failed'], steps: [step('together', 'all', { join: 'all', branches }), tell('end', 'End')] },
    form,
  );
}

/** Asks for it; each guest and each space has a name of its own. */
export const askTheHouses = (org: Organisation, itemId: string, idempotencyKey: string, who: string) => {
  const name = `h-${idempotencyKey.slice(0, 13)}`;
  return submitRequest(viewerFor(org.people[who]!), {
    itemId,
    revision: 1,
    idempotencyKey,
    answers: { mail: `${name}@partner.example`, name, until: new Date(Date.now() + 20 * 86_400_000).toISOString().slice(0, 10) },
  });
};

/** Guests accept at once or not at all; robots end well, never, badly or twice. */
export async function turnHouses(chance: (n: number) => number): Promise<void> {
  await post('GUESTS', '/_ways', { accept: ['at once', 'at once', 'later'][chance(3)]!, closed: '' });
  await post('ROBOTS', '/_work', { ms: chance(3000), ends: ['well', 'well', 'never', 'failed', 'twice'][chance(5)]! });
}

interface Guest {
  id: string;
  name: string;
  mail: string;
  sponsor?: string;
  removedAt?: string;
}
/** Who is a guest of the house. */
export const guestsThere = async (): Promise<Guest[]> => (await read<Guest[]>('GUESTS', '/_guests')).filter((g) => !g.removedAt);
/** The addresses of those whom the house sent home, or invited, past everybody: of them a difference is shown. */
const meddledWith = new Set<string>();

/** The house sends the guest of this address home, past everybody; false where there is none. */
export async function loseGuest(mail: string): Promise<boolean> {
  const found = (await guestsThere()).find((g) => g.mail === mail);
  if (!found) return false;
  meddledWith.add(mail);
  return (await post('GUESTS', `/_lose/${found.id}`, {})).ok;
}

/** Somebody is invited whom nobody asked for; whether it came to that. */
export async function invitePast(sponsor: string | undefined): Promise<boolean> {
  const name = `past-${meddledWith.size}-${Date.now().toString(36)}`;
  const mail = `${name}@partner.example`;
  meddledWith.add(mail);
  const sent = await fetch(at('GUESTS', '/house/guests'), {
    method: 'POST',
    headers: { 'content-type': 'application/json', authorization: `Bearer ${process.env['GUESTS_TOKEN']}` },
    body: JSON.stringify({ mail, name, until: '2099-12-31', ...(sponsor !== undefined && { sponsor }) }),
  });
  return sent.ok;
}

/** The spaces that there are, each with its owners. */
export const spacesThere = () => read<{ name: string; owners: string[] }[]>('SPACES', '/_spaces');

/** From now on guests accept and robots end at once, and what a robot would do for ever is done. */
export async function hurryHouses(): Promise<void> {
  await post('GUESTS', '/_ways', { accept: 'at once', closed: '' });
  await post('ROBOTS', '/_work', { ms: 0, ends: 'well' });
  await post('ROBOTS', '/_hurry', {});
}

interface Change {
  change: string;
  key?: string;
  id?: string;
  space?: string;
}

/** Holds what the three have against what was asked of them and what is held; gives what is wrong, in sentences. */
export async function lookAtHouses(tx: Tx): Promise<{ wrong: string[]; words: string }> {
  const wrong: string[] = [];
  const [invited, started, spaces] = [
    await read<Change[]>('GUESTS', '/_journal'),
    await read<Change[]>('ROBOTS', '/_journal'),
    await read<Change[]>('SPACES', '/_journal'),
  ];
  const { rows: calls } = await tx.execute<{ key: string }>(sql`select idempotency_key as key from call`);
  const known = new Set(calls.map((c) => `"${c.key}"`));
  for (const [house, journal] of Object.entries({ guests: invited, robots: started, spaces })) {
    const keys = journal.flatMap((j) => (j.key === undefined ? [] : [j.key]));
    if (new Set(keys).size < keys.length) wrong.push(`Of the ${house} something was done twice for one call.`);
    if (keys.some((k) => !known.has(k))) wrong.push(`Of the ${house} something was done by a call that is not on record.`);
  }
  const done = started.filter((j) => j.change === 'done').map((j) => j.id);
  if (new Set(done).size < done.length) wrong.push('A robot has done a job twice.');
  /** What is held, and whether something about it is under way or was refused for good, so that it may be there or not. */
  const { rows: held } = await tx.execute<{ kind: string; what: string; who: string; ending: boolean }>(sql`
    select kind, what #>> '{}' as what, person_id as who, ending_at is not null as ending from holding where ended_at is null and kind in ('guest', 'project space')`);
  const { rows: busy } = await tx.execute<{ name: string }>(sql`
    select distinct c.answers ->> 'name' as name from service_case c join run r on r.case_id = c.id where c.answers ? 'name' and (
      c.ended_at is null or r.state ? 'undoing' or exists (select from call k where k.run_id = r.id and (k.closed_at is null or k.status = 'failed'))
      or exists (select from task t where t.run_id = r.id and t.key like 'undo:%'))`);
  const inDoubt = new Set(busy.map((b) => b.name));
  const houses = [
    { kind: 'guest', there: (await guestsThere()).map((g) => g.mail) },
    { kind: 'project space', there: (await spacesThere()).flatMap((s) => s.owners.map((o) => `${s.name} ${o}`)) },
  ];
  for (const { kind, there } of houses) {
    const isInDoubt = (thing: string) => meddledWith.has(thing) || inDoubt.has(thing.split(/[ @]/)[0]!);
    const ours = held.filter((h) => h.kind === kind).map((h) => ({ thing: kind === 'guest' ? h.what : `${h.what} ${h.who}`, ending: h.ending }));
    const things = new Set(ours.map((o) => o.thing));
    if (new Set(there).size < there.length) wrong.push(`A ${kind} is there twice.`);
    for (const t of there) if (!things.has(t) && !isInDoubt(t)) wrong.push(`The ${kind} ${t} is there, and nobody holds it.`);
    for (const o of ours)
      if (!o.ending && !there.includes(o.thing) && !isInDoubt(o.thing)) wrong.push(`The ${kind} ${o.thing} is held, and is not there.`);
  }
  const n = (journal: Change[], change: string) => journal.filter((j) => j.change === change).length;
  return {
    wrong,
    words: `${n(invited, 'invited')} guests invited, ${n(invited, 'let in')} let in, ${n(invited, 'removed')} sent home; ${n(started, 'started')} jobs of robots, ${done.length} done; ${n(spaces, 'prepared')} spaces prepared, ${n(spaces, 'opened')} opened, ${n(spaces, 'removed')} removed`,
  };
}
