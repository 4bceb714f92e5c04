import { eq } from 'drizzle-orm';
import { makePublicLink } from '../server/outside/links.ts';
import { setSystemOwners } from '../server/consents/commands.ts';
import { consentTo } from '../server/testing/consent.ts';
import { addWorking, compileHours, takeWorking, type ServiceHours } from '../core/calendar/index.ts';
import { changeHours, createHours, giveHours } from '../server/hours/commands.ts';
import { pictureCategory } from '../server/categories/commands.ts';
import { createItem, publish, saveDraft } from '../server/items/commands.ts';
import { addLocation, addTeam, grantRole, setPassword, setPersonFacts } from '../server/people/commands.ts';
import { syncDirectory } from '../server/people/sync-directory.ts';
import { keepStaffRule } from '../server/staff/commands.ts';
import { follow } from '../server/staff/follow.ts';
import { readStaff } from '../server/staff/reading.ts';
import { useSettings } from '../server/config.ts';
import { shiftClock } from '../server/clock.ts';
import type { Viewer } from '../server/auth/viewer.ts';
import { db, disconnect } from '../server/db/database.ts';
import { accessGroup, person, staffHappening, teamMember } from '../server/db/schema/index.ts';
import { keepUserNames } from '../server/systems/directory/user-name-rule.ts';
import { directoryClient, enterprise, ownership } from '../server/systems/directory/client.ts';
import type { WebSystem } from '../core/systems/index.ts';
import type { ItemDefinition } from '../core/items/index.ts';
import { typedAs } from '../core/values/index.ts';
import { changeKind, createKind } from '../server/kinds/commands.ts';
import { changePolicy, createPolicy } from '../server/policies/commands.ts';
import { changeRouting, createRouting } from '../server/routing/commands.ts';
import { openWay } from '../server/intake/commands.ts';
import { allKinds } from '../server/kinds/queries.ts';
import { giveTicket, writeOnTicket } from '../server/tickets/commands.ts';
import { readTicket } from '../server/tickets/happen.ts';
import { reportTicket } from '../server/tickets/report.ts';
import { changeTable, createTable, saveRow } from '../server/tables/commands.ts';
import { readTable } from '../server/tables/reading.ts';
import type { TableDefinition } from '../core/tables/index.ts';
import { calibrationBooking } from './calibration-booking.ts';
import { chartCorrection } from './chart-correction.ts';
import { calendarsFilled } from './calendars.ts';
import { colleagueLeaving } from './colleague-leaving.ts';
import { colleagueMoving } from './colleague-moving.ts';
import { colleagueStarting } from './colleague-starting.ts';
import { needs, roleNeeds } from './role-needs.ts';
import { lunnickHours, torvayHours, watchHours } from './hours.ts';
import { guestFromAPartner } from './guest-from-a-partner.ts';
import { guestHouse } from './guest-house.ts';
import { dataSetAccess, dataSetLonger } from './data-set-access.ts';
import { machineSize, machineStop } from './machine-size.ts';
import { machineLonger } from './machine-longer.ts';
import { keepApart } from '../server/apart/commands.ts';
import { joinAGroup } from './join-a-group.ts';
import { pastTickets } from './past-tickets.ts';
import { ownersOfAGroup } from './owners-of-a-group.ts';
import { anotherOwner } from './another-owner.ts';
import { projectSpace } from './project-space.ts';
import { openSpaces, projectSpaces, spaceTemplates, unusedSpaces } from './project-spaces.ts';
import { spaceStillUsed } from './space-still-used.ts';
import { keepWebSystem } from '../server/systems/commands.ts';
import { differences } from './differences.ts';
import { handedOut, kindNames, stock } from './equipment.ts';
import { levellingSet } from './levelling-set.ts';
import { fieldTablet, tabletLonger } from './field-tablet.ts';
import { machinePark } from './machine-park.ts';
import { everybody, staffNumber, staffRules, thisWeek } from './staff-feed.ts';
import { resetPassword } from './reset-password.ts';
import { repairAboard } from './repair-aboard.ts';
import { robots } from './robots.ts';
import { yard } from './yard.ts';
import { machineImages, machinePolicy, machineSizes, processingMachine } from './processing-machine.ts';
import { demoTickets, change, incident, problem, request, whoCalibrates, whoGetsATicket } from './tickets.ts';
import { demoPassword, groups, people, places, signIns, teams } from './organisation.ts';
import { carryOut, good, inDays } from './carry-out.ts';
import { pastRequests } from './past-requests.ts';
import { underWay } from './under-way.ts';
import { instruments } from './instruments.ts';
import { yardWrites } from './yard-writes.ts';

/** Builds the demo through the directory's own protocol and through the commands that the screens use. */
async function load(): Promise<void> {
  // Its items are published as they are loaded, whatever is wanted of those that come later.
  useSettings({ ...process.env, SECOND_DESIGNER: 'off' });
  const staff = people();
  await fillDirectory(staff);
  await calendarsFilled(staff.map((s) => mailAddress(s.key)));
  await syncDirectory();
  const groupRows = await db().select({ id: accessGroup.id, name: accessGroup.name }).from(accessGroup);
  const groupId = (name: string) => groupRows.find((g) => g.name === name)!.id;
  const rows = await db().select({ id: person.id, userName: person.userName, name: person.name, email: person.email }).from(person);
  const byKey = new Map(staff.map((s) => [s.key, rows.find((r) => r.userName === userName(s.key))!]));
  const id = (key: string) => byKey.get(key)!.id;

  const placeIds = new Map<string, string>();
  for (const p of places) {
    const made = good(
      await addLocation('host', {
        name: p.name,
        kind: p.kind,
        ...('parent' in p && { parentId: placeIds.get(p.parent)! }),
        ...('zone' in p && { zone: p.zone }),
      }),
    );
    placeIds.set(p.name, made.id);
  }
  good(
    await setPersonFacts(
      'host',
      staff.map((s) => ({
        id: id(s.key),
        locationId: placeIds.get(s.place)!,
        ...(s.away && { awayUntil: inDays(s.away.days), delegateId: id(s.away.delegate) }),
        ...(s.lastDayIn && { lastDay: inDays(s.lastDayIn) }),
      })),
    ),
  );
  const teamIds = new Map<string, string>();
  for (const t of teams) {
    const added = good(await addTeam('host', { name: t.name, locationId: placeIds.get(t.place)!, members: t.members.map(id) }));
    teamIds.set(t.name, added.id);
  }
  for (const s of signIns) {
    good(await setPassword('host', { personId: id(s.key), password: demoPassword }));
    for (const role of s.roles) good(await grantRole('host', { personId: id(s.key), role, granted: true }));
  }

  const viewer = (key: string, roles: Viewer['roles'] = []): Viewer => ({
    id: id(key),
    name: byKey.get(key)!.name,
    email: byKey.get(key)!.email,
    zone: 'Atlantic/Faroe',
    roles,
  });
  const designer = viewer('designer', ['designer']);
  const keepHours = async (definition: ServiceHours, to: { teams?: string[]; places?: string[]; everywhere?: boolean }) => {
    const begun = good(await createHours(designer, { name: definition.name }));
    good(await changeHours(designer, { id: begun.id, version: 1, definition }));
    const places = (to.places ?? []).map((p) => placeIds.get(p)!);
    good(await giveHours(designer, { id: begun.id, teams: to.teams ?? [], places, everywhere: to.everywhere === true }));
  };
  await keepHours(torvayHours, { places: ['Torvay'], everywhere: true });
  await keepHours(lunnickHours, { places: ['Lunnick Station'] });
  await keepHours(watchHours, { places: ['Anseli', 'Kittiwake'] });
  for (const [path, picture] of Object.entries(categoryPictures)) good(await pictureCategory(designer, { path, picture }));
  const kindIds = new Map<string, string>();
  for (const definition of [incident, request, change(id('approver')), problem]) {
    const begun = good(await createKind(designer, { name: definition.name }));
    good(await changeKind(designer, { id: begun.id, version: 1, definition }));
    kindIds.set(definition.name, begun.id);
  }
  const routing = good(await createRouting(designer, { name: 'Who gets a ticket', team: teamIds.get('Workplace')! }));
  const by = {
    kind: (name: string) => kindIds.get(name)!,
    place: (name: string) => placeIds.get(name)!,
    team: (name: string) => teamIds.get(name)!,
    person: id,
  };
  good(await changeRouting(designer, { id: routing.id, version: 1, definition: whoGetsATicket(by) }));
  const workplace = by.team('Workplace');
  const calibrates = good(await createRouting(designer, { name: 'Who calibrates', team: workplace, for: 'tasks' }));
  good(await changeRouting(designer, { id: calibrates.id, version: 1, definition: whoCalibrates(by.place('Lunnick Station'), workplace) }));
  const [kinds, working] = [await allKinds(), await db().select({ team: teamMember.teamId, id: teamMember.personId }).from(teamMember)];
  await pastTickets({
    kinds: ['Incident', 'Request'].map((name) => ({
      name,
      id: kindIds.get(name)!,
      definition: kinds.find((k) => k.id === kindIds.get(name))!.definition,
    })),
    people: staff.filter((s) => s.key !== 'other-script').map((s) => ({ id: id(s.key), place: placeIds.get(s.place)! })),
    members: new Map(teams.map((t) => [teamIds.get(t.name)!, working.filter((m) => m.team === teamIds.get(t.name)).map((m) => m.id)])),
  });
  const comesIn = { kind: kindIds.get('Incident')!, category: null };
  good(await openWay(designer, { via: 'mail', name: 'desk', ...comesIn, unknown: 'refuse', automatic: 'leave' }));
  good(
    await openWay(designer, { via: 'mail', name: 'charts', kind: kindIds.get('Request')!, category: 'Charts', unknown: 'take', automatic: 'leave' }),
  );
  good(await openWay(designer, { via: 'chat', name: 'ask-the-desk', ...comesIn }));
  const made = good(await createItem(designer, { name: 'Join a group' }));
  const saved = good(await saveDraft(designer, { id: made.id, version: 1, draft: joinAGroup(id('access-lead')) }));
  good(await setSystemOwners('host', { system: 'directory', people: [id('access-lead'), id('administrator')] }));
  const owner = viewer('access-lead');
  good(
    await consentTo(owner, () =>
      publish(designer, { id: made.id, version: saved.version, note: 'First revision: the owners decide, the first reply counts.' }),
    ),
  );
  good(
    await keepApart(designer, {
      one: groupId('chart-signoff'),
      other: groupId('finance-read'),
      why: 'Who signs charts off does not see what they are paid.',
      excepters: [id('access-lead')],
    }),
  );
  await pastRequests(made.id, viewer);
  const team = (name: string) => teamIds.get(name)!;
  const offer = async (definition: ItemDefinition, note: string) => {
    const begun = good(await createItem(designer, { name: definition.name }));
    const kept = good(await saveDraft(designer, { id: begun.id, version: 1, draft: definition }));
    good(await consentTo(owner, () => publish(designer, { id: begun.id, version: kept.version, note })));
    return begun.id;
  };
  const policy = good(await createPolicy(designer, { name: 'Processing machines' }));
  good(
    await changePolicy(designer, {
      id: policy.id,
      version: 1,
      definition: machinePolicy(id('approver')),
      note: 'Two or more processors need the site lead.',
    }),
  );
  const rolesTable = good(await createTable(designer, { name: roleNeeds.name }));
  good(await changeTable(designer, { id: rolesTable.id, version: 1, definition: { ...roleNeeds, owners: { group: groupId('people-office') } } }));
  for (const need of needs)
    good(
      await saveRow(designer, { table: rolesTable.id, cells: { ...need, todo: typedAs(need.todo, 'formatted')!, team: { team: team(need.team) } } }),
    );
  const registers = viewer('administrator', ['administrator']);
  good(await keepUserNames(registers, { version: 0, rule: { form: 'given.family', most: 24, domain: 'skerrin.example' } }));
  const owners = [id('access-lead'), id('administrator')];
  const park = await registered('MACHINES', machinePark, registers, owners);
  const sizes = await tableRead(designer, { ...machineSizes(park), owners: { group: groupId('platform-admins') } });
  const images = await tableRead(designer, { ...machineImages(park), owners: { group: groupId('platform-admins') } });
  const machine = await offer(
    processingMachine({ policy: policy.id, platforms: team('Platforms'), sizes, images, park }),
    'First revision: the policy decides who agrees.',
  );
  await offer(machineSize(policy.id, sizes, park), 'First revision: the same policy, by the size that it is to have.');
  await offer(machineStop(park), 'First revision: whoever has it stops it.');
  await offer(machineLonger(policy.id, id('approver'), sizes, park), 'First revision: the same policy as for the machine.');
  await offer(dataSetAccess(id('access-lead')), 'First revision: the owners decide, for 90 days.');
  await offer(dataSetLonger(id('access-lead')), 'First revision: the same owners decide again.');
  await offer(ownersOfAGroup(id('access-lead')), 'First revision: those who own it agree; it never has no owner.');
  const startingItem = colleagueStarting({ peopleOffice: team('People office'), workplace: team('Workplace') }, rolesTable.id);
  const starting = await offer(startingItem, 'First revision: what each team prepares is in the table that the People office keeps.');
  const leaving = await offer(colleagueLeaving(team('Workplace')), 'First revision: what they carry is handed in, then their account is closed.');
  const moving = await offer(colleagueMoving, 'First revision: both managers know before the directory does.');
  const calibration = await offer(calibrationBooking(team('Workplace'), calibrates.id), 'First revision: each instrument in a task of its own.');
  const spaces = await registered('SPACES', projectSpaces, registers, owners);
  const templates = await tableRead(designer, spaceTemplates(spaces));
  const open = await tableRead(designer, openSpaces(spaces));
  const space = await offer(
    projectSpace({ access: team('Directory and access'), signoff: groupId('chart-signoff'), spaces, templates }),
    'First revision: a name of its own, two owners who agree to it.',
  );
  await offer(anotherOwner(spaces), 'First revision: who is to own it agrees.');
  const stillUsed = await offer(spaceStillUsed(spaces, open, team('Directory and access')), 'First revision: its first owner is asked.');
  good(
    await changeTable(designer, { id: open, version: 2, definition: { ...openSpaces(spaces), asks: unusedSpaces(stillUsed, id('access-lead')) } }),
  );
  const keeper = viewer('technician', ['teamMember']);
  // It came three weeks ago.
  shiftClock(-21 * 86_400_000);
  await stock(designer, keeper, {
    stores: placeIds.get('Stores')!,
    shed: placeIds.get('Boat Shed')!,
    storesTeam: team('Stores'),
    shedTeam: team('Workplace'),
  });
  shiftClock(0);
  good(await setSystemOwners('host', { system: 'equipment', people: owners }));
  const tablet = await offer(fieldTablet(kindNames), 'First revision: the manager agrees, the nearest stores hand it out.');
  await offer(levellingSet(kindNames.levelling), 'First revision: the manager agrees, for two weeks at most.');
  await offer(tabletLonger, 'First revision: the manager agrees again.');
  const desk = await registered('ROBOTS', robots, registers, owners);
  await offer(resetPassword(desk), 'First revision: one’s own password only, told by a sealed note.');
  const ternsound = await registered('YARD', yard, registers, owners);
  const repair = await offer(
    repairAboard({ yard: ternsound, workplace: team('Workplace'), lead: id('services-head') }),
    'First revision: an item in the tracker of the yard, followed to its end.',
  );
  const house = await registered('GUESTS', guestHouse, registers, owners);
  await offer(guestFromAPartner(house), 'First revision: let in only once they have accepted.');
  const correction = await offer(chartCorrection(team('Charts helpdesk')), 'First revision: whoever sails by our charts can tell us.');
  good(await makePublicLink(designer, correction));
  await tickets(by, viewer);
  await underWay({ machine, starting, leaving, calibration, tablet, repair, space, sizes, templates }, viewer, {
    mentor: id('technician'),
    leaves: id('other-script'),
    owners: [id('owner'), id('hydro-head')],
  });
  await yardWrites('Have it turned with the brake off and tell us what the drum does. Who is aboard from the 9th on?');
  await instruments(viewer('approver'), groupId('lunnick-instruments'), placeIds.get('Lunnick Station')!);
  const namedSo = (name: string) => viewer([...byKey].find(([, p]) => p.name === name)![0]);
  await handedOut(keeper, namedSo, () => carryOut(true));

  await staffFeed(
    staffRules(
      {
        starting: { id: starting, definition: startingItem },
        moving: { id: moving, definition: colleagueMoving },
        leaving: { id: leaving, definition: colleagueLeaving(team('Workplace')) },
      },
      id('services-head'),
    ),
    staff,
    designer,
  );
  await differences(registers, park, { comes: id('long-two'), goes: id('leaver'), owner: id('charts-second') });

  // From now on machines and robots take their time.
  await takes('MACHINES', 6000);
  await takes('ROBOTS', 4000);

  console.log(`Sign in as (password for all: ${demoPassword})`);
  for (const s of signIns) console.log(`  ${s.part.padEnd(14)} ${userName(s.key).padEnd(18)} ${byKey.get(s.key)!.name}`);
}

/** The staff office tells who works here, which is known, and then what happened this week: what its rules name is asked for. */
async function staffFeed(rules: ReturnType<typeof staffRules>, staff: ReturnType<typeof people>, designer: Viewer): Promise<void> {
  const address = process.env['STAFF_URL'];
  if (!address) throw new Error('Set STAFF_URL.');
  const tell = (lines: ReturnType<typeof everybody>) =>
    fetch(new URL('/_change', address), { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(lines) });
  for (const [kind, rule] of rules) good(await keepStaffRule(designer, { kind, version: 0, rule }));
  for (const lines of [everybody(staff), thisWeek(staff)]) {
    await tell(lines);
    await readStaff();
  }
  const open = await db().select({ id: staffHappening.id }).from(staffHappening).where(eq(staffHappening.state, 'open'));
  for (const { id } of open) await follow(id);
}

/** Registers a stand-in with what it needs to be called and to call back; while the demo is loaded it is done with everything at once. */
/** A table that is read from what a system lists, with what that says now. */
async function tableRead(designer: Viewer, definition: TableDefinition): Promise<string> {
  const { id } = good(await createTable(designer, { name: definition.name }));
  good(await changeTable(designer, { id, version: 1, definition }));
  await readTable(id);
  return id;
}

async function registered(
  which: 'MACHINES' | 'ROBOTS' | 'GUESTS' | 'SPACES' | 'YARD',
  definition: (address: string) => WebSystem,
  administrator: Viewer,
  owners: string[],
): Promise<string> {
  const [address, secret, answerKey] = [process.env[`${which}_URL`], process.env[`${which}_TOKEN`], process.env[`${which}_ANSWER_KEY`]];
  if (!address || !secret) throw new Error(`Set ${which}_URL and ${which}_TOKEN.`);
  if (which === 'MACHINES' || which === 'ROBOTS') await takes(which, 0);
  const { id } = good(await keepWebSystem(administrator, { definition: definition(address), secret, answerKey }));
  good(await setSystemOwners('host', { system: id, people: owners }));
  return id;
}
/** How long a stand-in takes for what it is asked to do, in milliseconds. */
const takes = (which: 'MACHINES' | 'ROBOTS', ms: number) =>
  fetch(new URL(which === 'MACHINES' ? '/_build' : '/_work', process.env[`${which}_URL`]), {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ ms, ends: 'well' }),
  });

/** The pictures of the demo’s categories. */
const categoryPictures = { Access: 'key', Charts: 'map', Instruments: 'gauge', Machines: 'server', People: 'users' };

const userName = (key: string) => key.replace(/-/g, '.');
const mailAddress = (key: string) => `${userName(key)}@skerrin.example`;

async function fillDirectory(staff: ReturnType<typeof people>): Promise<void> {
  const scim = new Map<string, string>();
  // Managers first, so that each reference names somebody who is there.
  const left = [...staff];
  while (left.length) {
    const ready = left.filter((s) => !s.manager || scim.has(s.manager));
    if (ready.length === 0) throw new Error('The managers of the demo go round in a circle.');
    for (const s of ready) {
      const made = await directoryClient.create('Users', {
        schemas: ['urn:ietf:params:scim:schemas:core:2.0:User', enterprise],
        userName: userName(s.key),
        displayName: s.name,
        emails: [{ value: mailAddress(s.key), type: 'work', primary: true }],
        title: s.jobRole,
        active: true,
        [enterprise]: {
          employeeNumber: staffNumber(staff, s.key),
          department: s.department,
          ...(s.manager && { manager: { value: scim.get(s.manager)! } }),
        },
      });
      scim.set(s.key, made.id);
      left.splice(left.indexOf(s), 1);
    }
  }
  for (const g of groups(staff)) {
    await directoryClient.create('Groups', {
      schemas: ['urn:ietf:params:scim:schemas:core:2.0:Group', ownership],
      displayName: g.name,
      members: g.members.map((m) => ({ value: scim.get(m)! })),
      [ownership]: { owners: g.owners.map((o) => ({ value: scim.get(o)! })), purpose: g.purpose },
    });
  }
}

/** Tickets as they came in and were worked on, through the commands of the screens. */
async function tickets(
  by: { kind: (name: string) => string; place: (name: string) => string },
  viewer: (key: string, roles?: Viewer['roles']) => Viewer,
): Promise<void> {
  const roles = (key: string) => [...(signIns.find((s) => s.key === key)?.roles ?? [])];
  // In working time, so that the desk looks as on a working day whenever the demo is loaded.
  const desk = compileHours(torvayHours);
  const began = new Date().toISOString();
  const itIs = (iso: string) => shiftClock(Date.parse(iso) - Date.now());
  for (const [i, t] of demoTickets.entries()) {
    const at = takeWorking(began, t.hours * 60, desk);
    itIs(at);
    const opened = good(
      await reportTicket(viewer(t.openedBy ?? t.who, t.openedBy === undefined ? undefined : roles(t.openedBy)), {
        forWhom: t.openedBy && viewer(t.who).id,
        kindId: by.kind(t.kind ?? 'Incident'),
        subject: t.subject,
        words: t.words,
        category: t.category,
        placeId: t.place && by.place(t.place),
        impact: t.impact,
        urgency: t.urgency,
        answers: {},
        idempotencyKey: `demo-ticket-${i}`,
      }),
    );
    for (const [n, act] of (t.then ?? []).entries()) {
      itIs(addWorking(at, act.after * 60, desk));
      const who = viewer(act.by, roles(act.by));
      if (act.take) good(await giveTicket(who, { number: opened.number, holder: who.id }));
      if (act.words === undefined) continue;
      const asRequester = act.by === t.who;
      const status = (await readTicket(db(), opened.number))!.state.status;
      good(
        await writeOnTicket(who, {
          number: opened.number,
          words: act.words,
          inside: act.inside === true,
          once: `demo-${i}-${n}`,
          asRequester,
          move: act.to === undefined ? undefined : { to: act.to, from: status },
        }),
      );
    }
    await carryOut();
  }
  shiftClock(0);
}

await load();
await disconnect();
