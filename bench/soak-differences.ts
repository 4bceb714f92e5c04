import { sql } from 'drizzle-orm';
import { db, type Tx } from '../server/db/database.ts';
import { settleDifference } from '../server/differences/commands.ts';
import { wantReading } from '../server/differences/reading.ts';
import { directoryClient } from '../server/systems/directory/client.ts';
import { viewerFor } from '../server/testing/parties.ts';
import { atPark, machinesThere } from './park.ts';
import { guestsThere, invitePast, loseGuest, spacesThere } from './soak-houses.ts';

/** Systems lose what they had, and get what nobody asked for; they are read, and what differs is settled, while workers are killed. */

const systems = async (): Promise<string[]> => {
  const { rows } = await db().execute<{ id: string }>(
    sql`select id::text from web_system where name in ('Machine park', 'Project spaces', 'Guest house') order by name = 'Machine park' desc, name`,
  );
  return ['directory', ...rows.map((r) => r.id)];
};

let [lost, past, gone, invited, settled, otherwise] = [0, 0, 0, 0, 0, 0];

/**
 * Somebody pulls the plug of a machine that is held, makes one past us, sends a guest home or invites one past us, has a system read, or
 * settles a difference, twice at once.
 */
export async function meddle(chance: (n: number) => number, people: Record<string, string>): Promise<void> {
  const which = chance(8);
  const all = await systems();
  // What is done to the park is soon found there.
  const read = (system: string) => db().transaction((tx) => wantReading(tx, system, people['dan']!));
  if (which > 5) {
    const { rows } = await db().execute<{ what: string }>(
      sql`select what #>> '{}' as what from holding where kind = 'guest' and ended_at is null and ending_at is null order by id desc limit 3`,
    );
    const guest = rows[chance(Math.max(1, rows.length))]?.what;
    if (guest !== undefined && chance(2)) gone += Number(await loseGuest(guest));
    else invited += Number(await invitePast(chance(2) ? people['runa'] : undefined));
    await read(all[2]!);
  } else if (which > 2) await settleSomething(chance, people);
  else if (which === 2) await read(all[chance(all.length)]!);
  else if (which === 0) {
    const { rows } = await db().execute<{ what: string }>(
      sql`select what #>> '{}' as what from holding where kind = 'machine' and ended_at is null and ending_at is null order by id limit 5`,
    );
    const address = rows[chance(Math.max(1, rows.length))]?.what;
    if (address === undefined) return;
    await atPark(`/_lose/${address.split('.')[0]}`, {});
    lost++;
    await read(all[1]!);
  } else {
    const made = await atPark<{ id?: string }>('/park/machines', {
      size: 'Small',
      region: 'lunnick',
      days: 5,
      ...(chance(2) && { owner: people['ina']! }),
    });
    if (made.id) past++;
    await read(all[1]!);
  }
}

async function settleSomething(chance: (n: number) => number, people: Record<string, string>): Promise<void> {
  // Those who play here keep their accounts.
  const { rows } = await db().execute<{ id: string; is: string }>(sql`
    select id, "is" from difference where state = 'open'
      and not (action = 'directory.createAccount' and person_id = any(${sql.param(Object.values(people))}::uuid[])) order by id limit 20`);
  const some = rows[chance(Math.max(1, rows.length))];
  if (!some) return;
  const how = some.is === 'missing' ? 'end' : some.is === 'until' ? 'follow' : ['takeOver', 'takeBack', 'leave'][chance(3)]!;
  const settle = () =>
    settleDifference(viewerFor(people['dan']!, 'administrator'), {
      id: some.id,
      how,
      why: 'As it is.',
      person: people[['ina', 'runa'][chance(2)]!]!,
    });
  const both = await Promise.all([settle(), settle()]);
  // Left as it is, it can be left so again: that is one thing.
  if (how !== 'leave' && both.filter((r) => r.ok).length > 1) throw new Error('A difference was settled twice.');
  for (const r of both) {
    if (!r.ok && !['already-decided', 'ended'].includes(r.code)) throw new Error(`${r.code}: ${r.sentence}`);
    if (!r.ok) otherwise++;
  }
  if (both.some((r) => r.ok)) settled++;
}

/** Every system is read once more, now that all is calm. */
export async function readOnce(): Promise<void> {
  const began = Date.now();
  for (const system of await systems()) await db().transaction((tx) => wantReading(tx, system, null));
  for (;;) {
    const { rows } = await db().execute<{ open: number }>(
      sql`select count(*)::int as open from system_reading where began_at is null or began_at < asked_at or ended_at is null`,
    );
    if (rows[0]!.open === 0) return;
    if (Date.now() - began > 60_000) throw new Error('A system is not read to its end.');
    await new Promise((done) => setTimeout(done, 200));
  }
}

/** Goes through what systems have and what is held, one by one, and holds that against the differences on record; gives what is wrong. */
export async function lookAtDifferences(tx: Tx): Promise<string[]> {
  const wrong: string[] = [];
  const { rows: held } = await tx.execute<{ what: string; who: string; kind: string; ending: boolean }>(sql`
    select coalesce(h.what ->> 'group', h.what #>> '{}') as what, h.person_id as who, h.kind, h.ending_at is not null as ending
    from holding h where h.ended_at is null and h.kind in ('machine', 'group', 'account', 'licence', 'equipment', 'project space', 'guest')`);
  const { rows: people } = await tx.execute<{ id: string; there: string }>(sql`select id, directory_id as there from person`);
  const { rows: groups } = await tx.execute<{ id: string; there: string }>(sql`select id, directory_id as there from access_group where not gone`);
  const person = new Map(people.map((p) => [p.there, p.id]));
  const group = new Map(groups.map((g) => [g.there, g.id]));
  const machines = (await machinesThere()).flatMap((m) => (m.address ? [{ what: m.address, who: people.find((p) => p.id === m.owner)?.id }] : []));
  const members = (await directoryClient.groups()).found.flatMap((g) => g.members.map((m) => ({ what: group.get(g.id)!, who: person.get(m.value) })));
  const users = (await directoryClient.users()).found.filter((u) => u.active ?? true);
  const accounts = users.map((u) => ({ what: u.userName, who: person.get(u.id) }));
  const licences = users.flatMap((u) => (u.entitlements ?? []).map((e) => ({ what: e.value, who: person.get(u.id) })));
  const { rows: equipment } = await tx.execute<{ what: string; who: string }>(
    sql`select what, person_id as who from equipment_issue where state in ('out', 'dueBack')`,
  );
  const spaces = (await spacesThere()).flatMap((s) => s.owners.map((owner) => ({ what: s.name, who: people.find((p) => p.id === owner)?.id })));
  const guests = (await guestsThere()).map((g) => ({ what: g.mail, who: people.find((p) => p.id === g.sponsor)?.id }));
  const expected: string[] = [];
  for (const [kind, there] of [
    ['machine', machines],
    ['group', members],
    ['account', accounts],
    ['licence', licences],
    ['equipment', equipment],
    ['project space', spaces],
    ['guest', guests],
  ] as const) {
    const ours = held.filter((h) => h.kind === kind);
    const [byThing, byBoth] = [new Set(ours.map((o) => o.what)), new Set(ours.map((o) => `${o.what} ${o.who}`))];
    for (const t of there)
      if (t.who === undefined ? !byThing.has(t.what) : !byBoth.has(`${t.what} ${t.who}`)) expected.push(`unknown ${t.what} ${t.who ?? ''}`);
    const [anybodys, theirs] = [
      new Set(there.flatMap((t) => (t.who === undefined ? [t.what] : []))),
      new Set(there.map((t) => `${t.what} ${t.who}`)),
    ];
    for (const o of ours) if (!o.ending && !anybodys.has(o.what) && !theirs.has(`${o.what} ${o.who}`)) expected.push(`missing ${o.what} ${o.who}`);
  }
  const { rows: shown } = await tx.execute<{ d: string }>(sql`
    select "is" || ' ' || coalesce(what ->> 'group', what #>> '{}') || ' ' || coalesce(person_id::text, '') as d from difference where state in ('open', 'left') and "is" <> 'until'`);
  const [on, off] = [new Set(shown.map((s) => s.d)), new Set(expected)];
  for (const e of off) if (!on.has(e)) wrong.push(`A difference is not shown: ${e}.`);
  for (const s of on) if (!off.has(s)) wrong.push(`A difference is shown that is none: ${s}.`);
  console.log(
    `  ${lost} machines lost, ${past} made past us; ${gone} guests sent home and ${invited} invited past us; ${settled} differences settled, ${otherwise} times somebody else was quicker; at the end ${off.size} differ, and are shown`,
  );
  return wrong;
}
