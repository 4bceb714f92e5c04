import { heard, own, setOwn } from '../boundary/index.ts';
import { isDate } from '../calendar/index.ts';
import { fromPlain, isEmpty, Plain, type Value } from '../values/index.ts';
import type { Listing } from './listing.ts';
import { pageIn } from './page.ts';
import { pointed } from './pointer.ts';
import type { WebAction } from './web-system.ts';

/** Something a system has, as its list says. */
export interface Listed {
  /** What it is: as the holding of it has it. */
  what: Value;
  /** Whose it is; undefined where it does not say, or says something that is no person. */
  person: string | undefined;
  /** The last day it is lent for (ISO 8601); undefined where it does not say. */
  until: string | undefined;
  /** What the action would have answered of it, nothing of it secret. */
  outputs: Record<string, Value>;
  /** What the system calls it while it is under way; undefined where the action is not answered later by asking. */
  job: string | undefined;
}

/** A page of a list. `odd`: rows that make no sense, with why. `next`: the path of the page after it. */
export type ListedPage = { ok: true; rows: Listed[]; odd: string[]; next: string | undefined } | { ok: false; sentence: string };

/** Reads a page of what a system has of what an action gives. A row that does not say what it is is none yet, and left out. */
export function listedIn(action: WebAction, listing: Listing, answer: unknown): ListedPage {
  const page = pageIn(listing, answer);
  if (!page.ok) return page;
  const found: Listed[] = [];
  const odd: string[] = [];
  for (const row of page.rows) {
    const read = rowOf(action, listing, row);
    if (typeof read === 'string') odd.push(read);
    else if (read) found.push(read);
  }
  return { ok: true, rows: found, odd, next: page.next };
}

/** A row; undefined where it does not say what it is; a sentence where it makes no sense. */
function rowOf(action: WebAction, listing: Listing, row: unknown): Listed | string | undefined {
  const { gives } = action;
  if (!gives) return undefined;
  const outputs: Record<string, Value> = {};
  for (const o of action.outputs) {
    if (o.secret) continue;
    const value = valueAt(row, o.at, o.type);
    if (value === undefined) return `A row has something at “${o.at}” that cannot be read as “${o.label}”.`;
    if (value !== null) setOwn(outputs, o.name, value);
  }
  const input = action.inputs.find((i) => i.name === gives.what);
  const what = input && listing.what !== undefined ? valueAt(row, listing.what, input.type) : (own(outputs, gives.what) ?? null);
  if (what === undefined) return `A row has something at “${listing.what}” that cannot be read as “${input?.label}”.`;
  if (isEmpty(what)) return undefined;
  const who = listing.who === undefined ? null : valueAt(row, listing.who, 'person');
  const until = gives.until === undefined ? undefined : own(outputs, gives.until);
  const job = action.later?.asked && pointed(row, action.later.asked.job);
  return {
    what,
    person: typeof who === 'object' && who !== null && 'person' in who ? who.person : undefined,
    until: typeof until === 'string' && isDate(until) ? until : undefined,
    outputs,
    job: typeof job === 'string' || typeof job === 'number' ? heard(String(job), 200) : undefined,
  };
}

/** What stands there as a value of a type: null where nothing does, undefined where it is none. */
function valueAt(row: unknown, at: string, type: Parameters<typeof fromPlain>[1]): Value | undefined {
  const read = Plain.safeParse(pointed(row, at) ?? null);
  return read.success ? fromPlain(read.data, type) : undefined;
}
