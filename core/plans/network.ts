/** An activity of a network: how long it takes, and what has to be over before it begins. */
export interface NetworkActivity {
  id: string;
  mean: number;
  variance: number;
  after: string[];
}

/** When an activity can begin and end at the earliest, and must at the latest, without making the whole longer. */
export interface Timed {
  earliestStart: number;
  earliestFinish: number;
  latestStart: number;
  latestFinish: number;
  slack: number;
}

/** The longest way through a network, and the times of each activity, in its units. */
export interface CriticalPath {
  /** The length of the longest path. */
  length: number;
  /** The activities without slack, in order. */
  path: string[];
  /** Summed over one longest path. */
  variance: number;
  times: Map<string, Timed>;
}

/**
 * The critical path of a network by forward and backward pass (CPM; PERT, Malcolm, Roseboom, Clark, Fazar 1959).
 * Activities may be in any order; a circle throws a RangeError.
 */
export function criticalPath(activities: NetworkActivity[]): CriticalPath {
  const byId = new Map(activities.map((a) => [a.id, a]));
  const order: NetworkActivity[] = [];
  const state = new Map<string, 'open' | 'done'>();
  // With a stack of its own: networks of hundreds of activities in a row are no problem.
  for (const first of activities) {
    const stack = [first];
    while (stack.length) {
      const a = stack.at(-1)!;
      if (state.get(a.id) === 'done') {
        stack.pop();
        continue;
      }
      state.set(a.id, 'open');
      const next = a.after.map((id) => byId.get(id)).find((b) => b && state.get(b.id) !== 'done');
      if (!next) {
        state.set(a.id, 'done');
        order.push(stack.pop()!);
      } else if (state.get(next.id) === 'open') throw new RangeError(`“${next.id}” waits, in the end, for itself.`);
      else stack.push(next);
    }
  }
  const finish = new Map<string, number>();
  /** Along the longest way to an activity's end. */
  const variance = new Map<string, number>();
  const cause = new Map<string, string | undefined>();
  for (const a of order) {
    let start = 0;
    let before: string | undefined;
    for (const id of a.after) {
      const end = finish.get(id) ?? 0;
      if (before === undefined || end > start || (end === start && (variance.get(id) ?? 0) > (variance.get(before) ?? 0))) {
        start = end;
        before = id;
      }
    }
    finish.set(a.id, start + a.mean);
    variance.set(a.id, (before === undefined ? 0 : (variance.get(before) ?? 0)) + a.variance);
    cause.set(a.id, before);
  }
  const length = Math.max(0, ...finish.values());
  const latest = new Map<string, number>();
  for (const a of order.toReversed()) {
    const end = latest.get(a.id) ?? length;
    latest.set(a.id, end);
    for (const id of a.after) latest.set(id, Math.min(latest.get(id) ?? length, end - a.mean));
  }
  const times = new Map<string, Timed>();
  for (const a of order) {
    const earliestFinish = finish.get(a.id)!;
    const latestFinish = latest.get(a.id)!;
    times.set(a.id, {
      earliestStart: earliestFinish - a.mean,
      earliestFinish,
      latestStart: latestFinish - a.mean,
      latestFinish,
      slack: clean(latestFinish - earliestFinish),
    });
  }
  // What takes no time at its end belongs to it.
  const last = order.reduce<NetworkActivity | undefined>(
    (best, a) => (finish.get(a.id) === length && (!best || variance.get(a.id)! >= variance.get(best.id)!) ? a : best),
    undefined,
  );
  const path: string[] = [];
  for (let id = last?.id; id !== undefined; id = cause.get(id)) path.unshift(id);
  return { length, path, variance: last ? variance.get(last.id)! : 0, times };
}

/** Differences of sums that should be equal. */
const clean = (n: number) => (Math.abs(n) < 1e-9 ? 0 : n);

/**
 * The chance that something with this mean and variance is over within a time, taking it as normally distributed.
 * Source of the approximation: PERT 1959; of the error function: Abramowitz and Stegun 7.1.26 (from memory), good to 1.5e-7.
 */
export function chanceWithin(time: number, mean: number, variance: number): number {
  if (variance <= 0) return time >= mean ? 1 : 0;
  const x = (time - mean) / Math.sqrt(2 * variance);
  const t = 1 / (1 + 0.3275911 * Math.abs(x));
  const tail = ((((1.061405429 * t - 1.453152027) * t + 1.421413741) * t - 0.284496736) * t + 0.254829592) * t * Math.exp(-x * x);
  return x >= 0 ? 1 - tail / 2 : tail / 2;
}
