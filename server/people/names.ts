import { sql, type SQL } from 'drizzle-orm';
import type { Column } from '../../core/forms/index.ts';
import { namedIn, type NamedKind, type Value, type ValueNames } from '../../core/values/index.ts';
import { zoneOf } from '../auth/viewer.ts';
import type { Reader } from '../db/database.ts';
import { heldName } from '../holdings/held.ts';
import { isId } from '../ids.ts';
import { namedRows, nameOfRow } from '../tables/read.ts';

/** Where the names of what is held by an id stand. What a row is called, its cells say. */
const tables: Record<Exclude<NamedKind, 'row'>, SQL> = {
  person: sql`select 'person' as kind, id, name, email, ${zoneOf} as zone from person`,
  group: sql`select 'group' as kind, id, name, '' as email, '' as zone from access_group`,
  location: sql`select 'location' as kind, id, name, '' as email, '' as zone from location`,
  team: sql`select 'team' as kind, id, name, '' as email, '' as zone from team`,
  file: sql`select 'file' as kind, id, name, '' as email, '' as zone from stored_file`,
  holding: sql`select 'holding' as kind, h.id, ${heldName} as name, '' as email, '' as zone from holding h`,
};

/** Names of what values hold by an id. */
export interface Names {
  people: Map<string, { name: string; email: string; zone: string }>;
  of: ValueNames;
  /** The columns of a table of which a row was named. */
  columns: (table: string) => readonly Column[] | undefined;
  /** What stands in a row that was named, by its `rowId`. */
  cells: (row: string) => Readonly<Record<string, Value>> | undefined;
  /** The same by id alone, for forms. */
  short: Record<string, string>;
  /** The reader's zone, where it is known who reads: moments are said in it. */
  zone?: string | undefined;
}
/** The same for somebody who reads in this zone. */
export const readIn = (zone: string, names: Names): Names => ({ ...names, zone });

export async function namesFor(tx: Reader, values: Iterable<Value | undefined>, morePeople: string[] = []): Promise<Names> {
  const wanted = new Map<keyof typeof tables, Set<string>>([['person', new Set(morePeople.filter(isId))]]);
  const rowIds = new Set<string>();
  const want = (value: Value | undefined) => {
    for (const { kind, id } of namedIn(value))
      if (kind === 'row') rowIds.add(id);
      else if (isId(id)) wanted.set(kind, (wanted.get(kind) ?? new Set()).add(id));
  };
  for (const value of values) want(value);
  const found = await namedRows(tx, [...rowIds]);
  for (const { cells } of found.cells.values()) for (const cell of Object.values(cells)) want(cell);
  const each = [...wanted].flatMap(([kind, ids]) => (ids.size ? [sql`${tables[kind]} where id = any(${sql.param([...ids])}::uuid[])`] : []));
  const { rows } = each.length
    ? await tx.execute<{ kind: NamedKind; id: string; name: string; email: string; zone: string }>(sql.join(each, sql` union all `))
    : { rows: [] };
  const known = new Map(rows.map((r) => [`${r.kind} ${r.id}`, r]));
  const of: ValueNames = (kind, id) => (kind === 'row' ? nameOfRow(found, id, of) : known.get(`${kind} ${id}`)?.name);
  return {
    people: new Map(rows.flatMap((r) => (r.kind === 'person' ? [[r.id, { name: r.name, email: r.email, zone: r.zone }]] : []))),
    of,
    columns: found.columns,
    cells: (row) => found.cells.get(row)?.cells,
    short: Object.fromEntries([
      ...rows.map((r) => [r.id, r.name] as const),
      ...[...rowIds].flatMap((id) => [[id, of('row', id) ?? id.slice(id.indexOf('/') + 1)] as const]),
    ]),
  };
}

/** Names by id, for forms that hold what is named elsewhere. */
export const shortNames = (names: Names): Record<string, string> => names.short;
