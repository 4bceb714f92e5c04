import { minutesWords, workingMinutes } from '../calendar/index.ts';
import { listWords } from '../values/index.ts';
import { moveOf, statusOf, ways, wordNeeded, type Status, type StatusMap } from './status-map.ts';

/** What the check of a status map found: where, in a sentence, and whether it stops the map from being kept. */
export interface MapFinding {
  code:
    | 'unreached'
    | 'no-end'
    | 'ends-not-reached'
    | 'never-answered'
    | 'held-for-ever'
    | 'nobody-moves'
    | 'goes-round'
    | 'unknown-field'
    | 'at-once'
    | 'gate'
    | 'unknown-value';
  stops: boolean;
  sentence: string;
  /** The status it is about, or the two of the move. */
  at: { status: string } | { from: string; to: string };
}

/** Everything that can be reached by steps from where one begins. */
function reachable(from: Iterable<string>, next: (id: string) => Iterable<string>): Set<string> {
  const found = new Set(from);
  for (const id of found) for (const to of next(id)) found.add(to);
  return found;
}

const quoted = (s: Status | undefined): string => `“${s?.name ?? '?'}”`;

/**
 * What is wrong with a status map: statuses that no ticket comes to, or that none ever leaves for an end; clocks that nothing answers
 * or stops; tickets held for ever, or that go round by themselves; moves that nobody may make, or that need a field that is not there.
 * `fields` are the ids of the fields that the desk fills in.
 */
export function checkMap(map: StatusMap, fields: ReadonlySet<string>): MapFinding[] {
  const found: MapFinding[] = [];
  const reached = reachable([map.begin], (id) => ways(map, id));
  for (const s of map.statuses)
    if (!reached.has(s.id))
      found.push({ code: 'unreached', stops: true, at: { status: s.id }, sentence: `No ticket ever comes to ${quoted(s)}: let a move lead there.` });

  const ends = map.statuses.filter((s) => s.clock === 'ends').map((s) => s.id);
  const before = new Map<string, string[]>();
  for (const s of map.statuses) for (const to of ways(map, s.id)) before.set(to, [...(before.get(to) ?? []), s.id]);
  const canEnd = reachable(ends, (id) => before.get(id) ?? []);
  if (ends.length === 0)
    found.push({
      code: 'ends-not-reached',
      stops: true,
      at: { status: map.begin },
      sentence: 'No status ends the clock, so every ticket would become late. Say which one does.',
    });
  else
    for (const s of map.statuses)
      if (reached.has(s.id) && !canEnd.has(s.id))
        found.push({ code: 'no-end', stops: true, at: { status: s.id }, sentence: `From ${quoted(s)} no way leads to an end.` });

  if (!map.statuses.some((s) => s.clock === 'answers') && ends.length > 0)
    found.push({
      code: 'never-answered',
      stops: false,
      at: { status: map.begin },
      sentence: 'No status answers the response clock; the first word to the requester does, and the end.',
    });

  for (const s of map.statuses) {
    if (!reached.has(s.id)) continue;
    if (s.clock === 'holds' && !s.passes && !map.moves.some((m) => m.from === s.id && m.who.some((w) => w !== 'requester')))
      found.push({
        code: 'held-for-ever',
        stops: false,
        at: { status: s.id },
        sentence: `Who never answers holds the clock in ${quoted(s)} for ever: let it go on by itself after a time, or let the team move it.`,
      });
  }

  for (const m of map.moves) {
    const words = `${quoted(statusOf(map, m.from))} to ${quoted(statusOf(map, m.to))}`;
    if (m.who.length === 0)
      found.push({
        code: 'nobody-moves',
        stops: true,
        at: { from: m.from, to: m.to },
        sentence: `Nobody may move a ticket from ${words}. Say who may.`,
      });
    const gone = m.needs.filter((n) => n !== wordNeeded && !fields.has(n));
    if (gone.length > 0)
      found.push({
        code: 'unknown-field',
        stops: true,
        at: { from: m.from, to: m.to },
        sentence: `The move from ${words} needs a field that is not there any more.`,
      });
  }

  const round = goesRound(map);
  if (round)
    found.push({
      code: 'goes-round',
      stops: true,
      at: { status: round[0]!.id },
      sentence: `A ticket that nobody touches goes round for ever: ${listWords(round.map(quoted))}. Let it stay in one of them.`,
    });

  const atOnce = statusOf(map, map.begin)?.clock === 'ends' ? undefined : map.moves.find((m) => m.from === map.begin && ends.includes(m.to));
  if (atOnce && map.statuses.some((s) => s.clock === 'answers'))
    found.push({
      code: 'at-once',
      stops: false,
      at: { from: atOnce.from, to: atOnce.to },
      sentence: `${quoted(statusOf(map, atOnce.from))} to ${quoted(statusOf(map, atOnce.to))} answers the clock and ends it at once.`,
    });
  return found;
}

/** The statuses through which a ticket passes for ever by itself, if there are such. */
function goesRound(map: StatusMap): Status[] | undefined {
  for (const s of map.statuses) {
    const seen: Status[] = [];
    for (let at: Status | undefined = s; at; at = at.passes && statusOf(map, at.passes.to)) {
      const first = seen.findIndex((x) => x.id === at!.id);
      if (first >= 0) return seen.slice(first);
      seen.push(at);
    }
  }
  return undefined;
}

/** A map in a few sentences for whoever reads it: what holds, what it leads to, how it is reopened. */
export function mapSays(map: StatusMap): string[] {
  const said: string[] = [];
  for (const s of map.statuses) {
    const back = s.answered === undefined ? undefined : statusOf(map, s.answered);
    if (s.clock === 'holds') said.push(`In ${quoted(s)} the clock is held${back ? `; an answer moves it to ${quoted(back)}` : ''}.`);
    else if (s.clock === 'ends' && back && moveOf(map, s.id, back.id))
      said.push(`A word of the requester reopens it from ${quoted(s)} to ${quoted(back)}.`);
    if (s.passes)
      said.push(
        `After ${minutesWords(workingMinutes(s.passes.after.length))}${s.passes.after.counted === 'working' ? ' of working time' : ''} in ${quoted(s)} it goes to ${quoted(statusOf(map, s.passes.to))} by itself.`,
      );
  }
  return said;
}
