import { sql, type SQL } from 'drizzle-orm';
import { namedIn, type NamedKind, type Value, type ValueNames } from '../../core/values/index.ts';
import type { Reader } from '../db/database.ts';
import { isId } from '../ids.ts';

/** Where the names of what is held by an id stand. */
const tables: Record<NamedKind, SQL> = {
  person: sql`select 'person' as kind, id, name, email from person`,
  group: sql`select 'group' as kind, id, name, '' as email from access_group`,
  location: sql`select 'location' as kind, id, name, '' as email from location`,
  team: sql`select 'team' as kind, id, name, '' as email from team`,
};

/** Names of what values hold by an id. */
export interface Names {
  people: Map<string, { name: string; email: string }>;
  of: ValueNames;
  /** The same by id alone, for forms. */
  short: Record<string, string>;
}

export async function namesFor(tx: Reader, values: Iterable<Value | undefined>, morePeople: string[] = []): Promise<Names> {
  const wanted = new Map<NamedKind, Set<string>>([['person', new Set(morePeople.filter(isId))]]);
  for (const value of values) for (const { kind, id } of namedIn(value)) if (isId(id)) wanted.set(kind, (wanted.get(kind) ?? new Set()).add(id));
  const each = [...wanted].flatMap(([kind, ids]) => (ids.size ? [sql`${tables[kind]} where id = any(${sql.param([...ids])}::uuid[])`] : []));
  const { rows } = each.length
    ? await tx.execute<{ kind: NamedKind; id: string; name: string; email: string }>(sql.join(each, sql` union all `))
    : { rows: [] };
  const known = new Map(rows.map((r) => [`${r.kind} ${r.id}`, r]));
  return {
    people: new Map(rows.flatMap((r) => (r.kind === 'person' ? [[r.id, { name: r.name, email: r.email }]] : []))),
    of: (kind, id) => known.get(`${kind} ${id}`)?.name,
    short: Object.fromEntries(rows.map((r) => [r.id, r.name])),
  };
}

/** Names by id, for forms that hold what is named elsewhere. */
export const shortNames = (names: Names): Record<string, string> => names.short;
