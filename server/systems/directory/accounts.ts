import { and, eq, isNull, sql } from 'drizzle-orm';
import { addressFor, mostTried, userNames, type FullName } from '../../../core/people/index.ts';
import { isPerson, type Value } from '../../../core/values/index.ts';
import { db } from '../../db/database.ts';
import { accountClaim, holding } from '../../db/schema/index.ts';
import { takeInNow } from '../../people/take-in.ts';
import type { Action, Reply } from '../action.ts';
import { PermanentError, TransientError } from '../errors.ts';
import { directoryClient, enterprise, type ScimUser } from './client.ts';
import { alreadyOutput, changed, directoryIdOf, readPerson, text, who } from './person.ts';
import { userNamesNow } from './user-name-rule.ts';

const password = { name: 'password', label: 'First password', type: 'text' as const, required: true, made: true };
const names = [
  { name: 'given', label: 'Given names', type: 'text' as const, required: true },
  { name: 'family', label: 'Family name', type: 'text' as const, required: true },
];
const place = [
  { name: 'department', label: 'Department', type: 'text' as const, required: false },
  { name: 'jobRole', label: 'Job role', type: 'text' as const, required: false },
  { name: 'manager', label: 'Manager', type: 'person' as const, required: false },
];
const nameOutput = { name: 'userName', label: 'User name', type: 'text' as const, always: true };

/**
 * Makes somebody an account, or takes up the one they have: never a second for one person. They are known by their staff number
 * (`employeeNumber`); without one only by this very call, which the account keeps (`externalId`), so that a repeat finds what it made.
 * Somebody who comes back has their old account again, with a new first password. Who has one that is open keeps their password.
 */
export const createAccount: Action = {
  spec: {
    id: 'directory.createAccount',
    system: 'Directory',
    label: 'Make an account',
    inputs: [...names, { name: 'staffNumber', label: 'Staff number', type: 'text', required: false }, ...place, password],
    outputs: [
      { name: 'person', label: 'Person', type: 'person', always: true },
      nameOutput,
      { name: 'address', label: 'Mail address', type: 'address', always: false },
      alreadyOutput('Had an account'),
    ],
    undoneBy: 'directory.disableAccount',
    anewBy: 'directory.newPassword',
    unchangedWhen: 'already',
    grants: true,
    gives: { kind: 'account', person: 'person', what: 'userName', byOthers: true },
  },
  run: async (values, key) => {
    const staffNumber = text(values['staffNumber']);
    if (staffNumber === undefined) return accountOf(values, key, undefined);
    await claim(staffNumber, key);
    const reply = await accountOf(values, key, staffNumber);
    await db()
      .delete(accountClaim)
      .where(and(eq(accountClaim.staffNumber, staffNumber), eq(accountClaim.key, key)));
    return reply;
  },
};

/** Two requests for one person are seen to one after the other: the directory itself does not mind a staff number that comes twice. */
async function claim(staffNumber: string, key: string): Promise<void> {
  const { rows } = await db().execute(sql`
    insert into account_claim as c (staff_number, key) values (${staffNumber}, ${key})
    on conflict (staff_number) do update set key = excluded.key
      where c.key = excluded.key or not exists (select from call where call.idempotency_key = c.key and call.closed_at is null)
    returning c.key`);
  if (rows.length === 0) throw new TransientError(`Another request is giving ${staffNumber} an account.`);
}

async function accountOf(values: Record<string, Value>, key: string, staffNumber: string | undefined): Promise<Reply> {
  const name = nameIn(values);
  const found = await (staffNumber === undefined
    ? directoryClient.findUser('externalId', key)
    : directoryClient.findUser(`${enterprise}:employeeNumber`, staffNumber));
  if (!found) return given(await createFor(name, { ...(await facts(values)), ...(staffNumber && { employeeNumber: staffNumber }) }, values, key));
  // What a call that was cut off had done is not done again.
  if (found.externalId === key) return given(found);
  const already = found.active ?? true;
  const back = [
    { op: 'replace', path: 'active', value: true },
    { op: 'replace', path: 'password', value: values['password'] },
    { op: 'replace', path: 'externalId', value: key },
  ];
  const changes = [...nameChanges(found, name), ...changesTo(found, await facts(values)), ...(already ? [] : back)];
  return given(await changed(found, changes, key), already);
}

const given = async (user: ScimUser, already = false) => {
  const id = await takeInNow(user);
  const address = (user.emails?.find((e) => e.primary) ?? user.emails?.[0])?.value;
  return { is: 'done' as const, outputs: { person: { person: id }, userName: user.userName, ...(address && { address }), already } };
};

/** What a directory keeps of where somebody works (RFC 7643, sections 4.1 and 4.3). */
interface Facts {
  title?: string;
  department?: string;
  /** The directory’s id of the manager. */
  manager?: string;
  employeeNumber?: string;
}

/** The first user name that is free. Each has a key of its own, so that a repeat is answered as the first time. */
async function createFor(name: FullName, facts: Facts, values: Record<string, Value>, key: string): Promise<ScimUser> {
  const { rule } = await userNamesNow(db());
  const candidates = userNames(rule, name);
  const { title, manager, ...work } = facts;
  for (const userName of candidates) {
    const address = addressFor(rule, userName);
    const made = await directoryClient.createUser(
      {
        userName,
        externalId: key,
        displayName: fullName(name),
        name: { formatted: fullName(name), givenName: name.given, familyName: name.family },
        active: true,
        password: values['password'],
        ...(title && { title }),
        ...(address && { emails: [{ value: address, type: 'work', primary: true }] }),
        [enterprise]: { ...work, ...(manager && { manager: { value: manager } }) },
      },
      `${key}/${userName}`,
    );
    if (made !== 'taken') return made;
    // A directory that keeps no keys: another worker that tends this very call may have been first.
    const own = await directoryClient.findUser('externalId', key);
    if (own) return own;
  }
  throw new PermanentError(
    candidates.length === 0
      ? `No user name can be made of “${fullName(name)}”.`
      : `“${candidates[0]}” and the same with 2 to ${mostTried} after it are taken.`,
  );
}

/** Changes where somebody works; what is not stated stays. */
const changeAccount: Action = {
  spec: {
    id: 'directory.changeAccount',
    system: 'Directory',
    label: 'Change where somebody works',
    inputs: [who, ...place],
    outputs: [alreadyOutput('Was so already')],
    unchangedWhen: 'already',
  },
  run: async (values, key, _, changing) => {
    const user = await readPerson(values);
    const changes = changesTo(user, await facts(values));
    await takeInNow(await changed(user, changes, key, changing));
    return { is: 'done', outputs: { already: changes.length === 0 && !(await changing.begun()) } };
  },
};

/** Gives somebody another name, and the user name and mail address that follow from it, unless theirs do already. */
const renameAccount: Action = {
  spec: {
    id: 'directory.renameAccount',
    system: 'Directory',
    label: 'Give a person another name',
    inputs: [who, ...names],
    outputs: [nameOutput],
  },
  run: async (values, key) => {
    const [user, name] = [await readPerson(values), nameIn(values)];
    const { rule } = await userNamesNow(db());
    const candidates = userNames(rule, name);
    if (candidates.length === 0) throw new PermanentError(`No user name can be made of “${fullName(name)}”.`);
    const userName = candidates.includes(user.userName) ? user.userName : await firstFree(candidates);
    const address = addressFor(rule, userName);
    const changes = [
      ...nameChanges(user, name),
      ...(userName === user.userName ? [] : [{ op: 'replace', path: 'userName', value: userName }]),
      ...(userName === user.userName || !address
        ? []
        : [{ op: 'replace', path: 'emails', value: [{ value: address, type: 'work', primary: true }] }]),
    ];
    const id = await takeInNow(await changed(user, changes, key));
    // What they hold goes on under the name that it has now.
    await db()
      .update(holding)
      .set({ what: userName })
      .where(and(eq(holding.personId, id), eq(holding.action, createAccount.spec.id), isNull(holding.endedAt)));
    return { is: 'done', outputs: { userName } };
  },
};

async function firstFree(candidates: string[]): Promise<string> {
  for (const userName of candidates) if (!(await directoryClient.findUser('userName', userName))) return userName;
  throw new PermanentError(`“${candidates[0]}” and the same with 2 to ${mostTried} after it are taken.`);
}

/** Closes an account, or opens it again. Nothing of it is deleted. */
const setActive = (active: boolean, spec: Pick<Action['spec'], 'id' | 'label' | 'undoneBy' | 'grants'>, already: string): Action => ({
  spec: { ...spec, system: 'Directory', inputs: [who], outputs: [alreadyOutput(already)], unchangedWhen: 'already' },
  run: async (values, key, _, changing) => {
    const user = await readPerson(values);
    const is = (user.active ?? true) === active;
    await takeInNow(await changed(user, is ? [] : [{ op: 'replace', path: 'active', value: active }], key, changing));
    return { is: 'done', outputs: { already: is && !(await changing.begun()) } };
  },
});
const disableAccount = setActive(
  false,
  { id: 'directory.disableAccount', label: 'Close an account', undoneBy: 'directory.enableAccount' },
  'Was closed already',
);
const enableAccount = setActive(
  true,
  { id: 'directory.enableAccount', label: 'Open an account again', undoneBy: 'directory.disableAccount', grants: true },
  'Was open already',
);

/** Gives an account another first password: whoever gets it has the account, so that the directory’s owners consent to it. */
const newPassword: Action = {
  spec: {
    id: 'directory.newPassword',
    system: 'Directory',
    label: 'Give an account a new password',
    inputs: [who, password],
    outputs: [],
    grants: true,
  },
  run: async (values, key) => {
    const user = await readPerson(values);
    await directoryClient.patchUser(user.id, [{ op: 'replace', path: 'password', value: values['password'] }], undefined, key);
    return { is: 'done', outputs: {} };
  },
};

/** What the directory can be asked to do about accounts. */
export const accountActions: Action[] = [createAccount, changeAccount, renameAccount, disableAccount, enableAccount, newPassword];

const fullName = (name: FullName): string => `${name.given} ${name.family}`.trim();

function nameIn(values: Record<string, Value>): FullName {
  const [given, family] = [text(values['given']), text(values['family'])];
  if (given === undefined && family === undefined) throw new PermanentError('No name was given.');
  return { given: given ?? '', family: family ?? '' };
}

/** What is stated of where somebody works, as the directory keeps it. */
async function facts(values: Record<string, Value>): Promise<Facts> {
  const [title, department] = [text(values['jobRole']), text(values['department'])];
  const manager = isPerson(values['manager']) ? await directoryIdOf(values['manager'].person, 'The manager') : undefined;
  return { ...(title && { title }), ...(department && { department }), ...(manager && { manager }) };
}

const nameChanges = (user: ScimUser, name: FullName): object[] =>
  user.displayName === fullName(name) && user.name?.givenName === name.given && user.name.familyName === name.family
    ? []
    : [
        { op: 'replace', path: 'displayName', value: fullName(name) },
        { op: 'replace', path: 'name', value: { formatted: fullName(name), givenName: name.given, familyName: name.family } },
      ];

/** The operations that bring somebody to these facts; none where they are so. */
const changesTo = (user: ScimUser, { title, department, manager }: Facts): object[] => [
  ...(title !== undefined && title !== user.title ? [{ op: 'replace', path: 'title', value: title }] : []),
  ...(department !== undefined && department !== user[enterprise]?.department
    ? [{ op: 'replace', path: `${enterprise}:department`, value: department }]
    : []),
  ...(manager !== undefined && manager !== user[enterprise]?.manager?.value
    ? [{ op: 'replace', path: `${enterprise}:manager`, value: { value: manager } }]
    : []),
];
