import { eq, sql, type SQL } from 'drizzle-orm';
import { namedIn, Value, type NamedKind } from '../../core/values/index.ts';
import type { Reader } from '../db/database.ts';
import { person, team } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { offeredRows } from '../tables/read.ts';

/** Which there are, and can be asked for: people who work here, groups that are not gone. Rows that are offered: `offeredRows`. */
const there: Record<Exclude<NamedKind, 'row'>, SQL> = {
  person: sql`person where active and`,
  group: sql`access_group where not gone and`,
  location: sql`location where`,
  team: sql`team where`,
};

/** What answers hold by an id and exists, as "person …", "group …" and so on; read in one go. */
export async function existing(tx: Reader, answers: unknown[]): Promise<Set<string>> {
  const wanted = new Map<keyof typeof there, string[]>();
  const rowIds: string[] = [];
  for (const answer of answers) {
    const parsed = Value.safeParse(answer);
    for (const { kind, id } of parsed.success ? namedIn(parsed.data) : [])
      if (kind === 'row') rowIds.push(id);
      else if (isId(id)) wanted.set(kind, [...(wanted.get(kind) ?? []), id]);
  }
  const offered = (await offeredRows(tx, rowIds)).map((id) => `row ${id}`);
  if (wanted.size === 0) return new Set(offered);
  const each = [...wanted].map(
    ([kind, ids]) => sql`select ${kind}::text || ' ' || id as what from ${there[kind]} id = any(${sql.param(ids)}::uuid[])`,
  );
  const { rows } = await tx.execute<{ what: string }>(sql.join(each, sql` union all `));
  return new Set([...offered, ...rows.map((r) => r.what)]);
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
