import { and, eq } from 'drizzle-orm';
import { isGroup, isPerson, type Value } from '../../../core/values/index.ts';
import { db } from '../../db/database.ts';
import { accessGroup, groupPerson, person } from '../../db/schema/index.ts';
import { isId } from '../../ids.ts';
import type { Action } from '../action.ts';
import { PermanentError } from '../errors.ts';
import { directoryClient } from './client.ts';

/** What is said of a group and of whom it is about. */
export const groupInputs = [
  { name: 'group', label: 'Group', type: 'group' as const, required: true },
  { name: 'person', label: 'Person', type: 'person' as const, required: true },
];

/** A last day, after which it is taken back again. */
const until = { name: 'until', label: 'Until', type: 'date' as const };

/** Puts a person into a group, for good or until a day. Reads the group first, so that a repeat finds them there and changes nothing. */
export const addMember: Action = {
  spec: {
    id: 'directory.addMember',
    system: 'Directory',
    label: 'Add a person to a group',
    inputs: [...groupInputs, { ...until, required: false }],
    outputs: [{ name: 'already', label: 'Was already a member', type: 'boolean', always: true }],
    undoneBy: 'directory.removeMember',
    unchangedWhen: 'already',
    grants: true,
    gives: { kind: 'group', person: 'person', what: 'group', until: 'until' },
  },
  run: async (values, key, _, changing) => {
    const { group, who } = await resolve(values);
    const read = await directoryClient.group(group.directoryId);
    const there = read.members.some((m) => m.value === who.directoryId);
    if (!there) {
      await changing.begin();
      await directoryClient.patchGroup(
        group.directoryId,
        [{ op: 'add', path: 'members', value: [{ value: who.directoryId }] }],
        read.meta?.version,
        key,
      );
    }
    await db().insert(groupPerson).values({ groupId: group.id, personId: who.id, as: 'member' }).onConflictDoNothing();
    return { is: 'done', outputs: { already: there && !(await changing.begun()) } };
  },
};

/** Takes a person out of a group. */
export const removeMember: Action = {
  spec: {
    id: 'directory.removeMember',
    system: 'Directory',
    label: 'Take a person out of a group',
    inputs: groupInputs,
    outputs: [{ name: 'was', label: 'Was a member', type: 'boolean', always: true }],
    undoneBy: 'directory.addMember',
  },
  run: async (values, key, _, changing) => {
    const { group, who } = await resolve(values);
    const read = await directoryClient.group(group.directoryId);
    const there = read.members.some((m) => m.value === who.directoryId);
    if (there) {
      await changing.begin();
      await directoryClient.patchGroup(
        group.directoryId,
        [{ op: 'remove', path: `members[value eq "${who.directoryId}"]` }],
        read.meta?.version,
        key,
      );
    }
    await db()
      .delete(groupPerson)
      .where(and(eq(groupPerson.groupId, group.id), eq(groupPerson.personId, who.id), eq(groupPerson.as, 'member')));
    return { is: 'done', outputs: { was: there || (await changing.begun()) } };
  },
};

/** Leaves a person in a group until a later day. The directory knows of no days: it is looked at that they are in it still. */
export const keepMember: Action = {
  spec: {
    id: 'directory.keepMember',
    system: 'Directory',
    label: 'Leave a person in a group until another day',
    inputs: [...groupInputs.map((i) => ({ ...i, known: true })), { ...until, required: true }],
    outputs: [],
    about: { of: 'directory.addMember', until: 'until' },
    grants: true,
  },
  run: async (values) => {
    const { group, who } = await resolve(values);
    const read = await directoryClient.group(group.directoryId);
    if (!read.members.some((m) => m.value === who.directoryId)) throw new PermanentError('They are not in this group any more: ask for it anew.');
    return { is: 'done', outputs: {} };
  },
};

/** The group and the person that are named, as the directory knows them. Throws PermanentError where one is not there. */
export async function resolve(values: Record<string, Value>) {
  const { group: g, person: p } = values;
  if (!isGroup(g)) throw new PermanentError('No group was given.');
  if (!isPerson(p)) throw new PermanentError('No person was given.');
  if (!isId(g.group) || !isId(p.person)) throw new PermanentError('The group or the person is not known here.');
  const [group] = await db()
    .select({ id: accessGroup.id, directoryId: accessGroup.directoryId, gone: accessGroup.gone })
    .from(accessGroup)
    .where(eq(accessGroup.id, g.group));
  const [who] = await db().select({ id: person.id, directoryId: person.directoryId }).from(person).where(eq(person.id, p.person));
  if (!group || group.gone) throw new PermanentError('The group is not in the directory any more.');
  if (!who) throw new PermanentError('The person is not in the directory.');
  return { group, who };
}
