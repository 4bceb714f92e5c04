import { addLocation, addTeam } from '../people/commands.ts';
import { setSystemOwners } from '../consents/commands.ts';
import { catalogue, machines } from '../../core/testing/samples.ts';
import type { Viewer } from '../auth/viewer.ts';
import { changeRouting, createRouting } from '../routing/commands.ts';
import { changeTable, createTable, saveRow } from '../tables/commands.ts';
import { viewerFor } from './parties.ts';
import { syncDirectory } from '../people/sync-directory.ts';
import { db } from '../db/database.ts';
import { accessGroup, person } from '../db/schema/index.ts';
import type { Result } from '../refusal.ts';
import { directoryClient, enterprise, ownership } from '../systems/directory/client.ts';

const staff = [
  ['boss', ''],
  ['ina', 'boss'],
  ['olav', 'boss'],
  ['runa', 'boss'],
  ['tor', 'runa'],
  ['dan', 'boss'],
] as const;
const owned = [
  ['tide-models', ['ina', 'olav']],
  ['orphan-files', []],
] as const;

function good<T extends object>(result: Result<T>): T {
  if (!result.ok) throw new Error(result.sentence);
  return result;
}

/** The reference table of the samples, kept by one person. */
async function makeMachines(designer: Viewer, keeper: string): Promise<string> {
  const { name, columns } = catalogue.tables!['machines']!;
  const { id } = good(await createTable(designer, { name }));
  good(await changeTable(designer, { id, version: 1, definition: { name, purpose: 'For tests', columns, key: ['size'] } }));
  for (const cells of Object.values(machines)) good(await saveRow(designer, { table: id, cells: { ...cells, keeper: { person: keeper } } }));
  return id;
}

/** The routing table of the samples: everything goes to the team, what is for a project to one person. */
async function makeRouting(designer: Viewer, team: string, who: string): Promise<string> {
  const { name } = catalogue.routing!['whoGets']!;
  const { id } = good(await createRouting(designer, { name, team, for: 'tasks' }));
  const definition = {
    name,
    chooses: 'nearest',
    columns: [
      { id: 'place', fact: 'place' },
      { id: 'work', fact: 'answer', field: 'kind' },
    ],
    rows: [{ id: 'project', cells: { work: { is: 'oneOf', values: ['project'] } }, answer: { person: who } }],
    fallback: { team, how: 'inTurn' },
  };
  good(await changeRouting(designer, { id, version: 1, definition }));
  return id;
}

/** A small invented organisation, made through the directory's own protocol and read from there. Ids by name. `moreGroups` more are owned by two people. */
export async function makeOrganisation(moreGroups = 0) {
  const scim: Record<string, string> = {};
  for (const [key, manager] of staff) {
    const made = await directoryClient.create('Users', {
      userName: key,
      displayName: `${key[0]!.toUpperCase()}${key.slice(1)} Strand`,
      emails: [{ value: `${key}@skerrin.example`, primary: true }],
      active: true,
      [enterprise]: { department: 'Charts', ...(manager && { manager: { value: scim[manager]! } }) },
    });
    scim[key] = made.id;
  }
  const scimGroups: Record<string, string> = {};
  const more = Array.from({ length: moreGroups }, (_, i) => [`survey-${i + 1}`, ['ina', 'runa']] as const);
  for (const [group, owners] of [...owned, ...more]) {
    const made = await directoryClient.create('Groups', {
      displayName: group,
      members: [],
      [ownership]: { owners: owners.map((o) => ({ value: scim[o]! })), purpose: 'Test' },
    });
    scimGroups[group] = made.id;
  }
  await syncDirectory();
  const people = Object.fromEntries((await db().select({ id: person.id, name: person.userName }).from(person)).map((p) => [p.name, p.id]));
  const groups = Object.fromEntries((await db().select({ id: accessGroup.id, name: accessGroup.name }).from(accessGroup)).map((g) => [g.name, g.id]));
  const site = good(await addLocation('host', { name: 'Quay House', kind: 'site' }));
  const team = good(await addTeam('host', { name: 'Directory and access', locationId: site.id, members: [people['runa']!, people['dan']!] }));
  good(await setSystemOwners('host', { system: 'directory', people: [people['boss']!] }));
  const machines = await makeMachines(viewerFor(people['dan']!, 'designer'), people['ina']!);
  const routing = await makeRouting(viewerFor(people['dan']!, 'designer'), team.id, people['ina']!);
  return { scim, scimGroups, people, groups, teamId: team.id, machines, routing };
}
