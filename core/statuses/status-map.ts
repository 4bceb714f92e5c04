import { z } from 'zod';
import { line } from '../boundary/index.ts';
import { Span } from '../calendar/index.ts';
import { PlainGate } from '../plans/index.ts';
import { Id, plainText, RichText } from '../values/index.ts';

/**
 * What a status does to the clocks of a ticket: they run; entering it answers the response clock; they are held while it stands there;
 * or it ends them. What ends answers too.
 */
export const clockEffects = ['runs', 'answers', 'holds', 'ends'] as const;
/** What a status does to the clocks. */
export type ClockEffect = (typeof clockEffects)[number];

/** Who may make a move: the team it is with, only whoever has it, or the requester. */
export const movers = ['team', 'holder', 'requester'] as const;
/** One of those who may move a ticket. */
export type Mover = (typeof movers)[number];

/** A status of a ticket kind. */
export const Status = z.object({
  id: Id,
  name: line(40).trim().min(1, 'Every status needs a name.'),
  /** What the requester reads in its place; absent: its name. */
  words: line(80),
  clock: z.enum(clockEffects),
  /** What the requester is told when a ticket comes here, with the values of then; nothing: they are told nothing. */
  tells: RichText,
  /** Where a word of the requester moves it; absent: it stays. */
  answered: Id.optional(),
  /** Where it goes by itself once it has stood here so long. */
  passes: z.object({ after: Span, to: Id }).optional(),
});
export type Status = z.infer<typeof Status>;

/** What is still known of a status that was taken away: tickets have ended in it, and histories name it. */
export const GoneStatus = Status.pick({ id: true, name: true, words: true, clock: true });
export type GoneStatus = z.infer<typeof GoneStatus>;
const mostGone = 200;

/** What has to be filled in on a move besides fields: a word to the requester. */
export const wordNeeded = 'word';

/** A move that a ticket may make. One from a status that ends the clocks to one that does not reopens it. */
export const Move = z.object({
  from: Id,
  to: Id,
  who: z.array(z.enum(movers)).max(movers.length),
  /** What must be filled in: a word to the requester (`word`), or fields that the desk fills in, by their ids. */
  needs: z.array(z.union([z.literal(wordNeeded), Id])).max(20),
  /** Who has to agree before it goes there; absent: nobody. Until then it stays where it is. */
  gate: PlainGate.optional(),
});
export type Move = z.infer<typeof Move>;

/** The statuses of a ticket kind and the moves between them. */
export const StatusMap = z
  .object({
    statuses: z.array(Status).min(1, 'A map has at least one status.').max(40),
    /** Where a ticket begins. */
    begin: Id,
    moves: z.array(Move).max(1600),
    /** The statuses that were taken away, the latest last. */
    gone: z.array(GoneStatus).max(mostGone).optional(),
  })
  .superRefine((map, ctx) => {
    const wrong = (path: (string | number)[], message: string) => ctx.addIssue({ code: 'custom', path, message });
    const ids = new Set(map.statuses.map((s) => s.id));
    if (ids.size < map.statuses.length) wrong(['statuses'], 'Two statuses have the same id.');
    const names = new Set<string>();
    map.statuses.forEach((s, i) => {
      const name = s.name.toLowerCase();
      if (names.has(name)) wrong(['statuses', i, 'name'], `Another status is called “${s.name}” already.`);
      names.add(name);
      if (s.answered !== undefined && !ids.has(s.answered)) wrong(['statuses', i, 'answered'], 'This status is not there any more.');
      if (s.passes && !ids.has(s.passes.to)) wrong(['statuses', i, 'passes'], 'This status is not there any more.');
    });
    if (!ids.has(map.begin)) wrong(['begin'], 'Say where a ticket begins.');
    const moves = new Set<string>();
    map.moves.forEach((m, i) => {
      if (!ids.has(m.from) || !ids.has(m.to)) wrong(['moves', i], 'A move leads from or to a status that is not there any more.');
      if (m.from === m.to) wrong(['moves', i], 'A move leads to another status.');
      const key = `${m.from} ${m.to}`;
      if (moves.has(key)) wrong(['moves', i], 'There is this move already.');
      moves.add(key);
    });
  });
export type StatusMap = z.infer<typeof StatusMap>;

/** The status of this id; undefined where the map has none such. */
export const statusOf = (map: StatusMap, id: string): Status | undefined => map.statuses.find((s) => s.id === id);

/** What a status is, or was, called and did; undefined where there never was such a one. */
export const everStatus = (map: StatusMap, id: string): GoneStatus | undefined => statusOf(map, id) ?? map.gone?.findLast((s) => s.id === id);

/** A map with what is known of the statuses that one before it had and it has not; of many the latest are known. */
export function withGone(before: StatusMap, after: StatusMap): StatusMap {
  const there = new Set(after.statuses.map((s) => s.id));
  const lost = before.statuses.filter((s) => !there.has(s.id)).map((s): GoneStatus => GoneStatus.parse(s));
  const gone = [...(before.gone ?? []), ...lost].filter((s, i, all) => !there.has(s.id) && all.findLastIndex((x) => x.id === s.id) === i);
  const { gone: _, ...rest } = after;
  return gone.length > 0 ? { ...rest, gone: gone.slice(-mostGone) } : rest;
}

/** The move between two statuses; undefined where a ticket may not go so. */
export const moveOf = (map: StatusMap, from: string, to: string): Move | undefined => map.moves.find((m) => m.from === from && m.to === to);

/** Whether a move reopens a ticket: it leads from where the clocks have ended to where they go on. */
export const reopens = (map: StatusMap, from: string, to: string): boolean =>
  statusOf(map, from)?.clock === 'ends' && statusOf(map, to) !== undefined && statusOf(map, to)!.clock !== 'ends';

/** Whether the requester is told anything when a ticket comes to a status. */
export const isTold = (status: Status): boolean => plainText(status.tells, () => '…').trim() !== '';

/** What the requester reads of a status. */
export const requesterWords = (status: GoneStatus): string => status.words || status.name;

/** Everywhere a ticket can go from a status: by a move, by a word of the requester, by itself. */
export function ways(map: StatusMap, from: string): string[] {
  const status = statusOf(map, from);
  const all = map.moves.flatMap((m) => (m.from === from ? [m.to] : []));
  if (status?.answered !== undefined) all.push(status.answered);
  if (status?.passes) all.push(status.passes.to);
  return [...new Set(all)];
}

/** Whether nothing leads on from a status: a ticket there is over for good. */
export const isFinal = (map: StatusMap, id: string): boolean => ways(map, id).length === 0;

/** The map without a status, and without whatever led from it or to it; a ticket that began there begins at the first that is left. */
export function withoutStatus(map: StatusMap, id: string): StatusMap {
  const statuses = map.statuses
    .filter((s) => s.id !== id)
    .map(({ answered, passes, ...s }) => ({
      ...s,
      ...(answered !== undefined && answered !== id && { answered }),
      ...(passes && passes.to !== id && { passes }),
    }));
  return {
    ...map,
    statuses,
    begin: map.begin === id ? (statuses[0]?.id ?? id) : map.begin,
    moves: map.moves.filter((m) => m.from !== id && m.to !== id),
  };
}
