import { eq } from 'drizzle-orm';
import { db } from '../server/db/database.ts';
import { accessGroup, person } from '../server/db/schema/index.ts';
import type { Viewer } from '../server/auth/viewer.ts';
import { leaveAll } from '../server/differences/commands.ts';
import { readSystem, wantReading } from '../server/differences/reading.ts';
import { directoryClient } from '../server/systems/directory/client.ts';
import { directoryId } from '../server/systems/directory/id.ts';

/**
 * What was in the directory before anybody asked here is left as it is; then somebody is put into a group and taken out of another by
 * hand, and a machine is made past us: the Ledger has something to tell.
 */
export async function differences(administrator: Viewer, park: string, who: { comes: string; goes: string; owner: string }): Promise<void> {
  const read = async (system: string) => {
    await db().transaction((tx) => wantReading(tx, system, null));
    await readSystem(system);
  };
  await read(directoryId);
  const left = await leaveAll(administrator, {
    system: directoryId,
    why: 'It was so before Nessmoor was here.',
    foundBy: new Date().toISOString(),
  });
  if (!left.ok) throw new Error(`The demo cannot be loaded: ${left.sentence}`);
  const groupOf = async (name: string) => {
    const [row] = await db().select({ id: accessGroup.directoryId }).from(accessGroup).where(eq(accessGroup.name, name));
    return row!.id;
  };
  const inDirectory = async (id: string) => {
    const [row] = await db().select({ id: person.directoryId }).from(person).where(eq(person.id, id));
    return row!.id;
  };
  const [comes, goes] = [await inDirectory(who.comes), await inDirectory(who.goes)];
  const value = [{ value: comes }];
  await directoryClient.patchGroup(await groupOf('finance-read'), [{ op: 'add', path: 'members', value }], undefined, 'demo-by-hand-1');
  const path = `members[value eq "${goes}"]`;
  await directoryClient.patchGroup(await groupOf('survey-raw'), [{ op: 'remove', path }], undefined, 'demo-by-hand-2');
  const made = await fetch(`${process.env['MACHINES_URL']}/machines`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', authorization: `Bearer ${process.env['MACHINES_TOKEN']}` },
    body: JSON.stringify({ size: 'Small', region: 'hall', days: 60, owner: who.owner, purpose: 'Trying the new gridding.' }),
  });
  const { id } = (await made.json()) as { id: string };
  await fetch(new URL(`/_hurry/${id}`, process.env['MACHINES_URL']), { method: 'POST' });
  await read(directoryId);
  await read(park);
}
