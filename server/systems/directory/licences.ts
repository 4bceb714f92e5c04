import type { Value } from '../../../core/values/index.ts';
import type { Action } from '../action.ts';
import { PermanentError } from '../errors.ts';
import type { ScimUser } from './client.ts';
import { alreadyOutput, changed, readPerson, text, who } from './person.ts';

const licence = { name: 'licence', label: 'Licence', type: 'text' as const, required: true };

/** Licenses somebody for something (an entitlement, RFC 7643, section 4.1.2). */
export const addLicence: Action = {
  spec: {
    id: 'directory.addLicence',
    system: 'Directory',
    label: 'Give a licence',
    inputs: [who, licence],
    outputs: [alreadyOutput('Had it already')],
    undoneBy: 'directory.removeLicence',
    unchangedWhen: 'already',
    grants: true,
    gives: { kind: 'licence', person: 'person', what: 'licence' },
  },
  run: async (values, key, _, changing) => {
    const [user, value] = [await readPerson(values), licenceIn(values)];
    const has = hasLicence(user, value);
    await changed(user, has ? [] : [{ op: 'add', path: 'entitlements', value: [{ value }] }], key, changing);
    return { is: 'done', outputs: { already: has && !(await changing.begun()) } };
  },
};

/** Takes a licence away. */
const removeLicence: Action = {
  spec: {
    id: 'directory.removeLicence',
    system: 'Directory',
    label: 'Take a licence away',
    inputs: [who, licence],
    outputs: [{ name: 'was', label: 'Had it', type: 'boolean', always: true }],
    undoneBy: 'directory.addLicence',
  },
  run: async (values, key, _, changing) => {
    const [user, value] = [await readPerson(values), licenceIn(values)];
    const has = hasLicence(user, value);
    await changed(user, has ? [{ op: 'remove', path: `entitlements[value eq ${JSON.stringify(value)}]` }] : [], key, changing);
    return { is: 'done', outputs: { was: has || (await changing.begun()) } };
  },
};

/** What the directory can be asked to do about licences. */
export const licenceActions: Action[] = [addLicence, removeLicence];

function licenceIn(values: Record<string, Value>): string {
  const value = text(values['licence']);
  if (value === undefined) throw new PermanentError('No licence was given.');
  return value;
}

const hasLicence = (user: ScimUser, licence: string): boolean =>
  (user.entitlements ?? []).some((e) => e.value.toLowerCase() === licence.toLowerCase());
