import { sameJson } from '../boundary/index.ts';
import { classesOf, type FactClass, type RoutingDomain } from './domain.ts';
import { cellOf, distanceTo, placesAround, statedIn, type PlaceTree, type RoutingTable } from './table.ts';

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

const bitsOf = (set: readonly number[], of: number): Uint32Array => {
  const bits = new Uint32Array(Math.ceil(of / 32));
  for (const k of set) add(bits, k);
  return bits;
};
const has = (bits: Uint32Array, k: number): boolean => (bits[k >>> 5]! & (1 << (k & 31))) !== 0;
const add = (bits: Uint32Array, k: number): void => void (bits[k >>> 5]! |= 1 << (k & 31));
const drop = (bits: Uint32Array, k: number): void => void (bits[k >>> 5]! &= ~(1 << (k & 31)));
/** The numbers in a set, in order. */
function rowsIn(bits: Uint32Array): number[] {
  const found: number[] = [];
  for (let w = 0; w < bits.length; w++) for (let word = bits[w]!; word !== 0; word &= word - 1) found.push(w * 32 + (31 - Math.clz32(word & -word)));
  return found;
}
/** Whether all of one set is in another. */
function within(a: Uint32Array, b: Uint32Array): boolean {
  for (let i = 0; i < a.length; i++) if ((a[i]! & ~b[i]!) !== 0) return false;
  return true;
}
/** Asked a million times of a table of a thousand rows: a loop, and no function within it. */
function meet(a: Uint32Array, b: Uint32Array): boolean {
  for (let i = 0; i < a.length; i++) if ((a[i]! & b[i]!) !== 0) return true;
  return false;
}
/** Whether the rows meet in every column. */
function allMeet(a: readonly Uint32Array[], b: readonly Uint32Array[]): boolean {
  for (let c = 0; c < a.length; c++) if (!meet(a[c]!, b[c]!)) return false;
  return true;
}

/** A way down the columns that no row covers: for each group of classes what follows. */
type Gap = 'covered' | 'open' | { id: number; groups: { classes: number[]; then: Gap }[]; combinations: number };

class Look {
  private readonly table: RoutingTable;
  private readonly classes: FactClass[][];
  private readonly domain: RoutingDomain;
  private readonly tree: PlaceTree;
  /**
   * The columns in the orders in which they are gone down, a kind always before its categories: a place first of all where rows are weighed
   * by it; a kind where what is left over is told, which then stands together.
   */
  private readonly order: number[];
  private readonly tellingOrder: number[];
  private readonly kind: number;
  private readonly category: number;
  private readonly place: number;
  /** Of each row and column the classes it holds for; and the same as bits. */
  private readonly held: number[][][];
  private readonly bits: Uint32Array[][];
  /** Of each column and class the rows that hold for it, as bits. */
  private readonly rowsOf: Uint32Array[][];
  /** How many columns each row states something in, and how far from each class of places it names one. */
  private readonly stated: number[];
  private readonly away: number[][];

  constructor(table: RoutingTable, classes: FactClass[][], domain: RoutingDomain, tree: PlaceTree) {
    [this.table, this.domain, this.tree] = [table, domain, tree];
    const at = (fact: string) => table.columns.findIndex((c) => c.fact === fact);
    [this.kind, this.category, this.place] = [at('kind'), domain.categoriesOf ? at('category') : -1, at('place')];
    // Kinds that rows do not tell apart are still apart where they have other categories.
    this.classes = classes.map((all, c) => (c === this.kind && this.category >= 0 ? all.flatMap((one) => this.byCategories(one)) : all));
    const rank = (c: number) => (c === this.place ? 0 : c === this.kind ? 1 : c === this.category ? 2 : 3 + this.classes[c]!.length);
    this.order = table.columns.map((_, c) => c).sort((a, b) => rank(a) - rank(b));
    const telling = (c: number) => (c === this.place ? 3 : rank(c));
    this.tellingOrder = this.order.toSorted((a, b) => telling(a) - telling(b));
    this.held = table.rows.map((_, r) => this.classes.map((all) => all.flatMap((one, k) => (one.rows.has(r) ? [k] : []))));
    this.bits = this.held.map((its) => its.map((set, c) => bitsOf(set, this.classes[c]!.length)));
    this.rowsOf = this.classes.map((all) => all.map((one) => bitsOf([...one.rows], Math.max(1, table.rows.length))));
    this.stated = table.rows.map((row) => statedIn(table, row));
    const around = this.place < 0 ? [] : this.classes[this.place]!.map((_, k) => this.around(k));
    const placeColumn = table.columns[this.place]?.id ?? '';
    this.away = this.place < 0 ? [] : table.rows.map((row) => around.map((places) => distanceTo(cellOf(row, placeColumn), places)));
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
    const column = this.tellingOrder[depth];
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
    const order = this.tellingOrder;
    const known = new Map<string, Gap>();
    // A row that wants nothing of the columns from a depth on covers all that comes to it there.
    const freeFrom = rows.map((_, r) => {
      let depth = order.length;
      while (depth > 0 && this.held[r]![order[depth - 1]!]!.length === this.classes[order[depth - 1]!]!.length) depth--;
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
      const column = order[depth]!;
      const key = `${depth} ${this.category >= 0 && depth <= order.indexOf(this.category) ? (kindClass ?? '') : ''} ${left.join(',')}`;
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
      const column = order[depth]!;
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
    for (let a = 0; a < rows.length; a++)
      for (let b = a + 1; b < rows.length; b++) {
        if (chooses === 'nearest' && this.stated[a] !== this.stated[b]) continue;
        if (!allMeet(this.bits[a]!, this.bits[b]!)) continue;
        if (chooses === 'nearest' && sameJson(rows[a]!.answer, rows[b]!.answer)) continue;
        const sets = this.held[a]!.map((set, c) => set.filter((k) => has(this.bits[b]![c]!, k)));
        if (chooses === 'nearest' && this.place >= 0) {
          sets[this.place] = sets[this.place]!.filter((k) => !this.nearer(a, b, k) && !this.nearer(b, a, k));
          if (sets[this.place]!.length === 0) continue;
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

  /** Of rows that state as many: whether one is nearer to a class of places than another that names one. */
  private nearer(a: number, b: number, k: number): boolean {
    const [toA, toB] = [this.away[a]![k]!, this.away[b]![k]!];
    return toA < toB && toB !== Infinity;
  }

  /** The row that wins among those that hold, in their order; as `rowFor` has it. */
  private winner(holding: readonly number[], placeClass: number | undefined, but = -1): number | undefined {
    if (this.table.chooses !== 'nearest') return holding.find((r) => r !== but);
    let most = -1;
    let free: number | undefined;
    let nearest: number | undefined;
    let away = Infinity;
    for (const r of holding) {
      if (r === but || this.stated[r]! < most) continue;
      if (this.stated[r]! > most) [most, free, nearest, away] = [this.stated[r]!, undefined, undefined, Infinity];
      const its = placeClass === undefined ? Infinity : this.away[r]![placeClass]!;
      if (its === Infinity) free ??= r;
      else if (its < away) [nearest, away] = [r, its];
    }
    return free === undefined || (nearest !== undefined && nearest < free) ? nearest : free;
  }

  /** Whether a rival that holds wherever a row does comes before it there. */
  private before(rival: number, row: number, placeClass: number | undefined): boolean {
    if (this.table.chooses !== 'nearest') return rival < row;
    if (this.stated[rival] !== this.stated[row]) return this.stated[rival]! > this.stated[row]!;
    if (this.place < 0) return rival < row;
    // Equally specific, and one of them names no place: something nearer than the rival may come before it and let the row be first.
    return placeClass !== undefined && this.nearer(rival, row, placeClass);
  }

  /** Whether a row ever wins, and whether anything would go elsewhere without it; undefined where that takes too long to say. */
  rowMatters(row: number): { wins: boolean; matters: boolean } | undefined {
    const { rows } = this.table;
    const answerOf = (r: number | undefined) => (r === undefined ? this.table.fallback : rows[r]!.answer);
    const its = this.held[row]!;
    const rivals = this.rivalsOf(row);
    // From which depth on a rival holds wherever the row does; as rows by depth.
    const covering = this.order.map(() => this.noRows());
    covering.push(this.noRows());
    // Which of them come before it wherever they do, and which where they are nearer.
    const always = this.noRows();
    const asMany = this.noRows();
    const mayWin = this.noRows();
    for (const r of rowsIn(rivals)) {
      let depth = this.order.length;
      while (depth > 0 && within(this.bits[row]![this.order[depth - 1]!]!, this.bits[r]![this.order[depth - 1]!]!)) depth--;
      for (let d = depth; d <= this.order.length; d++) add(covering[d]!, r);
      if (this.before(r, row, undefined)) add(always, r);
      if (this.stated[r] === this.stated[row]) add(asMany, r);
      if (this.table.chooses === 'nearest' ? this.stated[r]! >= this.stated[row]! : r < row) add(mayWin, r);
    }
    const nearer = new Map<number, Uint32Array>();
    const nearerAt = (k: number): Uint32Array => {
      const known = nearer.get(k);
      if (known) return known;
      const found = this.noRows();
      for (const r of rowsIn(asMany)) if (this.before(r, row, k)) add(found, r);
      nearer.set(k, found);
      return found;
    };
    let steps = 0;
    /** Goes down the columns through all that the row holds for; `at` says of the rows that hold there, it among them, whether that is enough. */
    const through = (among: Uint32Array, at: (holding: number[], placeClass: number | undefined) => boolean): boolean => {
      // One set of rows a depth: what is left there.
      const left = Array.from({ length: this.order.length + 1 }, () => this.noRows());
      left[0]!.set(among);
      const known = new KnownSets();
      const down = (depth: number, kindClass: number | undefined, placeClass: number | undefined): boolean => {
        if (++steps > mostSteps) throw new TooMuch();
        const here = left[depth]!;
        // Some rival holds wherever the row still does, and comes before it.
        const near = placeClass === undefined ? undefined : nearerAt(placeClass);
        const cover = covering[depth]!;
        for (let w = 0; w < here.length; w++) if ((here[w]! & cover[w]! & (always[w]! | (near ? near[w]! : 0))) !== 0) return false;
        const column = this.order[depth];
        if (column === undefined) {
          const holding = rowsIn(here);
          const place = holding.findIndex((r) => r > row);
          holding.splice(place < 0 ? holding.length : place, 0, row);
          return at(holding, placeClass);
        }
        if (known.has(here, [depth, kindClass ?? -1, placeClass ?? -1])) return false;
        const next = left[depth + 1]!;
        for (const k of its[column]!) {
          if (this.sizeOf(column, k, kindClass) === 0) continue;
          const of = this.rowsOf[column]![k]!;
          for (let w = 0; w < here.length; w++) next[w] = here[w]! & of[w]!;
          if (down(depth + 1, column === this.kind ? k : kindClass, column === this.place ? k : placeClass)) return true;
        }
        return false;
      };
      return down(0, undefined, undefined);
    };
    const found = { wins: false, matters: false };
    try {
      // Whether it ever wins only those decide that can come before it.
      found.wins = through(mayWin, (holding, placeClass) => this.winner(holding, placeClass) === row);
      found.matters =
        found.wins &&
        through(rivals, (holding, placeClass) => {
          if (this.winner(holding, placeClass) !== row) return false;
          return !sameJson(answerOf(this.winner(holding, placeClass, row)), rows[row]!.answer);
        });
      return found;
    } catch (error) {
      if (!(error instanceof TooMuch)) throw error;
      return undefined;
    }
  }

  private noRows = (): Uint32Array => new Uint32Array(Math.max(1, Math.ceil(this.table.rows.length / 32)));

  /** The other rows that hold for something in every column for which a row does. */
  private rivalsOf(row: number): Uint32Array {
    const found = this.noRows().fill(0xffffffff);
    for (let c = 0; c < this.classes.length; c++) {
      const its = this.held[row]![c]!;
      const any = this.noRows();
      for (const k of its) {
        const of = this.rowsOf[c]![k]!;
        for (let w = 0; w < any.length; w++) any[w]! |= of[w]!;
      }
      for (let w = 0; w < any.length; w++) found[w]! &= any[w]!;
    }
    // Without a column there is nothing to tell rows apart by, and none beyond the last.
    for (let r = this.table.rows.length; r < found.length * 32; r++) drop(found, r);
    drop(found, row);
    return found;
  }
}

/** Sets of rows that were come to before, each with where; found by a number made of them, and held against what it stands for. */
class KnownSets {
  private readonly byHash = new Map<number, { rows: Uint32Array; where: number[] }[]>();

  /** Whether it was there; from then on it is. */
  has(rows: Uint32Array, where: number[]): boolean {
    let hash = 0x811c9dc5;
    for (const n of where) hash = Math.imul(hash ^ n, 0x01000193);
    for (let w = 0; w < rows.length; w++) hash = Math.imul(hash ^ rows[w]!, 0x01000193);
    const alike = this.byHash.get(hash);
    if (alike?.some((one) => one.where.every((n, i) => n === where[i]) && one.rows.every((word, w) => word === rows[w]))) return true;
    const kept = { rows: rows.slice(), where };
    if (alike) alike.push(kept);
    else this.byHash.set(hash, [kept]);
    return false;
  }
}
