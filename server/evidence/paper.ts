import { sql } from 'drizzle-orm';
import { DateTime } from 'luxon';
import { decisionsPaper, mostOnPaper } from '../../core/evidence/index.ts';
import { lists, type Filter, type ListAsked } from '../../core/lists/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { press } from '../letters/press.ts';
import { namesOfFilters } from '../lists/views.ts';
import { refuse, type Result } from '../refusal.ts';
import { caseNumber, momentWords } from '../words.ts';
import { decisionList } from './list.ts';
import { evidenceFileName } from './naming.ts';

const ways: Record<string, string> = lists.decisions.filters.way.options;

/** The decisions that are asked for, as a PDF with the proof of the chain; undefined for whoever may not read the log. */
export async function decisionsOnPaper(viewer: Viewer, asked: ListAsked): Promise<Result<{ pdf: Buffer; fileName: string }> | undefined> {
  const page = await decisionList(viewer, { ...asked, after: undefined }, mostOnPaper);
  if (!page) return undefined;
  if (page.next !== undefined)
    return refuse('invalid', `There are more than ${mostOnPaper} decisions in it. Narrow them, by days say, or take them as CSV.`);
  const at = now();
  const { rows: ends } = await db().execute<{ n: string; hash: string }>(sql`select n, hash from change_chain order by n desc limit 1`);
  const moment = (when: Date) => momentWords(when, viewer.zone);
  const paper = decisionsPaper({
    fileName: await evidenceFileName(asked, DateTime.fromJSDate(at).setZone(viewer.zone).toISODate()!),
    about: await narrowings(asked),
    taken: `taken ${moment(at)} (${viewer.zone}) by ${viewer.name}`,
    lastFirst: asked.sort.down,
    rows: page.rows.map((r) => ({
      at: moment(r.at),
      who: r.who,
      instead: r.instead,
      decision: r.status === 'approved' ? 'Approved' : 'Declined',
      comment: r.comment,
      gate: r.gate,
      of: `${caseNumber(r.kind, r.number)}, ${r.kind === 'ticket' ? r.item : `${r.item} (revision ${r.revision})`}, asked by ${r.requester}`,
      way: ways[(r.via ?? '').replaceAll(' ', '-')] ?? r.via ?? '',
      entry: r.entry,
      link: r.link,
      hash: r.hash,
    })),
    chain: ends[0] && { link: Number(ends[0].n), hash: ends[0].hash },
  });
  const made = await press(paper, at);
  return made.ok ? { ok: true, pdf: made.pdf, fileName: paper.fileName } : refuse('invalid', `The paper could not be made. ${made.cause}`);
}

/** How they were narrowed, a line each. */
async function narrowings(asked: ListAsked): Promise<string[]> {
  const names = await namesOfFilters('decisions', asked);
  const filters: Record<string, Filter> = lists.decisions.filters;
  const line = (key: string, filter: Filter): string[] => {
    const days = asked.days[key];
    if (filter.is === 'days')
      return days ? [`${filter.label}: ${[days.from && `from ${days.from}`, days.to && `to ${days.to}`].filter(Boolean).join(' ')}`] : [];
    const wanted = asked.wanted[key];
    return wanted
      ? [`${filter.label}: ${wanted.map((id) => (filter.is === 'choice' ? filter.options[id] : names[id]) ?? 'not there any more').join(', ')}`]
      : [];
  };
  return [...Object.entries(filters).flatMap(([key, filter]) => line(key, filter)), ...(asked.words ? [`With the words: ${asked.words}`] : [])];
}
