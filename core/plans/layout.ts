import type { Naming } from '../conditions/index.ts';
import { actionOf, type Catalogue } from './catalogue.ts';
import { branches, type Block, type Plan, type Step } from './plan.ts';
import { longestPath, ownMinutes } from './timing.ts';
import { approversWords, branchWords } from './words.ts';

/** Sizes in px on the 4 px grid. */
export const sheet = { gutter: 156, row: 44, gap: 16, head: 28, tick: 28, bandGap: 16, bandPad: 8 };

/** A step on the sheet. Coordinates in px from the sheet's upper left corner. */
export interface Mark {
  step: string;
  /** `bar`: takes time. `tick`: automatic. `lock`: a gate, its wait as a bar and then a bar across all rows. `fork`: a choice. */
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
  from?: { step: string; branch: string; x: number; y: number };
}

export interface SheetLayout {
  width: number;
  height: number;
  marks: Mark[];
  areas: Area[];
  ruler: { minutes: number; x: number }[];
  /** Expected working minutes of the longest way through. */
  length: number;
}

/** The row a step stands in: who does it. */
export function partyOf(step: Step, naming: Naming, catalogue: Catalogue): string {
  if (step.kind === 'gate') return capital(approversWords(step.approvers, naming, catalogue));
  if (step.kind === 'provision') return actionOf(catalogue, step.action)?.system ?? 'System not chosen';
  if (step.kind === 'tell') return step.to ? naming.place(step.to.ref) : 'Nobody yet';
  if (step.kind === 'choose') return '';
  return 'Requester';
}
const capital = (s: string) => s.charAt(0).toUpperCase() + s.slice(1);

/** Width of a time in px: minutes stretch, days compress, so that both can be seen. */
export const stretch = (minutes: number): number => Math.round(40 * Math.log1p(minutes / 6));

const nameWidth = (name: string) => Math.min(200, Math.max(72, Math.round(name.length * 6.8) + 24));

/**
 * Lays a plan out over expected working time, a row for each party, bands below for branches.
 * Pure geometry: the same plan always gives the same sheet, and nothing is placed by hand.
 */
export function layoutSheet(plan: Plan, naming: Naming, catalogue: Catalogue): SheetLayout {
  const critical = longestPath(plan);
  const marks: Mark[] = [];
  const areas: Area[] = [];
  const anchors: { minutes: number; x: number }[] = [];

  interface Placed {
    right: number;
    bottom: number;
    ends: number;
    open: boolean;
  }

  function area(block: Block, id: string, depth: number, x: number, y: number, begins: number, label: string, from?: Area['from']): Placed {
    const parties = [...new Set(block.map((s) => partyOf(s, naming, catalogue)).filter(Boolean))];
    if (id === 'plan' && !parties.includes('Requester')) parties.unshift('Requester');
    if (parties.length === 0) parties.push('Nothing yet');
    const forks = block.some((s) => s.kind === 'choose');
    const top = y + (label ? sheet.head : 0);
    const rows = parties.map((party, i) => ({ party, y: top + i * sheet.row }));
    const rowsBottom = top + parties.length * sheet.row + (forks ? sheet.tick : 0);
    const self: Area = { id, depth, x, y, width: 0, height: rowsBottom - y, label, rows, ...(from && { from }) };
    areas.push(self);

    let cursor = x + sheet.gutter;
    let now = begins;
    let bottom = rowsBottom + sheet.bandPad;
    let open = true;
    for (const step of block) {
      const minutes = ownMinutes(step);
      const row = rows.find((r) => r.party === partyOf(step, naming, catalogue));
      const width = Math.max(stretch(minutes), nameWidth(step.name));
      const mark: Mark = {
        step: step.id,
        form: step.kind === 'gate' ? 'lock' : step.kind === 'choose' ? 'fork' : minutes > 0 ? 'bar' : 'tick',
        x: cursor,
        y: row?.y ?? rowsBottom - sheet.tick,
        width,
        ...(step.kind === 'gate' && { lock: { x: cursor + width, y: top, height: rowsBottom - top } }),
        begins: now,
        ends: now + minutes,
        critical: critical.steps.has(step.id),
        area: id,
      };
      marks.push(mark);
      if (id === 'plan') anchors.push({ minutes: now, x: cursor });
      cursor += width + (step.kind === 'gate' ? 12 : 0);
      now += minutes;
      if (id === 'plan') anchors.push({ minutes: now, x: cursor });

      let after = cursor;
      let later = now;
      for (const branch of branches(step)) {
        const hang = { step: step.id, branch: branch.id, x: step.kind === 'choose' ? mark.x : mark.x + width, y: rowsBottom };
        const placed = area(
          branch.block,
          `${step.id}.${branch.id}`,
          depth + 1,
          hang.x + 16,
          bottom + sheet.bandGap / 2,
          now,
          branchWords(step, branch.id, naming),
          hang,
        );
        bottom = placed.bottom + sheet.bandGap / 2;
        if (placed.open && branch.id !== 'declined') {
          after = Math.max(after, placed.right);
          later = Math.max(later, placed.ends);
        }
        self.width = Math.max(self.width, placed.right - x);
      }
      cursor = after + sheet.gap;
      now = later;
      if (step.kind === 'finish') open = false;
    }
    self.width = Math.max(self.width, cursor - x, sheet.gutter + 120);
    return { right: x + self.width, bottom, ends: now, open };
  }

  const main = area(plan.steps, 'plan', 0, 0, sheet.head, 0, '');
  return {
    width: main.right + sheet.gap,
    height: main.bottom + sheet.gap,
    marks,
    areas,
    ruler: ruler(anchors, critical.minutes),
    length: critical.minutes,
  };
}

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
