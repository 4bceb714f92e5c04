import { sql } from 'drizzle-orm';
import { keptDocument, runFormat } from '../../core/documents/index.ts';
import { newState } from '../../core/engine/index.ts';
import { notKnownOf, validateAnswers, withHeld, type Answers, type AskedOn } from '../../core/forms/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import { apartIn } from '../apart/foreseen.ts';
import type { Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { askedOn } from '../hours/asked-on.ts';
import { calendarsOf } from '../hours/nearest.ts';
import { isId } from '../ids.ts';
import { mayAsk, whyNotAsk } from '../items/audience.ts';
import { definitionOf } from '../items/definitions.ts';
import { existing } from '../people/existing.ts';
import { namesFor } from '../people/names.ts';
import { answersRefused, notFound, refuse, type Result } from '../refusal.ts';
import { batched } from '../runtime/batched.ts';
import { deliverAll } from '../runtime/deliver.ts';
import { requestNumber } from '../words.ts';
import { caseWords } from './answers.ts';
import { knownFor } from './begun.ts';
import { rowsIn } from './price.ts';
import { refusedOutside } from './taken-outside.ts';
import { holdUnique, takenAmong } from './unique.ts';

interface Asked {
  viewer: Viewer;
  /** `forWhom`: the person it is asked for, where that is somebody else. */
  input: {
    itemId: string;
    revision: number;
    answers: Record<string, unknown>;
    idempotencyKey: string;
    forWhom?: string | undefined;
    causes?: string[];
  };
}
type Opened = Result<{ number: number }>;

/**
 * Asks for an item: holds the answers against the published form, opens the request and begins its plan. The same form sent
 * twice (`idempotencyKey`) is one request. What is asked for while others are being opened goes into one transaction with what else
 * came meanwhile.
 */
export async function submitRequest(viewer: Viewer, input: Asked['input']): Promise<Opened> {
  const whom = whomOf(viewer, input.forWhom);
  if (!whom.ok) return whom;
  const [taken] = await refusedOutside([input]);
  return taken ?? open({ viewer, input: { ...input, forWhom: whom.forWhom } });
}

/** The person something is asked for; undefined: whoever asks. */
export function whomOf(viewer: Viewer, forWhom: string | undefined): Result<{ forWhom: string | undefined }> {
  if (forWhom !== undefined && !isId(forWhom)) return whomRefused('Choose somebody who works here.');
  return { ok: true, forWhom: forWhom === viewer.id ? undefined : forWhom };
}
/** The field in which that person is chosen. */
const whomField = 'for-whom';
const whomRefused = (sentence: string) => refuse('invalid', 'The request was not sent: look at whom it is for.', [{ field: whomField, sentence }]);

const open = batched<Asked, Opened>((all) => db().transaction((tx) => openAll(tx, all)));

/** Opens what is asked for, each for itself: a request, or a refusal. */
export async function openAll(tx: Tx, all: Asked[]): Promise<Opened[]> {
  const held = await onlyOnes(tx, await withoutMeetings(tx, await heldFor(tx, all)));
  const good = held.flatMap((h) => ('offer' in h ? [h] : []));
  const made = good.length > 0 ? await begin(tx, good) : new Map<string, number>();
  return held.map((h): Opened => {
    if (!('offer' in h)) return h;
    const number = made.get(onceFor(h));
    return number === undefined ? refuse('invalid', 'The request could not be opened. Send it again.') : { ok: true, number };
  });
}

/** Holds what is asked for against the forms that are offered; opens nothing. */
export async function heldFor(tx: Tx, all: Asked[]): Promise<(Held | Opened)[]> {
  const offers = await offeredTo(tx, all);
  const exists = await existing(
    tx,
    all.flatMap((a) => Object.values(a.input.answers)),
  );
  const definitions: (ItemDefinition | undefined)[] = [];
  for (const i of all.keys()) definitions.push(offers.has(i) ? await definitionOf(tx, offers.get(i)!.revisionId) : undefined);
  const known = await knownFor(
    tx,
    all.flatMap(({ viewer, input }, i) => (definitions[i] ? [{ by: viewer.id, form: definitions[i].form, answers: input.answers }] : [])),
  );
  const calendars = calendarsOf(tx);
  const on: AskedOn[] = [];
  for (const [i, { viewer }] of all.entries()) on.push(definitions[i] ? await askedOn(calendars, definitions[i].form, viewer) : {});
  const whyNot: (Opened | undefined)[] = [];
  for (const [i, asked] of all.entries()) whyNot.push(offers.has(i) ? undefined : await notOffered(tx, asked));
  return all.map(
    (asked, i) =>
      whyNot[i] ??
      hold(
        asked,
        offers.get(i)!,
        definitions[i]!,
        known.of(asked.viewer.id, asked.input.forWhom),
        exists.for(asked.viewer.id, undefined, asked.input.forWhom),
        on[i]!,
      ),
  );
}

interface Offer {
  revisionId: string;
  revision: number;
  /** The number of a request that the same form has opened before. */
  earlier: string | null;
}

/** What is offered under each item that is asked for, by its place in the list. */
async function offeredTo(tx: Tx, all: Asked[]): Promise<Map<number, Offer>> {
  const asked = all.flatMap(({ viewer, input }, nth) =>
    isId(input.itemId) ? [{ nth, item: input.itemId, by: viewer.id, whom: input.forWhom, key: input.idempotencyKey }] : [],
  );
  const { rows } = await tx.execute<Offer & { nth: number; [k: string]: unknown }>(sql`
    select a.nth, v.id as "revisionId", v.number as revision,
      (select c.number from service_case c where c.requester_id = a.by and c.idempotency_key = a.key) as earlier
    from jsonb_to_recordset(${JSON.stringify(asked)}::jsonb) as a(nth int, item uuid, by uuid, whom uuid, key text)
      join item i on i.id = a.item and i.kind = 'item' and i.archived_at is null
      join revision v on v.item_id = i.id and v.number = i.published_revision and ${mayAsk({ audience: sql`v.audience`, onBehalf: sql`v.on_behalf`, outsiders: sql`v.outsiders` }, sql`a.by`, sql`a.whom`)}`);
  return new Map(rows.map((r) => [r.nth, r]));
}

/** Why what was asked for is not offered so. */
async function notOffered(tx: Tx, { viewer, input }: Asked): Promise<Opened> {
  const why = isId(input.itemId) ? await whyNotAsk(tx, viewer, input.itemId, input.forWhom) : undefined;
  if (why === undefined) return notFound('This item');
  return input.forWhom === undefined ? refuse('not-allowed', why) : whomRefused(why);
}

/** Something asked for with answers that hold. */
interface Held extends Asked {
  offer: Offer;
  definition: ItemDefinition;
  answers: Answers;
}

function hold(
  asked: Asked,
  offer: Offer,
  definition: ItemDefinition,
  known: Parameters<typeof withHeld>[2],
  exists: Parameters<typeof validateAnswers>[2],
  on: AskedOn,
): Held | Opened {
  if (offer.earlier !== null) return { ok: true, number: Number(offer.earlier) };
  if (offer.revision !== asked.input.revision)
    return refuse('changed-meanwhile', 'The form was changed while you filled it in. What you typed is kept; look it over and send it again.');
  const held = validateAnswers(definition.form, withHeld(definition.form, asked.input.answers, known), exists, undefined, on);
  if (!held.ok) return answersRefused(held.problems);
  const unknown = notKnownOf(definition.form, held.answers);
  return unknown.length > 0 ? answersRefused(unknown) : { ...asked, offer, definition, answers: held.answers };
}

/** The same, without those that would lead to what is kept apart in one person. */
async function withoutMeetings(tx: Tx, all: (Held | Opened)[]): Promise<(Held | Opened)[]> {
  const given = all.flatMap((h) => ('offer' in h ? [h] : []));
  const cells = await rowsIn(
    tx,
    given.flatMap((h) => Object.values(h.answers)),
  );
  const apart = await apartIn(
    tx,
    given.map(({ viewer, input, definition, answers }) => ({ by: viewer.id, whom: input.forWhom, definition, answers, cells })),
  );
  return all.map((h) => {
    const problems = 'offer' in h ? apart.get(given.indexOf(h)) : undefined;
    return problems ? answersRefused(problems) : h;
  });
}

/** The same, without those whose answers are taken by others. */
async function onlyOnes(tx: Tx, all: (Held | Opened)[]): Promise<(Held | Opened)[]> {
  const given = all.flatMap((h) =>
    'offer' in h
      ? [{ h, itemId: h.input.itemId, form: h.definition.form, answers: h.answers, once: { by: h.viewer.id, key: h.input.idempotencyKey } }]
      : [],
  );
  await holdUnique(tx, given);
  const taken = await takenAmong(tx, given);
  return all.map((h) => {
    const problems = taken.get(given.findIndex((g) => g.h === h));
    return problems ? answersRefused(problems) : h;
  });
}

const onceFor = (h: Asked): string => `${h.viewer.id} ${h.input.idempotencyKey}`;

/** Opens the cases with their runs and begins the plans; gives the number under each key, also where another sending of the same form had it. */
async function begin(tx: Tx, all: Held[]): Promise<Map<string, number>> {
  const at = now();
  const state = newState();
  const names = await namesFor(
    tx,
    all.flatMap((h) => Object.values(h.answers)),
  );
  const first = new Map(all.toReversed().map((h) => [onceFor(h), h]));
  const given = [...first.values()].toReversed().map((h, nth) => ({
    nth,
    item: h.input.itemId,
    revisionId: h.offer.revisionId,
    revision: h.offer.revision,
    requester: h.viewer.id,
    whom: h.input.forWhom,
    answers: h.answers,
    words: caseWords(h.definition, h.answers, names),
    key: h.input.idempotencyKey,
  }));
  // The cases, their runs and the entries in the log, in one go; nothing where the same form was sent twice at once.
  const { rows } = await tx.execute<{ id: string; case_id: string; number: string; requester: string; key: string }>(sql`
    with given as (
      select * from jsonb_to_recordset(${JSON.stringify(given)}::jsonb)
        as g(nth int, item uuid, "revisionId" uuid, revision int, requester uuid, whom uuid, answers jsonb, words text, key text)
    ), made as (
      insert into service_case (kind, item_id, revision_id, requester_id, for_id, answers, words, opened_at, idempotency_key)
      select 'request', item, "revisionId", requester, whom, answers, words, ${at.toISOString()}::timestamptz, key from given order by nth
      on conflict do nothing returning id, number, revision_id, requester_id, idempotency_key
    ), begun as (
      insert into run (case_id, revision_id, began_at, state)
      select id, revision_id, ${at.toISOString()}::timestamptz, ${JSON.stringify(keptDocument(runFormat, state))}::jsonb from made returning id, case_id
    ), logged as (
      insert into change_log (actor_id, action, object, object_id, detail)
      select requester, 'ask', 'request', made.id::text, jsonb_build_object('number', number, 'revision', revision)
      from made join given on requester = requester_id and key = idempotency_key order by nth
    )
    select begun.id, made.id as case_id, made.number, made.requester_id as requester, made.idempotency_key as key
    from begun join made on made.id = begun.case_id order by made.number`);
  // Nobody else knows of these runs yet: there is nothing to lock.
  const played = await deliverAll(
    tx,
    rows.map((row) => {
      const { viewer, input, offer, answers } = first.get(`${row.requester} ${row.key}`)!;
      const number = Number(row.number);
      const run = {
        id: row.id,
        caseId: row.case_id,
        kind: 'request' as const,
        number,
        revisionId: offer.revisionId,
        requesterId: viewer.id,
        seq: 0,
        state,
        isFirst: true,
      };
      const causes = input.causes?.length ? { causes: input.causes } : {};
      const whom = input.forWhom === undefined ? {} : { for: { person: input.forWhom } };
      return {
        run,
        events: [{ type: 'begin', requester: { person: viewer.id }, number: requestNumber(number), answers, zone: viewer.zone, ...whom, ...causes }],
      };
    }),
    at,
  );
  const ignored = played.find((p) => p.events[0]!.ignored);
  if (ignored) throw new Error(`A new request cannot have begun already (${ignored.events[0]!.ignored}).`);
  const numbers = new Map(rows.map((row) => [`${row.requester} ${row.key}`, Number(row.number)]));
  const others = given.filter((g) => !numbers.has(`${g.requester} ${g.key}`));
  if (others.length > 0) {
    const had = await tx.execute<{ number: string; requester: string; key: string }>(sql`
      select c.number, c.requester_id as requester, c.idempotency_key as key from service_case c
      join jsonb_to_recordset(${JSON.stringify(others)}::jsonb) as g(requester uuid, key text) on c.requester_id = g.requester and c.idempotency_key = g.key`);
    for (const row of had.rows) numbers.set(`${row.requester} ${row.key}`, Number(row.number));
  }
  return numbers;
}
