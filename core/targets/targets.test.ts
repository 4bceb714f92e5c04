import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compileHours, usualHours, type Held } from '../calendar/index.ts';
import type { Axis, TicketPromise } from './index.ts';
import {
  PriorityGrid,
  priorityFor,
  promisedMinutes,
  promiseFor,
  standingOf,
  standingWords,
  tideLine,
  usedUpAt,
  usualGrid,
  withLevel,
  withoutLevel,
} from './index.ts';

const promise = (within: string, more: Partial<TicketPromise> = {}): TicketPromise => ({
  of: 'fulfilment',
  priorities: [],
  places: [],
  within: { length: within, counted: 'working' },
  warnAt: 75,
  late: { tell: 'holder' },
  ...more,
});
/** Monday to Friday, 8 to 15:30, at Lunnick. */
const lunnick = compileHours({
  ...usualHours('Europe/Oslo'),
  week: usualHours('Europe/Oslo').week.map((d) => d.map((s) => ({ ...s, to: 15 * 60 + 30 }))),
});

describe('priority', () => {
  it('comes from impact and urgency', () => {
    expect(PriorityGrid.parse(usualGrid)).toEqual(usualGrid);
    expect([priorityFor(usualGrid, 'many', 'now'), priorityFor(usualGrid, 'one', 'later'), priorityFor(usualGrid, 'one', 'gone')]).toEqual([
      'high',
      'low',
      undefined,
    ]);
    const says = (g: PriorityGrid) => PriorityGrid.safeParse(g).error?.issues.map((i) => i.message) ?? [];
    expect(says({ ...usualGrid, cells: usualGrid.cells.slice(1) })).toEqual(['Every impact and urgency together need a priority.']);
    expect(says({ ...usualGrid, priorities: usualGrid.priorities.slice(1) })).toEqual(['A priority in the grid is not there any more.']);
    expect(says({ ...usualGrid, usual: { impact: 'x', urgency: 'now' } })).toEqual(['Say which impact is the usual one.']);
  });
});

describe('a promise', () => {
  it('is that of the nearest place, and of those of one place the first', () => {
    const all = [
      promise('PT8H'),
      promise('PT4H', { priorities: ['high'] }),
      promise('PT2H', { places: ['lunnick'], priorities: ['high'] }),
      promise('PT1H', { places: ['observatory'] }),
      promise('PT9H', { of: 'response' }),
    ];
    const within = (priority: string, places: string[]) => promiseFor(all, 'fulfilment', { priority, places })?.within.length;
    expect(within('high', [])).toBe('PT8H');
    expect(within('high', ['boat shed', 'lunnick'])).toBe('PT2H');
    expect(within('low', ['boat shed', 'lunnick'])).toBe('PT8H');
    expect(within('low', ['observatory', 'lunnick'])).toBe('PT1H');
    expect(promiseFor(all.slice(1), 'response', { priority: 'low', places: [] })?.within.length).toBe('PT9H');
    expect(promiseFor([], 'fulfilment', { priority: 'low', places: [] })).toBeUndefined();
  });

  it('counts days of eight hours where working time counts, of twenty-four where every hour does', () => {
    expect(promisedMinutes({ length: 'P1D', counted: 'working' })).toBe(480);
    expect(promisedMinutes({ length: 'P1D', counted: 'always' })).toBe(1440);
  });

  // Reckoned by hand, line by line as on a sheet of paper. Friday 27 November 2026, Lunnick, which is an hour before UTC.
  it('of 4 h from Friday 11:34, held for 16 minutes, is due on Monday at 8:20', () => {
    const clock = { began: '2026-11-27T10:34:00.000Z', held: [{ from: '2026-11-27T10:46:00.000Z', to: '2026-11-27T11:02:00.000Z' }] };
    const sheet = [
      { from: '11:34', to: '11:46', counts: 12 },
      { from: '11:46', to: '12:02', counts: 0 }, // held
      { from: '12:02', to: '15:30', counts: 208 }, // Lunnick closes
    ];
    const friday = sheet.reduce((sum, l) => sum + l.counts, 0);
    expect(240 - friday).toBe(20); // so 20 minutes are left for Monday, from 8:00
    const p = promise('PT4H');
    expect(standingOf(p, clock, lunnick, '2026-11-27T20:00:00.000Z')).toMatchObject({
      promised: 240,
      used: friday,
      held: 16,
      left: 20,
      due: '2026-11-30T07:20:00.000Z',
      warned: true,
      late: false,
      phase: 'running',
    });
    // Three quarters are used up after 180 minutes: 12 before the hold, 168 after it, at 14:50.
    expect(usedUpAt(p, clock, lunnick, 0.75)).toBe('2026-11-27T13:50:00.000Z');
    expect(standingOf(p, clock, lunnick, '2026-11-30T07:20:00.000Z').late).toBe(false);
    expect(standingOf(p, clock, lunnick, '2026-11-30T07:21:00.000Z')).toMatchObject({ late: true, left: -1 });
  });

  it('that is held is due at no moment, and one that stopped stands as it did then', () => {
    const p = promise('PT4H');
    const held = { began: '2026-11-27T08:00:00.000Z', held: [{ from: '2026-11-27T09:00:00.000Z' }] };
    const standing = standingOf(p, held, lunnick, '2026-11-27T12:00:00.000Z');
    expect(standing).toMatchObject({
      phase: 'held',
      used: 60,
      due: undefined,
      stretches: [
        { is: 'used', minutes: 60 },
        { is: 'held', minutes: 180 },
      ],
    });
    expect(standingWords(standing)).toBe('1 h of 4 h used, 3 h held, held, 3 h left');
    const kept = standingOf(p, { began: held.began, stopped: '2026-11-27T09:00:00.000Z', held: [] }, lunnick, '2026-12-24T12:00:00.000Z');
    expect([kept.used, kept.phase, standingWords(kept)]).toEqual([60, 'stopped', '1 h of 4 h used, the promise was kept']);
    const broken = standingOf(p, { began: held.began, stopped: '2026-11-27T13:00:00.000Z', held: [] }, lunnick, '2026-12-24T12:00:00.000Z');
    expect(standingWords(broken)).toBe('5 h of 4 h used, the promise was broken by 1 h');
  });
});

describe('a tide line', () => {
  const at = (n: number) => new Date(Date.UTC(2026, 10, 25) + n * 60_000).toISOString();
  const desk = compileHours(usualHours('utc'));
  const stretch = fc
    .tuple(fc.integer({ min: 0, max: 2900 }), fc.integer({ min: 1, max: 400 }))
    .map(([from, length]): Held => ({ from: at(from), to: at(from + length) }));

  it('shows all that was used and held in order, its end where the promise ends, its warning where it is warned', () => {
    fc.assert(
      fc.property(
        fc.array(stretch, { maxLength: 5 }),
        fc.integer({ min: 0, max: 2800 }),
        fc.integer({ min: 1, max: 3000 }),
        fc.integer({ min: 30, max: 900 }),
        fc.integer({ min: 1, max: 99 }),
        (held, began, later, minutes, warnAt) => {
          const p = promise(`PT${minutes}M`, { warnAt });
          const s = standingOf(p, { began: at(began), held }, desk, at(began + later));
          // Walked minute by minute.
          let [used, away] = [0, 0];
          for (let n = began; n < began + later; n++) {
            const moment = at(n);
            const open =
              [1, 2, 3, 4, 5].includes(new Date(moment).getUTCDay()) && new Date(moment).getUTCHours() >= 8 && new Date(moment).getUTCHours() < 16;
            if (open && held.some((h) => h.from <= moment && moment < h.to!)) away++;
            else if (open) used++;
          }
          expect([s.used, s.held, s.promised]).toEqual([used, away, minutes]);
          const sum = (is: string) => s.stretches.reduce((all, x) => (x.is === is ? all + x.minutes : all), 0);
          expect([sum('used'), sum('held')]).toEqual([used, away]);
          const line = tideLine(s);
          expect(line.end).toBe(0.8);
          // The bar passes its end just when the promise is broken, and its warning just when it is warned.
          const reach = s.stretches.reduce((all, x) => all + x.minutes, 0) / ((s.promised + s.held) / 0.8);
          expect(reach > line.end + 1e-9).toBe(s.late);
          const usedAtWarn = s.stretches.length > 0 && used >= (minutes * warnAt) / 100;
          expect(s.warned).toBe(usedAtWarn || used >= (minutes * warnAt) / 100);
          expect(line.warn).toBeGreaterThan(0);
          if (!s.warned) expect(line.warn).toBeGreaterThan(Math.min(1, reach) - 1e-9);
          let last = 0;
          for (const x of line.stretches) {
            expect(x.from).toBeCloseTo(last, 9);
            expect(x.to).toBeGreaterThanOrEqual(x.from);
            expect(x.to).toBeLessThanOrEqual(1);
            last = x.to;
          }
        },
      ),
      { numRuns: 300 },
    );
  });
});

describe('levels that come and go', () => {
  it('leave a grid that holds, whatever is added and taken away', () => {
    const act = fc.record({ add: fc.boolean(), axis: fc.constantFrom<Axis>('impacts', 'urgencies', 'priorities'), at: fc.nat(5) });
    fc.assert(
      fc.property(fc.array(act, { maxLength: 12 }), (acts) => {
        let grid = usualGrid;
        for (const [n, { add, axis, at }] of acts.entries()) {
          const level = grid[axis][at % grid[axis].length]!;
          grid = add && grid[axis].length < 10 ? withLevel(grid, axis, { id: `n${n}`, label: `New ${n}` }) : withoutLevel(grid, axis, level.id);
          expect(PriorityGrid.safeParse(grid).error?.issues).toBeUndefined();
        }
      }),
    );
  });
  it('put the next lower priority in the place of one that is gone', () => {
    expect(withoutLevel(usualGrid, 'priorities', 'high').cells).toEqual([
      ['medium', 'medium', 'medium'],
      ['medium', 'medium', 'low'],
      ['medium', 'low', 'low'],
    ]);
    expect(withoutLevel(usualGrid, 'priorities', 'low').cells[2]).toEqual(['medium', 'medium', 'medium']);
  });
});
