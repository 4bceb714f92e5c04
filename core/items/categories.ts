/** The pictures that a category can have, by the name under which it keeps one, with the words for each. */
export const pictures = {
  key: 'Key',
  users: 'People',
  userPlus: 'Somebody new',
  laptop: 'Laptop',
  server: 'Machine',
  phone: 'Telephone',
  tablet: 'Tablet',
  printer: 'Printer',
  monitor: 'Screen',
  headset: 'Headset',
  network: 'Network',
  wifi: 'Wireless network',
  database: 'Data',
  folder: 'Folder',
  file: 'Paper',
  mail: 'Mail',
  calendar: 'Calendar',
  clock: 'Clock',
  gauge: 'Gauge',
  compass: 'Compass',
  map: 'Map',
  ship: 'Ship',
  anchor: 'Anchor',
  truck: 'Transport',
  building: 'Building',
  door: 'Door',
  wrench: 'Tools',
  box: 'Box',
  wallet: 'Money',
  heart: 'Health',
  book: 'Learning',
  shield: 'Safety',
} as const;
/** The name of a picture. */
export type Picture = keyof typeof pictures;
/** Whether this names a picture. */
export const isPicture = (name: string): name is Picture => Object.hasOwn(pictures, name);

/** A category as it is kept: its parts, from the widest, parted by “ / ”; empty where there is none. */
export const categoryPath = (text: string): string =>
  text
    .split('/')
    .map((part) => part.trim().replace(/\s+/g, ' '))
    .filter(Boolean)
    .join(' / ');

/** A category in the tree of them. */
export interface Category {
  /** From the widest: “Access / Groups”. */
  path: string;
  /** Its last part. */
  name: string;
  /** How many categories are around it. */
  depth: number;
  /** The things of it and of all within it. */
  count: number;
}

/**
 * The tree of these categories, one for each thing that has it, in order: each before what lies within it, beside each other by name.
 * Those around them are there though nothing has them; of several ways to write one (capitals) the one that most have counts, and of equals
 * that with the capitals, in whatever order they come.
 */
export function categoryTree(of: readonly string[]): Category[] {
  /** By the parts in small letters: how often it is written how. */
  const written = new Map<string, Map<string, number>>();
  for (const text of of) {
    const parts = categoryPath(text).split(' / ').filter(Boolean);
    parts.forEach((name, depth) => {
      const key = parts
        .slice(0, depth + 1)
        .join(' / ')
        .toLowerCase();
      const ways = written.get(key) ?? new Map<string, number>();
      written.set(key, ways.set(name, (ways.get(name) ?? 0) + 1));
    });
  }
  const nameOf = (key: string) => [...written.get(key)!].sort(([a, n], [b, m]) => m - n || (a < b ? -1 : 1))[0]![0];
  const around = (key: string) => key.split(' / ').map((_, i, parts) => parts.slice(0, i + 1).join(' / '));
  const order = (key: string) => key.split(' / ');
  return [...written.keys()]
    .sort((a, b) => {
      const [x, y] = [order(a), order(b)];
      const at = x.findIndex((part, i) => part !== y[i]);
      return at < 0 ? x.length - y.length : y[at] === undefined ? 1 : x[at]!.localeCompare(y[at], 'en');
    })
    .map((key) => {
      const names = around(key).map(nameOf);
      const count = [...written.get(key)!.values()].reduce((sum, n) => sum + n, 0);
      return { path: names.join(' / '), name: names.at(-1)!, depth: names.length - 1, count };
    });
}

/** Whether a category is another, or lies within it. */
export const isWithin = (category: string, around: string): boolean => {
  const [inner, outer] = [categoryPath(category).toLowerCase(), categoryPath(around).toLowerCase()];
  return inner === outer || inner.startsWith(`${outer} / `);
};
