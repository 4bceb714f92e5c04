import { sameJson } from '../boundary/index.ts';
import { classesOf, type FactClass, type RoutingDomain } from './domain.ts';
import { beats, placesAround, type PlaceTree, type RoutingTable } from './table.ts';

/** Combinations: of each column, in the order of the table, the classes that are meant; undefined: whatever it is. */
export interface Region {
  columns: (FactClass[] | undefined)[];
  /** How many combinations of values that are. */
  combinations: number;
}

/** What looking through a routing table found. */
export interface RoutingAnalysis {
  /** How many combinations there are, and which of them no row takes. */
  combinations: number;
  uncovered: { regions: Region[]; combinations: number; more: boolean } | undefined;
  /** Pairs of rows that both take some case, neither of them before the other, and disagree; by their places in the table. */
  overlaps: { rows: [number, number]; where: Region }[];
  moreOverlaps: boolean;
  /** Rows that hold for no case there can be. */
  impossible: number[];
  /** Rows that other rows always come before. */
  never: number[];
  /** Rows without which everything would go where it goes. */
  idle: number[];
  /** Rows of which that could not be found out. */
  notLookedThrough: number[];
  /** Columns, by their places, that cannot be looked through; then nothing above was. */
  unknownColumns: number[];
}

const mostNodes = 400_000;
const mostSteps = 60_000;
const mostOverlaps = 100;

/** Something that took more steps than are allowed. */
class TooMuch extends Error {}

/**
 * Looks through a routing table exactly: over all combinations of values that its columns can have, none sampled. `domain` says what those
 * are. Where there are more kinds of combinations than can be looked through it says so. Of what no row takes at most so many regions are
 * told apart; how many combinations they are is exact all the same.
 */
export function analyseRouting(table: RoutingTable, domain: RoutingDomain, tree: PlaceTree, mostRegions = 40): RoutingAnalysis {
  const all = table.columns.map((c) => classesOf(table, c, domain, tree));
  const unknownColumns = all.flatMap((c, i) => (c ? [] : [i]));
  const nothing: RoutingAnalysis = {
    combinations: 0,
    uncovered: undefined,
    overlaps: [],
    moreOverlaps: false,
    impossible: [],
    never: [],
    idle: [],
    notLookedThrough: [],
    unknownColumns,
  };
  if (unknownColumns.length > 0) return nothing;
  const look = new Look(table, all as FactClass[][], domain, tree);
  const impossible = table.rows.flatMap((_, i) => (look.possible(i) ? [] : [i]));
  const found: RoutingAnalysis = { ...nothing, combinations: look.combinations(), impossible, ...look.overlapping() };
  try {
    found.uncovered = look.uncovered(mostRegions);
  } catch (error) {
    if (!(error instanceof TooMuch)) throw error;
  }
  for (let i = 0; i < table.rows.length; i++) {
    if (impossible.includes(i)) continue;
    const its = look.rowMatters(i);
    if (its === undefined) found.notLookedThrough.push(i);
    else if (!its.wins) found.never.push(i);
    else if (!its.matters) found.idle.push(i);
  }
  return found;
}

/** A way down the columns that no row covers: for each group of classes what follows. */
type Gap = 'covered' | 'open' | { id: number; groups: { classes: number[]; then: Gap }[]; combinations: number };

class Look {
  private readonly table: RoutingTable;
  private readonly classes: FactClass[][];
  private readonly domain: RoutingDomain;
  private readonly tree: PlaceTree;
  /** The columns in the order in which they are gone down: a kind before its categories, a place first of all. */
  private readonly order: number[];
  private readonly kind: number;
  private readonly category: number;
  private readonly place: number;
  /** Of each row and column the classes it holds for. */
  private readonly held: number[][][];

  constructor(table: RoutingTable, classes: FactClass[][], domain: RoutingDomain, tree: PlaceTree) {
    [this.table, this.domain, this.tree] = [table, domain, tree];
    const at = (fact: string) => table.columns.findIndex((c) => c.fact === fact);
    [this.kind, this.category, this.place] = [at('kind'), domain.categoriesOf ? at('category') : -1, at('place')];
    // Kinds that rows do not tell apart are still apart where they have other categories.
    this.classes = classes.map((all, c) => (c === this.kind && this.category >= 0 ? all.flatMap((one) => this.byCategories(one)) : all));
    const rank = (c: number) => (c === this.place ? 0 : c === this.kind ? 1 : c === this.category ? 2 : 3 + this.classes[c]!.length);
    this.order = table.columns.map((_, c) => c).sort((a, b) => rank(a) - rank(b));
    this.held = table.rows.map((_, r) => this.classes.map((all) => all.flatMap((one, k) => (one.rows.has(r) ? [k] : []))));
  }

  private byCategories(one: FactClass): FactClass[] {
    const apart = new Map<string, FactClass>();
    if (one.values.length === 0) return [one];
    for (const value of one.values) {
      const key = [...(this.domain.categoriesOf?.get(value) ?? [])].sort().join('\u0001');
      const known = apart.get(key);
      if (known) {
        known.values.push(value);
        known.size++;
      } else apart.set(key, { ...one, values: [value], size: 1 });
    }
    return [...apart.values()];
  }

  /** How many of the values of a category class there are of a kind. */
  private sizeOf(column: number, k: number, kindClass: number | undefined): number {
    const one = this.classes[column]![k]!;
    if (column !== this.category || kindClass === undefined || one.is !== 'values') return one.size;
    const of = this.domain.categoriesOf?.get(this.classes[this.kind]![kindClass]!.values[0] ?? '');
    return of ? one.values.filter((v) => of.has(v)).length : one.size;
  }

  private total(depth: number, kindClass: number | undefined): number {
    const column = this.order[depth];
    if (column === undefined) return 1;
    let sum = 0;
    for (let k = 0; k < this.classes[column]!.length; k++) {
      const size = this.sizeOf(column, k, kindClass);
      if (size === 0) continue;
      // Only what follows a kind depends on it.
      if (column === this.kind) sum += size * this.total(depth + 1, k);
      else return this.classes[column]!.reduce((all, _, n) => all + this.sizeOf(column, n, kindClass), 0) * this.total(depth + 1, kindClass);
    }
    return sum;
  }
  combinations = (): number => this.total(0, undefined);

  /** Whether some case that there can be has all that these sets of classes want. */
  private meets(sets: number[][]): boolean {
    if (sets.some((s) => s.length === 0)) return false;
    if (this.category < 0 || this.kind < 0) return true;
    return sets[this.kind]!.some((kind) => sets[this.category]!.some((k) => this.sizeOf(this.category, k, kind) > 0));
  }
  possible = (row: number): boolean => this.meets(this.held[row]!);

  private region(sets: number[][]): Region {
    const kinds = this.kind >= 0 ? sets[this.kind]! : [];
    const one = (kindClass: number | undefined) =>
      sets.reduce(
        (all, set, c) => (c === this.kind ? all : all * set.reduce((n, k) => n + this.sizeOf(c, k, kindClass), 0)),
        kindClass === undefined ? 1 : this.classes[this.kind]![kindClass]!.size,
      );
    return {
      columns: sets.map((set, c) => (set.length === this.classes[c]!.length ? undefined : set.map((k) => this.classes[c]![k]!))),
      combinations: this.kind >= 0 ? kinds.reduce((sum, k) => sum + one(k), 0) : one(undefined),
    };
  }

  /** What no row takes. */
  uncovered(mostRegions: number): NonNullable<RoutingAnalysis['uncovered']> {
    const { rows } = this.table;
    const known = new Map<string, Gap>();
    // A row that wants nothing of the columns from a depth on covers all that comes to it there.
    const freeFrom = rows.map((_, r) => {
      let depth = this.order.length;
      while (depth > 0 && this.held[r]![this.order[depth - 1]!]!.length === this.classes[this.order[depth - 1]!]!.length) depth--;
      return depth;
    });
    let nodes = 0;
    // What looks alike is one, so that the classes before it stand together.
    const alike = new Map<string, Gap>();
    const same = (depth: number, groups: { classes: number[]; then: Gap }[], combinations: number): Gap => {
      const key = [depth, combinations, ...groups.map((g) => `${g.classes.join(',')}>${typeof g.then === 'string' ? g.then : g.then.id}`)].join(';');
      const gap = alike.get(key) ?? { id: alike.size, groups, combinations };
      alike.set(key, gap);
      return gap;
    };
    const down = (depth: number, left: number[], kindClass: number | undefined): Gap => {
      if (left.length === 0) return 'open';
      if (left.some((r) => freeFrom[r]! <= depth)) return 'covered';
      const column = this.order[depth]!;
      const key = `${depth} ${this.category >= 0 && depth <= this.order.indexOf(this.category) ? (kindClass ?? '') : ''} ${left.join(',')}`;
      const before = known.get(key);
      if (before !== undefined) return before;
      if (++nodes > mostNodes) throw new TooMuch();
      const groups = new Map<Gap, number[]>();
      let combinations = 0;
      this.classes[column]!.forEach((one, k) => {
        const size = this.sizeOf(column, k, kindClass);
        if (size === 0) return;
        const kind = column === this.kind ? k : kindClass;
        const then = down(
          depth + 1,
          left.filter((r) => one.rows.has(r)),
          kind,
        );
        if (then === 'covered') return;
        groups.set(then, [...(groups.get(then) ?? []), k]);
        combinations += size * (then === 'open' ? this.total(depth + 1, kind) : then.combinations);
      });
      const gap: Gap =
        groups.size === 0
          ? 'covered'
          : same(
              depth,
              [...groups].map(([then, its]) => ({ classes: its, then })),
              combinations,
            );
      known.set(key, gap);
      return gap;
    };
    const all = down(
      0,
      rows.map((_, i) => i),
      undefined,
    );
    const regions: Region[] = [];
    let more = false;
    const every = this.classes.map((c) => c.map((_, k) => k));
    const spell = (gap: Gap, depth: number, sets: number[][]): void => {
      if (gap === 'covered') return;
      if (gap === 'open') {
        if (!this.meets(sets)) return;
        if (regions.length < mostRegions) regions.push(this.region(sets));
        else more = true;
        return;
      }
      const column = this.order[depth]!;
      for (const g of gap.groups) spell(g.then, depth + 1, sets.with(column, g.classes));
    };
    spell(all, 0, every);
    return { regions, more, combinations: all === 'covered' ? 0 : all === 'open' ? this.combinations() : all.combinations };
  }

  /** Rows that disagree where both hold and neither comes before the other. */
  overlapping(): Pick<RoutingAnalysis, 'overlaps' | 'moreOverlaps'> {
    const { rows, chooses } = this.table;
    const overlaps: RoutingAnalysis['overlaps'] = [];
    if (chooses === 'first') return { overlaps, moreOverlaps: false };
    const masks = this.held.map((its) => its.map((set) => new Set(set)));
    for (let a = 0; a < rows.length; a++)
      for (let b = a + 1; b < rows.length; b++) {
        if (chooses === 'nearest' && sameJson(rows[a]!.answer, rows[b]!.answer)) continue;
        const sets: number[][] = [];
        for (let c = 0; c < this.classes.length; c++) {
          const both = this.held[a]![c]!.filter((k) => masks[b]![c]!.has(k));
          if (both.length === 0) break;
          sets.push(both);
        }
        if (sets.length < this.classes.length) continue;
        if (chooses === 'nearest') {
          const even = (around: string[]) => !beats(this.table, rows[a]!, rows[b]!, around) && !beats(this.table, rows[b]!, rows[a]!, around);
          if (this.place < 0) {
            if (!even([])) continue;
          } else {
            sets[this.place] = sets[this.place]!.filter((k) => even(this.around(k)));
            if (sets[this.place]!.length === 0) continue;
          }
        }
        if (!this.meets(sets)) continue;
        if (overlaps.length >= mostOverlaps) return { overlaps, moreOverlaps: true };
        overlaps.push({ rows: [a, b], where: this.region(sets) });
      }
    return { overlaps, moreOverlaps: false };
  }

  private around = (k: number): string[] => {
    const one = this.classes[this.place]![k]!;
    return placesAround(this.tree, one.is === 'values' ? (one.values[0] ?? null) : null);
  };

  /** The row that wins among those that hold; as `rowFor` has it. */
  private winner(holding: readonly number[], placeClass: number | undefined, but = -1): number | undefined {
    const { rows, chooses } = this.table;
    const some = but < 0 ? holding : holding.filter((r) => r !== but);
    if (chooses !== 'nearest') return some[0];
    const around = placeClass === undefined ? [] : this.around(placeClass);
    return some.find((i) => !some.some((j) => j !== i && beats(this.table, rows[j]!, rows[i]!, around)));
  }

  /** Whether a row ever wins, and whether anything would go elsewhere without it; undefined where that takes too long to say. */
  rowMatters(row: number): { wins: boolean; matters: boolean } | undefined {
    const { rows } = this.table;
    const answerOf = (r: number | undefined) => (r === undefined ? this.table.fallback : rows[r]!.answer);
    const its = this.held[row]!;
    const masks = its.map((set) => new Set(set));
    const rivals = rows.flatMap((_, r) => (r !== row && this.held[r]!.every((set, c) => set.some((k) => masks[c]!.has(k))) ? [r] : []));
    const known = new Set<string>();
    const found = { wins: false, matters: false };
    let steps = 0;
    const down = (depth: number, left: number[], kindClass: number | undefined, placeClass: number | undefined): boolean => {
      if (++steps > mostSteps) throw new TooMuch();
      const key = `${depth} ${kindClass ?? ''} ${placeClass ?? ''} ${left.join(',')}`;
      if (known.has(key)) return false;
      known.add(key);
      const column = this.order[depth];
      if (column === undefined) {
        const holding = [...left, row].sort((a, b) => a - b);
        if (this.winner(holding, placeClass) !== row) return false;
        found.wins = true;
        found.matters = !sameJson(answerOf(this.winner(holding, placeClass, row)), rows[row]!.answer);
        return found.matters;
      }
      for (const k of its[column]!) {
        if (this.sizeOf(column, k, kindClass) === 0) continue;
        const { rows: holding } = this.classes[column]![k]!;
        const next = left.filter((r) => holding.has(r));
        if (down(depth + 1, next, column === this.kind ? k : kindClass, column === this.place ? k : placeClass)) return true;
      }
      return false;
    };
    try {
      down(0, rivals, undefined, undefined);
      return found;
    } catch (error) {
      if (!(error instanceof TooMuch)) throw error;
      return found.wins && found.matters ? found : undefined;
    }
  }
}
