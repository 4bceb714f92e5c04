import type { Naming } from '../conditions/index.ts';
import { roomOf, type Block, type Catalogue, type Flow, type Step } from '../steps/index.ts';
import { branches, flowOf } from './blocks.ts';
import type { Plan } from './plan.ts';
import { analyseTime, ownMinutes } from './timing.ts';
import { branchWords, partyWords } from './words.ts';

/** Sizes in px on the 4 px grid. */
export const sheet = { gutter: 156, row: 44, gap: 16, head: 28, tick: 28, bandGap: 16, bandPad: 8 };

/** A step on the sheet. Coordinates in px from the sheet's upper left corner. */
export interface SheetMark {
  step: string;
  /** `bar`: takes time. `tick`: automatic. `lock`: a gate, its wait as a bar and then a bar across all rows. `fork`: holds bands below. */
  form: 'bar' | 'tick' | 'lock' | 'fork';
  x: number;
  y: number;
  width: number;
  /** Of a lock: the bar across all rows of its area. */
  lock?: { x: number; y: number; height: number };
  /** Expected working minutes from the plan's beginning. */
  begins: number;
  ends: number;
  critical: boolean;
  area: string;
}

/** Rows that belong together: the plan's main line, or one band of a choice or gate. */
export interface Area {
  id: string;
  depth: number;
  x: number;
  y: number;
  width: number;
  height: number;
  /** Words at the head of a band: its condition. */
  label: string;
  rows: { party: string; y: number }[];
  /** The step that opens the band, its branch, and where the band hangs from. */
  from?: { step: string; flow: Flow['is']; branch: string; x: number; y: number };
}

/** The whole sheet, sizes in px, times in expected working minutes. */
export interface SheetLayout {
  width: number;
  height: number;
  marks: SheetMark[];
  areas: Area[];
  ruler: { minutes: number; x: number }[];
  /** Expected working minutes of the longest way through. */
  length: number;
}

/** Width of a time in px: minutes stretch, days compress, so that both can be seen. */
export const stretch = (minutes: number): number => Math.round(40 * Math.log1p(minutes / 6));

/** Branches that lead away from what was asked for; what follows does not wait for them on the sheet. */
function asideOf(step: Step): Set<string> {
  const flow = flowOf(step);
  const ways = flow.is === 'one' ? flow.ways : flow.is === 'tried' ? flow.instead : [];
  return new Set(ways.filter((w) => w.aside).map((w) => w.id));
}

const nameWidth = (name: string) => Math.min(240, Math.max(72, Math.round(name.length * 7.2) + 40));

/** A block laid out on its own, its first row at y 0. */
interface Piece {
  marks: SheetMark[];
  areas: Area[];
  right: number;
  height: number;
  ends: number;
  /** False: a finish lies on the way, so nothing comes out at the end. */
  open: boolean;
}

/**
 * Lays a plan out over expected working time, a row for each party, bands below for branches.
 * Pure geometry: the same plan always gives the same sheet, and nothing is placed by hand.
 */
export function layoutSheet(plan: Plan, naming: Naming, catalogue: Catalogue): SheetLayout {
  const time = analyseTime(plan, undefined, catalogue);
  const anchors: { minutes: number; x: number }[] = [];

  function piece(block: Block, id: string, depth: number, x: number, begins: number, label: string): Piece {
    const partyOf = new Map(block.map((s) => [s.id, partyWords(s, naming, catalogue)]));
    const parties = [...new Set(partyOf.values())].filter(Boolean);
    if (id === 'plan' && !parties.includes('Requester')) parties.unshift('Requester');
    if (block.length === 0) parties.push('Nothing yet');
    const top = label ? sheet.head : 0;
    const rows = parties.map((party, i) => ({ party, y: top + i * sheet.row }));
    const forks = block.some((s) => partyOf.get(s.id) === '');
    const own: Area = { id, depth, x, y: 0, width: 0, height: top + parties.length * sheet.row + (forks ? sheet.tick : 0), label, rows };
    const marks: SheetMark[] = [];
    const bands: Piece[] = [];

    let cursor = x + sheet.gutter;
    let now = begins;
    let open = true;
    for (const step of block) {
      const minutes = ownMinutes(step);
      const lock = roomOf(step).isLock === true;
      const aside = asideOf(step);
      const fork = partyOf.get(step.id) === '';
      const row = rows.find((r) => r.party === partyOf.get(step.id));
      const width = Math.max(stretch(minutes), nameWidth(step.name));
      const mark: SheetMark = {
        step: step.id,
        form: lock ? 'lock' : fork ? 'fork' : minutes > 0 ? 'bar' : 'tick',
        x: cursor,
        y: row?.y ?? own.height - sheet.tick,
        width,
        ...(lock && { lock: { x: cursor + width, y: top, height: own.height - top } }),
        begins: now,
        ends: now + minutes,
        critical: time.critical.has(step.id),
        area: id,
      };
      marks.push(mark);
      if (id === 'plan') anchors.push({ minutes: now, x: cursor });
      cursor += width + (lock ? 12 : 0);
      now += minutes;
      if (id === 'plan') anchors.push({ minutes: now, x: cursor });

      let after = cursor;
      let later = now;
      const hangs = fork ? mark.x : mark.x + width;
      const mine = branches(step).map((branch) => {
        const band = piece(branch.block, `${step.id}.${branch.id}`, depth + 1, hangs + 16, now, branchWords(step, branch.id, naming));
        band.areas[0]!.from = { step: step.id, flow: flowOf(step).is, branch: branch.id, x: hangs, y: own.height };
        if (band.open && !aside.has(branch.id)) {
          after = Math.max(after, band.right);
          later = Math.max(later, band.ends);
        }
        return band;
      });
      // Later steps hang further right: with their bands on top, no line from above crosses a band.
      bands.unshift(...mine);
      cursor = after + sheet.gap;
      now = later;
      if (flowOf(step).is === 'ends') open = false;
    }

    own.width = Math.max(cursor - x, sheet.gutter + 120, ...bands.map((b) => b.right - x));
    const areas = [own];
    let bottom = own.height + sheet.bandPad;
    for (const band of bands) {
      bottom += sheet.bandGap / 2;
      for (const m of band.marks) marks.push(lowered(m, bottom));
      for (const a of band.areas) areas.push(loweredArea(a, bottom, own));
      bottom += band.height + sheet.bandGap / 2;
    }
    return { marks, areas, right: x + own.width, height: bottom, ends: now, open };
  }

  const main = piece(plan.steps, 'plan', 0, 0, 0, '');
  return {
    width: main.right + sheet.gap,
    height: main.height + sheet.head + sheet.gap,
    marks: main.marks.map((m) => lowered(m, sheet.head)),
    areas: main.areas.map((a) => loweredArea(a, sheet.head)),
    ruler: ruler(anchors, time.longest),
    length: time.longest,
  };
}

const lowered = (m: SheetMark, by: number): SheetMark => ({ ...m, y: m.y + by, ...(m.lock && { lock: { ...m.lock, y: m.lock.y + by } }) });

/** A band keeps hanging from the foot of the area it belongs to, which is lowered with it only from outside. */
const loweredArea = (a: Area, by: number, host?: Area): Area => ({
  ...a,
  y: a.y + by,
  rows: a.rows.map((r) => ({ ...r, y: r.y + by })),
  ...(a.from && { from: { ...a.from, y: host && a.depth === host.depth + 1 ? host.height : a.from.y + by } }),
});

const rulerTimes = [0, 15, 60, 240, 480, 960, 1440, 2400, 4800, 9600, 24000];

/** Ruler ticks at times a reader knows, placed between the anchors the steps give. */
function ruler(anchors: { minutes: number; x: number }[], length: number): { minutes: number; x: number }[] {
  if (anchors.length === 0) return [{ minutes: 0, x: sheet.gutter }];
  const ticks: { minutes: number; x: number }[] = [];
  for (const minutes of rulerTimes) {
    if (minutes > length) break;
    const next = anchors.findIndex((a) => a.minutes >= minutes);
    const b = anchors[next];
    if (!b) break;
    const a = anchors[next - 1] ?? b;
    const span = b.minutes - a.minutes;
    const part = span > 0 ? stretch(minutes - a.minutes) / stretch(span) : 1;
    const x = Math.round(a.x + (b.x - a.x) * part);
    if (x - (ticks.at(-1)?.x ?? -100) >= 40) ticks.push({ minutes, x });
  }
  return ticks;
}
