import type { FactDomain, PlaceTree, RoutingColumn, RoutingDomain, RoutingNames } from '../../core/routing/index.ts';
import type { DmnContext } from '../../core/formats/index.ts';
import type { routingOf } from '../../server/routing/queries.ts';

export type Known = NonNullable<Awaited<ReturnType<typeof routingOf>>>['known'];

/** What the columns of a table can look at, by the words of their heads. */
export const factWords: Record<RoutingColumn['fact'], string> = {
  kind: 'Kind',
  item: 'Item',
  category: 'Category',
  place: 'Place',
  department: 'Department',
  group: 'Group',
  priority: 'Priority',
  answer: 'Answer',
};

/** Whatever has a form that a table can look at: kinds of ticket, and what can be asked for. */
export const formsOf = (known: Known) => [...known.kinds, ...known.items];

const unique = <T>(all: T[], key: (one: T) => string): T[] => [...new Map(all.map((one) => [key(one), one])).values()];

/** What can be chosen in a column, by id and name. */
export function choicesFor(column: Pick<RoutingColumn, 'fact' | 'field'>, known: Known): { id: string; name: string }[] {
  const own = (names: string[]) => [...new Set(names)].sort().map((name) => ({ id: name, name }));
  switch (column.fact) {
    case 'kind':
      return known.kinds.map(({ id, name }) => ({ id, name }));
    case 'category':
      return own([...known.kinds.flatMap((k) => k.categories), ...known.items.flatMap((i) => i.category || [])]);
    case 'place':
      return known.places;
    case 'department':
      return own(known.departments);
    case 'group':
      return known.groups;
    case 'priority':
      return unique(
        known.kinds.flatMap((k) => k.priorities.map((p) => ({ id: p.id, name: p.label }))),
        (p) => p.id,
      );
    case 'answer':
      return unique(
        formsOf(known).flatMap((k) => k.fields.flatMap((f) => (f.id === column.field ? f.options.map((o) => ({ id: o.value, name: o.label })) : []))),
        (o) => o.id,
      );
    case 'item':
      return known.items.map(({ id, name }) => ({ id, name }));
  }
}

const keyOf = (column: Pick<RoutingColumn, 'fact' | 'field'>) => (column.fact === 'answer' ? `answer.${column.field}` : column.fact);

/** What everything is called that a table can name, and what it can be. */
export function readKnown(known: Known, columns: readonly RoutingColumn[]): { names: RoutingNames; domain: RoutingDomain; tree: PlaceTree } {
  const all = new Map<string, Map<string, string>>([
    ['team', new Map(known.teams.map((t) => [t.id, t.name]))],
    ['person', new Map(known.people.map((p) => [p.id, p.name]))],
    ...columns.map((c) => [keyOf(c), new Map(choicesFor(c, known).map((x) => [x.id, x.name]))] as const),
  ]);
  const called = new Map<string, Map<string, string[]>>();
  for (const [key, of] of all) {
    const by = new Map<string, string[]>();
    for (const [id, name] of of) by.set(name.toLowerCase(), [...(by.get(name.toLowerCase()) ?? []), id]);
    called.set(key, by);
  }
  const fieldCalled = (id: string | undefined) =>
    formsOf(known)
      .flatMap((k) => k.fields)
      .find((f) => f.id === id);
  const domainOf = (c: RoutingColumn): FactDomain => {
    const values = choicesFor(c, known).map((x) => x.id);
    if (c.fact === 'group') return { values, several: true, empty: true };
    if (c.fact === 'answer') return { values, numbers: fieldCalled(c.field)?.numbers ?? false, empty: true };
    // A request has no kind and no priority, a ticket no item.
    return { values, empty: known.items.length > 0 || (c.fact !== 'kind' && c.fact !== 'priority') };
  };
  return {
    names: {
      of: (key, id) => all.get(key)?.get(id),
      called: (key, name) => called.get(key)?.get(name.trim().toLowerCase()) ?? [],
      column: (c) => (c.fact === 'answer' ? (fieldCalled(c.field)?.label ?? 'An answer') : factWords[c.fact]),
    },
    domain: {
      facts: new Map(columns.map((c) => [keyOf(c), domainOf(c)])),
      categoriesOf: new Map(known.kinds.map((k) => [k.id, new Set(k.categories)])),
    },
    tree: new Map(known.places.map((p) => [p.id, p.parentId])),
  };
}

/** What a table is written to DMN by, and read from it: the names of everything that any column can hold. */
export function dmnContext(known: Known): DmnContext {
  const facts = (['kind', 'item', 'category', 'place', 'department', 'group', 'priority'] as const).map((fact): RoutingColumn => ({
    id: fact,
    fact,
  }));
  const fields = unique(
    formsOf(known).flatMap((k) => k.fields),
    (f) => f.id,
  ).map(({ id }): RoutingColumn => ({ id, fact: 'answer', field: id }));
  const { names, tree } = readKnown(known, [...facts, ...fields]);
  return { names, tree, several: (c) => c.fact === 'group' };
}
