import { describe, expect, it } from 'vitest';
import { ownActionSpecs } from '../server/systems/index.ts';
import { typedAs } from '../core/values/index.ts';
import { checkTable, fieldForRow, readRow } from '../core/tables/index.ts';
import { checkPolicy } from '../core/policies/index.ts';
import { calibrationBooking } from './calibration-booking.ts';
import { chartCorrection } from './chart-correction.ts';
import { colleagueLeaving } from './colleague-leaving.ts';
import { colleagueMoving } from './colleague-moving.ts';
import { colleagueStarting } from './colleague-starting.ts';
import { needs, roleNeeds } from './role-needs.ts';
import { whoCalibrates } from './tickets.ts';
import { guestFromAPartner } from './guest-from-a-partner.ts';
import { guestHouse } from './guest-house.ts';
import { kindNames } from './equipment.ts';
import { levellingSet } from './levelling-set.ts';
import { fieldTablet, tabletLonger } from './field-tablet.ts';
import { dataSetAccess, dataSetLonger } from './data-set-access.ts';
import { machineSize, machineStop } from './machine-size.ts';
import { machineLonger } from './machine-longer.ts';
import { joinAGroup } from './join-a-group.ts';
import { ownersOfAGroup } from './owners-of-a-group.ts';
import { anotherOwner } from './another-owner.ts';
import { projectSpace } from './project-space.ts';
import { openSpaces, projectSpaces, spaceTemplates, unusedSpaces } from './project-spaces.ts';
import { spaceStillUsed } from './space-still-used.ts';
import { webActionSpecs, WebSystem } from '../core/systems/index.ts';
import { machinePark } from './machine-park.ts';
import { machineImages, machinePolicy, machineSizes, processingMachine } from './processing-machine.ts';
import { resetPassword } from './reset-password.ts';
import { repairAboard } from './repair-aboard.ts';
import { robots } from './robots.ts';
import { yard } from './yard.ts';
import { groups, people, places, signIns, size, teams } from './organisation.ts';
import { seeded } from './seeded.ts';
import { checkItem } from '../core/checks/index.ts';

describe('the demo organisation', () => {
  const staff = people();
  const keys = new Set(staff.map((p) => p.key));

  it('is the same every time', () => {
    expect(people()).toEqual(staff);
    expect(groups(people())).toEqual(groups(staff));
    const [a, b] = [seeded(5), seeded(5)];
    expect(Array.from({ length: 50 }, () => a.int(1000))).toEqual(Array.from({ length: 50 }, () => b.int(1000)));
  });

  it('has 180 people of different names, each at a place that exists, with managers up to the director', () => {
    expect(staff).toHaveLength(size);
    expect(keys.size).toBe(size);
    expect(new Set(staff.map((p) => p.name)).size).toBe(size);
    const known = new Set<string>(places.map((p) => p.name));
    expect(staff.filter((p) => !known.has(p.place))).toEqual([]);
    const byKey = new Map(staff.map((p) => [p.key, p]));
    for (const p of staff) {
      let up = p;
      for (let i = 0; up.manager && i < 10; i++) up = byKey.get(up.manager)!;
      expect(up.manager, `${p.name} has a chain without end`).toBeUndefined();
    }
    expect(staff.filter((p) => !p.manager).map((p) => p.jobRole)).toEqual(['director', 'visiting scholar', 'archive volunteer']);
  });

  it('has the awkward ones: away with a delegate, leaving, long names, another script', () => {
    expect(staff.filter((p) => p.away).every((p) => keys.has(p.away!.delegate))).toBe(true);
    expect(staff.some((p) => p.lastDayIn)).toBe(true);
    expect(staff.filter((p) => p.name.length > 55)).toHaveLength(2);
    expect(staff.some((p) => /\p{Script=Greek}/u.test(p.name))).toBe(true);
  });

  it('has groups with owners and one without, and teams and sign-ins of people who exist', () => {
    const all = groups(staff);
    expect(all.filter((g) => g.owners.length === 0).map((g) => g.name)).toEqual(['old-soundings']);
    for (const key of [...all.flatMap((g) => [...g.owners, ...g.members]), ...teams.flatMap((t) => t.members), ...signIns.map((s) => s.key)])
      expect(keys.has(key)).toBe(true);
  });

  it('ships items in which the check finds nothing', () => {
    const lead = '11111111-1111-4111-8111-111111111111';
    const catalogue = {
      actions: [
        ...ownActionSpecs,
        ...webActionSpecs('park', machinePark('http://127.0.0.1:1/park')),
        ...webActionSpecs('desk', robots('http://127.0.0.1:1/desk')),
        ...webActionSpecs('house', guestHouse('http://127.0.0.1:1/house')),
        ...webActionSpecs('yard', yard('http://127.0.0.1:1/tracker')),
        ...webActionSpecs('spaces', projectSpaces('http://127.0.0.1:1/house')),
      ],
      stated: { 'group signoff': 'Chart sign-off' },
      people: { [lead]: { name: 'Lead', active: true } },
      teams: Object.fromEntries(['a', 'b', 'c'].map((id) => [id, { name: id, members: 1 }])),
      policies: { p: machinePolicy(lead) },
      routing: { r: whoCalibrates('lunnick', 'a') },
      tables: { t: machineSizes('park'), i: machineImages('park'), n: roleNeeds, s: spaceTemplates('spaces'), o: openSpaces('spaces') },
    };
    const items = [
      joinAGroup(lead),
      ownersOfAGroup(lead),
      colleagueStarting({ peopleOffice: 'a', workplace: 'c' }, 'n'),
      colleagueLeaving('a'),
      colleagueMoving,
      processingMachine({ policy: 'p', platforms: 'a', sizes: 't', images: 'i', park: 'park' }),
      calibrationBooking('a', 'r'),
      projectSpace({ access: 'a', signoff: 'signoff', spaces: 'spaces', templates: 's' }),
      anotherOwner('spaces'),
      spaceStillUsed('spaces', 'o', 'a'),
      fieldTablet(kindNames),
      tabletLonger,
      levellingSet(kindNames.levelling),
      dataSetAccess(lead),
      dataSetLonger(lead),
      machineLonger('p', lead, 't', 'park'),
      machineSize('p', 't', 'park'),
      machineStop('park'),
      chartCorrection('c'),
      repairAboard({ yard: 'yard', workplace: 'a', lead }),
      guestFromAPartner('house'),
    ];
    for (const item of items) expect(checkItem(item.form, item.plan, catalogue, item.promise)).toEqual([]);
    const guest = guestFromAPartner('house');
    const hasty = JSON.parse(JSON.stringify(guest.plan).replaceAll('"pause":{"length":"PT5M"', '"pause":{"length":"PT4M"')) as typeof guest.plan;
    expect(checkItem(guest.form, hasty, catalogue, guest.promise).map((f) => f.sentence)).toEqual([
      '“Find out whether they have accepted” is done again by “Look whether they have accepted” sooner than Guest house wants to be asked (find out whether a guest has accepted: every 5 minutes at most).',
    ]);
    const unowned = { ...catalogue, actions: catalogue.actions.map((a) => ({ ...a, unowned: a.system === 'Directory' })) };
    const join = joinAGroup(lead);
    expect(checkItem(join.form, join.plan, unowned, join.promise).map((f) => f.code)).toEqual(['nobody-consents']);
    // Whoever is signed in may have their own password set anew: nobody has to agree to that.
    const reset = resetPassword('desk');
    expect(checkItem(reset.form, reset.plan, catalogue, reset.promise).map((f) => [f.code, f.severity])).toEqual([['ungated', 'warns']]);
    expect(checkPolicy(machinePolicy(lead))).toEqual([]);
    const teamNames = new Set<string>(teams.map((t) => t.name));
    for (const need of needs) {
      expect(teamNames.has(need.team)).toBe(true);
      expect(readRow(roleNeeds, { ...need, todo: typedAs(need.todo, 'formatted'), team: { team: 'a' } })).toMatchObject({ ok: true });
    }
    for (const table of [
      roleNeeds,
      machineSizes('park'),
      machineImages('park'),
      spaceTemplates('spaces'),
      { ...openSpaces('spaces'), asks: unusedSpaces('i', lead) },
    ])
      expect(checkTable(table)).toEqual([]);
    expect(fieldForRow(spaceStillUsed('spaces', 'o', 'a').form, 'o')).toBe('space');
  });

  it('reads its tables from lists that the systems have, column by column', () => {
    const [park, spaces] = [machinePark('http://127.0.0.1:1/park'), projectSpaces('http://127.0.0.1:1/house')];
    for (const system of [park, spaces]) expect(WebSystem.safeParse(system).error).toBeUndefined();
    for (const [table, system] of [
      [machineSizes('park'), park],
      [machineImages('park'), park],
      [spaceTemplates('spaces'), spaces],
      [openSpaces('spaces'), spaces],
    ] as const) {
      const list = system.lists!.find((l) => l.id === table.from!.list)!;
      expect(list.columns.map((c) => c.name)).toEqual(expect.arrayContaining(table.from!.columns.map((c) => c.of)));
    }
  });
});
