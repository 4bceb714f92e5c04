import { eq, sql } from 'drizzle-orm';
import { compileHours, deskCalendar, type Calendar, type ServiceHours } from '../../core/calendar/index.ts';
import type { PlaceTree } from '../../core/routing/index.ts';
import type { Reader } from '../db/database.ts';
import { person, serviceHours } from '../db/schema/index.ts';

/** Whose hours are asked for: a team's, else those where somebody works, else everybody's; the usual ones of a zone where nobody has any. */
export interface Whose {
  team?: string | undefined;
  person?: string | undefined;
  /** Where they work, for whoever knows it already; null: nowhere. */
  place?: string | null;
  zone: string;
}

/** Hours that were made ready, by id and version; some hundreds at most. */
const ready = new Map<string, Calendar>();
const mostReady = 500;

/** Where hours stand: which there are, and who has which. */
interface Standing {
  versions: Record<string, number>;
  everywhere: string | null;
  teams: Record<string, { hours: string | null; place: string | null }>;
  places: Record<string, { hours: string | null; parent: string | null }>;
}

/** The service hours as one transaction, or one page, sees them. */
export interface Calendars {
  of: (whose: Whose) => Promise<Calendar>;
  /** The tree of places, as it is known where hours are looked for. */
  tree: () => Promise<PlaceTree>;
  /** The same as they were stated, for a page to reckon with; undefined: the usual ones count. */
  stated: (whose: Whose) => Promise<ServiceHours | undefined>;
}

/** The service hours that count; nothing is read before the first is asked for. */
export function calendarsOf(tx: Reader): Calendars {
  let standing: Promise<Standing> | undefined;
  const placeOf = new Map<string, Promise<string | null>>();
  const which = async ({ team, person: whom, place: at }: Whose): Promise<{ id: string; version: number } | undefined> => {
    const now = await (standing ??= readStanding(tx));
    if (Object.keys(now.versions).length === 0) return undefined;
    const own = team === undefined ? undefined : now.teams[team];
    const place = own
      ? own.place
      : at !== undefined || whom === undefined
        ? (at ?? null)
        : await remembered(placeOf, whom, () => readPlace(tx, whom));
    const id = own?.hours ?? nearest(now, place) ?? now.everywhere;
    return id === null ? undefined : { id, version: now.versions[id] ?? 0 };
  };
  return {
    of: async (whose) => {
      const its = await which(whose);
      return its ? calendarOf(tx, its.id, its.version, whose.zone) : deskCalendar(whose.zone);
    },
    tree: async () => {
      const { places } = await (standing ??= readStanding(tx));
      return new Map(Object.entries(places).map(([id, { parent }]) => [id, parent]));
    },
    stated: async (whose) => {
      const its = await which(whose);
      const [row] = its ? await tx.select({ definition: serviceHours.definition }).from(serviceHours).where(eq(serviceHours.id, its.id)) : [];
      return row?.definition;
    },
  };
}

/** The nearest place up the tree that has hours. */
function nearest({ places }: Standing, from: string | null): string | null {
  const seen = new Set<string>();
  for (let at = from; at !== null && !seen.has(at); at = places[at]?.parent ?? null) {
    seen.add(at);
    const { hours } = places[at] ?? { hours: null };
    if (hours !== null) return hours;
  }
  return null;
}

async function calendarOf(tx: Reader, id: string, version: number, zone: string): Promise<Calendar> {
  const key = `${id} ${version}`;
  const known = ready.get(key);
  if (known) return known;
  const [row] = await tx.select({ definition: serviceHours.definition }).from(serviceHours).where(eq(serviceHours.id, id));
  const made = row ? compileHours(row.definition) : deskCalendar(zone);
  // What is never open has no arithmetic; no command keeps such hours.
  if (!made.everOpen) return deskCalendar(zone);
  if (ready.size >= mostReady) ready.clear();
  ready.set(key, made);
  return made;
}

async function readStanding(tx: Reader): Promise<Standing> {
  const { rows } = await tx.execute<{
    versions: Standing['versions'] | null;
    everywhere: string | null;
    teams: Standing['teams'] | null;
    places: Standing['places'] | null;
  }>(sql`
    select (select jsonb_object_agg(id, version) from service_hours) as versions,
      (select id from service_hours where everywhere) as everywhere,
      (select jsonb_object_agg(t.id, jsonb_build_object('hours', h.hours_id, 'place', t.location_id)) from team t left join team_hours h on h.team_id = t.id
        where exists (select from service_hours)) as teams,
      (select jsonb_object_agg(l.id, jsonb_build_object('hours', h.hours_id, 'parent', l.parent_id)) from location l left join place_hours h on h.location_id = l.id) as places`);
  const [row] = rows;
  return { versions: row?.versions ?? {}, everywhere: row?.everywhere ?? null, teams: row?.teams ?? {}, places: row?.places ?? {} };
}

const readPlace = async (tx: Reader, whom: string): Promise<string | null> => {
  const [row] = await tx.select({ place: person.locationId }).from(person).where(eq(person.id, whom));
  return row?.place ?? null;
};

function remembered<T>(known: Map<string, Promise<T>>, key: string, read: () => Promise<T>): Promise<T> {
  const before = known.get(key);
  if (before) return before;
  const made = read();
  known.set(key, made);
  return made;
}
