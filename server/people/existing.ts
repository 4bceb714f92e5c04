import { eq, sql, type SQL } from 'drizzle-orm';
import type { Exists } from '../../core/forms/index.ts';
import { namedIn, Value, type CalledKind, type NamedKind } from '../../core/values/index.ts';
import type { Reader } from '../db/database.ts';
import { person, team } from '../db/schema/index.ts';
import { ownersOf } from '../files/whose.ts';
import { heldThings, isOffered as isHeldAs, mayName } from '../holdings/held.ts';
import { isId } from '../ids.ts';
import { offeredRows } from '../tables/read.ts';

/** Which there are, and can be asked for: people who work here, groups that are not gone. Rows that are offered: `offeredRows`; files and holdings: whose they are. */
const there: Record<CalledKind, SQL> = {
  person: sql`person where active and`,
  group: sql`access_group where not gone and`,
  location: sql`location where`,
  team: sql`team where`,
};

/** What answers hold by an id and is there, read in one go. */
export interface Existing {
  has: (kind: NamedKind, id: string) => boolean;
  /**
   * The same as one person may name it: of files those they brought, and those that stand in the request (`caseId`) already; of holdings
   * their own, or those of the person it is for (`whom`) whose manager they are.
   */
  for: (viewerId: string, caseId?: string, whom?: string) => Exists;
}

export async function existing(tx: Reader, answers: unknown[]): Promise<Existing> {
  const wanted = new Map<keyof typeof there, string[]>();
  const rowIds: string[] = [];
  const fileIds: string[] = [];
  const heldIds: string[] = [];
  for (const answer of answers) {
    const parsed = Value.safeParse(answer);
    for (const { kind, id } of parsed.success ? namedIn(parsed.data) : [])
      if (kind === 'row') rowIds.push(id);
      else if (kind === 'file') fileIds.push(id);
      else if (kind === 'holding') heldIds.push(id);
      else if (isId(id)) wanted.set(kind, [...(wanted.get(kind) ?? []), id]);
  }
  const found = new Set((await offeredRows(tx, rowIds)).map((id) => `row ${id}`));
  const files = await ownersOf(tx, fileIds);
  const held = await heldThings(tx, heldIds);
  for (const id of held.keys()) found.add(`holding ${id}`);
  if (wanted.size > 0) {
    const each = [...wanted].map(
      ([kind, ids]) => sql`select ${kind}::text || ' ' || id as what from ${there[kind]} id = any(${sql.param(ids)}::uuid[])`,
    );
    const { rows } = await tx.execute<{ what: string }>(sql.join(each, sql` union all `));
    for (const row of rows) found.add(row.what);
  }
  const has = (kind: NamedKind, id: string) => found.has(`${kind} ${id}`);
  return {
    has,
    for: (viewerId, caseId, whom) => (kind, id, of) => {
      const thing = kind === 'holding' ? held.get(id) : undefined;
      if (kind === 'holding') return thing !== undefined && isHeldAs(thing, of) && mayName(thing, viewerId, whom);
      if (kind !== 'file') return has(kind, id);
      const file = files.get(id);
      return file !== undefined && (file.caseId === null ? file.by === viewerId : file.caseId === caseId);
    },
  };
}

/** Why somebody, or a team, cannot be given work. */
export async function cannotDo(tx: Reader, personId: string | undefined, teamId: string | undefined): Promise<string | undefined> {
  if (personId !== undefined) {
    const [row] = await tx.select({ active: person.active }).from(person).where(eq(person.id, personId));
    return row?.active ? undefined : 'This person is not known, or does not work here any more.';
  }
  const [row] = teamId === undefined ? [] : await tx.select({ id: team.id }).from(team).where(eq(team.id, teamId));
  return row ? undefined : 'This team does not exist.';
}
