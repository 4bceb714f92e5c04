import { sql } from 'drizzle-orm';
import type { ScimUser } from '../systems/directory/client.ts';
import { createAccount } from '../systems/directory/accounts.ts';
import { addLicence } from '../systems/directory/licences.ts';
import { addMember } from '../systems/directory/membership.ts';
import type { Action } from '../systems/action.ts';
import type { Theirs } from './compare.ts';
import type { Lists } from './systems.ts';

/** Whoever is in which group, as the directory was read a moment ago. */
export const members: Theirs = sql`select jsonb_build_object('group', p.group_id::text) as what, p.person_id, null::date as until, '{}'::jsonb as outputs, null::text as job
  from group_person p join access_group g on g.id = p.group_id and not g.gone where p."as" = 'member'`;

/** The accounts that are open, as the directory was read a moment ago. */
export const accounts: Theirs = sql`select to_jsonb(p.user_name) as what, p.id as person_id, null::date as until,
  jsonb_strip_nulls(jsonb_build_object('person', jsonb_build_object('person', p.id), 'userName', p.user_name, 'address', nullif(p.email, ''), 'already', false)) as outputs,
  null::text as job
  from person p where p.active and not p.outside`;

/** Who is licensed for what, as it was read. */
const licences = (users: ScimUser[]): Theirs => {
  const given = users.flatMap((u) => ((u.active ?? true) ? (u.entitlements ?? []).map((e) => ({ id: u.id, what: e.value })) : []));
  return sql`select to_jsonb(r.what) as what, p.id as person_id, null::date as until, '{"already": false}'::jsonb as outputs, null::text as job
    from jsonb_to_recordset(${JSON.stringify(given)}::jsonb) as r(id text, what text) join person p on p.directory_id = r.id`;
};

const listOf = ({ spec }: Action, theirs: (users: ScimUser[]) => Theirs) => ({ spec: spec as Lists['spec'], theirs });

/** What the directory has of what each of its actions gives, by the people that it listed. */
export const directoryLists = [listOf(addMember, () => members), listOf(createAccount, () => accounts), listOf(addLicence, licences)];
