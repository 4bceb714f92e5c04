import { z } from 'zod';
import { line, readJson } from '../boundary/index.ts';
import { itemFormat, keptDocument, policyFormat, readDocument, systemFormat, tableFormat, Unreadable } from '../documents/index.ts';
import { ItemDefinition, type ItemKind } from '../items/index.ts';
import { Policy } from '../policies/index.ts';
import { WebSystem } from '../systems/index.ts';
import { TableDefinition, type Cells } from '../tables/index.ts';
import { Cell, Id, Key } from '../values/index.ts';

/** The version of the file that is written here; a newer one is not read. */
export const bundleVersion = 1;

const Stored = z.record(z.string(), z.unknown());
const kept = { id: Key, definition: Stored };

/** People, groups, teams and places that a file names, by what they are found by where it is read. */
export const NamedThing = z.object({ kind: z.enum(['person', 'group', 'team', 'location']), id: Key, name: line(200), mail: line(320).optional() });
export type NamedThing = z.infer<typeof NamedThing>;

/**
 * One file with an item and all that it uses: parts, approval policies, reference tables with or without their rows, the registered
 * systems without their secrets, and what it names. Each document says its own version.
 */
export const BundleFile = z.object({
  bundle: z.literal('nessmoor'),
  version: z.literal(bundleVersion),
  /** When it was written, ISO 8601. */
  made: z.iso.datetime(),
  /** The id of the item it was made for. */
  item: Key,
  items: z
    .array(z.object({ ...kept, kind: z.enum(['item', 'part']) }))
    .min(1)
    .max(200),
  policies: z.array(z.object(kept)).max(200),
  tables: z.array(z.object({ ...kept, rows: z.array(z.record(Id, Cell)).max(50_000).optional() })).max(50),
  systems: z.array(z.object(kept)).max(50),
  named: z.array(NamedThing).max(5000),
});

/** The same with its documents read. */
export interface Bundle {
  item: string;
  made: string;
  items: { id: string; kind: ItemKind; definition: ItemDefinition }[];
  policies: { id: string; definition: Policy }[];
  tables: { id: string; definition: TableDefinition; rows?: Cells[] | undefined }[];
  systems: { id: string; definition: WebSystem }[];
  named: NamedThing[];
}

/** A bundle as its file is written. */
export const writeBundle = (b: Bundle): z.infer<typeof BundleFile> => ({
  bundle: 'nessmoor',
  version: bundleVersion,
  made: b.made,
  item: b.item,
  items: b.items.map((i) => ({ ...i, definition: keptDocument(itemFormat, i.definition) })),
  policies: b.policies.map((p) => ({ ...p, definition: keptDocument(policyFormat, p.definition) })),
  tables: b.tables.map((t) => ({ ...t, definition: keptDocument(tableFormat, t.definition) })),
  systems: b.systems.map((s) => ({ ...s, definition: keptDocument(systemFormat, s.definition) })),
  named: b.named,
});

/** A file as a bundle, or the sentence that says why it is none; documents of older versions are lifted. */
export function readBundle(text: string): { ok: true; bundle: Bundle } | { ok: false; sentence: string } {
  const no = (sentence: string) => ({ ok: false as const, sentence });
  if (text.trim() === '') return no('The file is empty.');
  const read = readJson(text);
  if (!read.ok)
    return no(`This is not a whole file of an item: ${read.sentence.charAt(0).toLowerCase()}${read.sentence.slice(1)} It may have been cut off.`);
  const head = z.object({ bundle: z.literal('nessmoor'), version: z.number() }).safeParse(read.value);
  if (!head.success) return no('This is not a file of an item: it does not say so.');
  if (head.data.version > bundleVersion)
    return no(`This file was written by a newer Nessmoor (version ${head.data.version}; read here are those up to ${bundleVersion}).`);
  const file = BundleFile.safeParse(read.value);
  if (!file.success) {
    const [issue] = file.error.issues;
    return no(`This file does not fit: ${issue?.message ?? 'something is missing'} (${issue?.path.join(' › ') ?? ''}).`);
  }
  const { items, policies, tables, systems, named, item, made } = file.data;
  try {
    const bundle: Bundle = {
      item,
      made,
      named,
      items: items.map((i) => ({ ...i, definition: readDocument(itemFormat, i.definition) })),
      policies: policies.map((p) => ({ ...p, definition: readDocument(policyFormat, p.definition) })),
      tables: tables.map((t) => ({ ...t, definition: readDocument(tableFormat, t.definition) })),
      systems: systems.map((s) => ({ ...s, definition: readDocument(systemFormat, s.definition) })),
    };
    const wrong = disagreement(bundle);
    return wrong === undefined ? { ok: true, bundle } : no(wrong);
  } catch (e) {
    if (e instanceof Unreadable) return no(e.message);
    throw e;
  }
}

/** What keeps a file from being one thing: the same id or name twice, no item it is made for, parts that use each other in a circle. */
function disagreement(b: Bundle): string | undefined {
  const all = [...b.items, ...b.policies, ...b.tables, ...b.systems];
  if (new Set(all.map((x) => x.id)).size < all.length) return 'This file does not fit: two of its definitions have one id.';
  for (const list of [b.items, b.policies, b.tables, b.systems]) {
    const names = list.map((x) => x.definition.name.toLowerCase());
    const twice = list.find((x, i) => names.indexOf(x.definition.name.toLowerCase()) < i);
    if (twice) return `This file does not fit: “${twice.definition.name}” stands in it twice.`;
  }
  if (!b.items.some((i) => i.id === b.item && i.kind === 'item')) return 'This file does not fit: the item it was made for is not in it.';
  const circle = circleOf(b);
  return circle && `The parts of this file use each other in a circle: ${circle.map((n) => `“${n}”`).join(' uses ')}. Nothing was taken in.`;
}

/** The names of parts that use each other in a circle, the first once more at the end. */
function circleOf({ items }: Bundle): string[] | undefined {
  const byId = new Map(items.map((i) => [i.id, i]));
  const uses = new Map(items.map((i) => [i.id, [...idsIn(i.definition, (id) => byId.has(id))]]));
  const done = new Set<string>();
  const look = (id: string, way: string[]): string[] | undefined => {
    const at = way.indexOf(id);
    if (at >= 0) return [...way.slice(at), id].map((x) => byId.get(x)!.definition.name);
    if (done.has(id)) return undefined;
    for (const next of uses.get(id) ?? []) {
      const found = look(next, [...way, id]);
      if (found) return found;
    }
    done.add(id);
    return undefined;
  };
  for (const { id } of items) {
    const found = look(id, []);
    if (found) return found;
  }
  return undefined;
}

/** What looks like an id of what is kept (RFC 9562, as it is written here), also within a longer name, such as that of an action of a system. */
const anId = /[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}/g;

/** The ids that stand anywhere in plain JSON, of those that are `known`. */
export function idsIn(json: unknown, known: (id: string) => boolean = () => true): Set<string> {
  const found = new Set<string>();
  const look = (x: unknown): void => {
    if (typeof x === 'string') for (const [id] of x.matchAll(anId)) if (known(id)) found.add(id);
    if (typeof x !== 'object' || x === null) return;
    for (const [key, value] of Object.entries(x)) {
      look(key);
      look(value);
    }
  };
  look(json);
  return found;
}

/** The same JSON with other ids in place of these; what is not among them stays. */
export function withIds<T>(json: T, ids: ReadonlyMap<string, string>): T {
  const put = (text: string) => text.replace(anId, (id) => ids.get(id) ?? id);
  const change = (x: unknown): unknown => {
    if (typeof x === 'string') return put(x);
    if (Array.isArray(x)) return x.map(change);
    if (typeof x !== 'object' || x === null) return x;
    return Object.fromEntries(Object.entries(x).map(([key, value]) => [put(key), change(value)]));
  };
  return change(json) as T;
}

const dated = <T extends z.ZodObject>(schema: T) => schema.extend({ format: z.number().int().min(1).optional() });

/** The JSON Schema (2020-12) of the file, its documents in their present versions with it. */
export function bundleJsonSchema(): object {
  const of = <T extends z.ZodObject>(definition: T) => z.object({ id: Key, definition: dated(definition) });
  const file = BundleFile.extend({
    items: z.array(of(ItemDefinition).extend({ kind: z.enum(['item', 'part']) })).min(1),
    policies: z.array(of(Policy)),
    tables: z.array(of(TableDefinition).extend({ rows: z.array(z.record(Id, Cell)).optional() })),
    systems: z.array(of(WebSystem)),
  });
  return { ...z.toJSONSchema(file, { io: 'input', unrepresentable: 'any' }), title: 'An item of Nessmoor with all that it uses' };
}
