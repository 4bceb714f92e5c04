import { XMLParser } from 'fast-xml-parser';
import ICAL from 'ical.js';
import type { Stretch } from '../meetings/index.ts';

/** When somebody is taken, by their address in small letters; whom the calendars do not know is not in it. */
export type BusyKnown = Map<string, Stretch[]>;

/** More than this of one person is not read. */
const mostOfOne = 2000;

/**
 * The question when these people are taken within a window, as the iCalendar object that is posted to a scheduling outbox
 * (RFC 6638, section 5; RFC 5546, 3.3.2).
 */
export function busyAsked(of: { organizer: string; people: readonly string[]; window: Stretch; uid: string; stamp: number }): string {
  const question = new ICAL.Component(['vcalendar', [], []]);
  question.updatePropertyWithValue('version', '2.0');
  question.updatePropertyWithValue('prodid', '-//Nessmoor//Invite//EN');
  question.updatePropertyWithValue('method', 'REQUEST');
  const busy = new ICAL.Component('vfreebusy');
  busy.updatePropertyWithValue('uid', of.uid);
  const times = { dtstamp: of.stamp, dtstart: of.window.from, dtend: of.window.to };
  for (const [name, at] of Object.entries(times))
    busy.updatePropertyWithValue(name, ICAL.Time.fromDateTimeString(new Date(at).toISOString().slice(0, 19) + 'Z'));
  busy.updatePropertyWithValue('organizer', `mailto:${of.organizer}`);
  for (const address of of.people) busy.addPropertyWithValue('attendee', `mailto:${address}`);
  question.addSubcomponent(busy);
  return `${question.toString()}\r\n`;
}

const parser = new XMLParser({ removeNSPrefix: true, ignoreAttributes: true, parseTagValue: false, htmlEntities: true, trimValues: false });
type Tree = { [name: string]: Tree | Tree[] | string | undefined } | string | undefined;
const inside = (tree: Tree | Tree[], name: string): Tree | Tree[] => (typeof tree === 'object' && !Array.isArray(tree) ? tree[name] : undefined);
const textIn = (tree: Tree | Tree[]): string => (typeof tree === 'string' ? tree.trim() : '');

/**
 * What a scheduling outbox answered (RFC 6638, 5.1 and 10.1: a `schedule-response`): of each person what takes them within the window.
 * Whom it does not know (a request status other than 2.x, RFC 5545, 3.8.8.3) is left out. Throws where it is none of that kind.
 */
export function readBusy(xml: string, window: Stretch): BusyKnown {
  if (/<!DOCTYPE/i.test(xml)) throw new Error('It declares a document type, which is not read.');
  const root = inside(parser.parse(xml) as Tree, 'schedule-response');
  if (root === undefined) throw new Error('It is no answer about free and busy times.');
  const known: BusyKnown = new Map();
  for (const response of [inside(root, 'response')].flat()) {
    const address = textIn(inside(inside(response, 'recipient'), 'href'))
      .replace(/^mailto:/i, '')
      .toLowerCase();
    if (address && textIn(inside(response, 'request-status')).startsWith('2.'))
      known.set(address, busyIn(textIn(inside(response, 'calendar-data')), window));
  }
  return known;
}

/** The periods of a VFREEBUSY that take somebody (RFC 5545, 3.8.2.6 and 3.2.9), within a window. */
function busyIn(text: string, window: Stretch): Stretch[] {
  const found: Stretch[] = [];
  const root = new ICAL.Component(ICAL.parse(text) as unknown[]);
  const all = root.name === 'vcalendar' ? root.getAllSubcomponents('vfreebusy') : [];
  if (all.length === 0) throw new Error('It does not say when somebody is free.');
  for (const component of all)
    for (const property of component.getAllProperties('freebusy')) {
      if (String(property.getFirstParameter('fbtype') ?? 'BUSY').toUpperCase() === 'FREE') continue;
      for (const value of property.getValues()) {
        if (!(value instanceof ICAL.Period)) continue;
        const [from, to] = [value.start.toJSDate().getTime(), value.getEnd().toJSDate().getTime()];
        if (Number.isNaN(from) || Number.isNaN(to)) throw new Error('It names a time that there is not.');
        if (from < window.to && to > window.from && found.length < mostOfOne) found.push({ from, to });
      }
    }
  return found;
}
