import { and, eq, inArray } from 'drizzle-orm';
import type { TextSnapshot } from '../../core/engine/index.ts';
import { meetingTime } from '../../core/meetings/index.ts';
import { isFormatted, plainText } from '../../core/values/index.ts';
import { outsideToken } from '../auth/token.ts';
import { config } from '../config.ts';
import { db, type Tx } from '../db/database.ts';
import { person, run as runs, serviceCase } from '../db/schema/index.ts';
import { definitionOf } from '../items/definitions.ts';
import type { About } from '../runtime/batch.ts';
import { approvalAsked } from './approval-asked.ts';
import { fixed, type Draft, type Page } from './draft.ts';
import { meetingWhen } from './invitation.ts';
import { now } from '../clock.ts';
import { postAll, type Post } from './post.ts';
import { namesFor, readIn } from '../people/names.ts';
import { sayNow } from '../words.ts';

/** Writes messages about runs with the values of now and adds their delivery, in the same transaction. */
export async function writeMessages(tx: Tx, given: About[], at: Date): Promise<void> {
  if (given.length === 0) return;
  // Approvals are asked for wherever their people can answer.
  const drafts = config().CHAT_URL ? given.flatMap((d) => (d.approvalId ? [d, { ...d, via: 'chat' as const }] : [d])) : given;
  const names = await namesFor(
    tx,
    drafts.flatMap((d) => [
      ...Object.values(d.content?.subject.values ?? {}),
      ...Object.values(d.content?.body.values ?? {}),
      ...Object.values({ ...d.invitation?.title.values, ...d.invitation?.words.values, ...d.invitation?.place?.values }),
      ...(d.approvalId ? Object.values(d.run.answers) : []),
    ]),
    drafts.flatMap((d) => [d.to, d.run.requesterId]),
  );
  const followed = await pagesOutside(tx, drafts);
  const posts = drafts.flatMap((d): Post[] => {
    const to = names.people.get(d.to);
    if (!to) return [];
    const { run } = d;
    const page = d.page && ((d.page === 'request' ? followed.get(run.caseId) : undefined) ?? pageOf(d.page, run));
    const theirs = readIn(to.zone, names);
    const body = d.content && sayNow(whenIn(d.content.body, d.invitation, to.zone), run, theirs);
    const url = page && `${config().PUBLIC_URL}/${page}`;
    const words = d.content
      ? { subject: plainText(sayNow(d.content.subject, run, theirs)), text: plainText(body ?? []) + (url ? `\n\n${url}\n` : '') }
      : approvalAsked({
          definition: run.definition,
          kind: run.kind,
          number: run.number,
          requester: names.people.get(run.requesterId)?.name ?? '',
          answers: run.answers,
          names: theirs,
          reminder: d.reminder === true,
        });
    return [
      {
        caseId: run.caseId,
        isFirst: run.isFirst === true,
        runId: run.id,
        key: d.key,
        to: { id: d.to, email: to.email },
        subject: words.subject,
        text: words.text,
        content: body && isFormatted(body) ? [...body, ...(url ? [[{ text: url, link: url }]] : [])] : undefined,
        approvalId: d.approvalId,
        via: d.via,
        files: d.files,
        ...(d.invitation && invitationIn(d.invitation, (text) => plainText(sayNow(text, run, theirs)), at)),
      },
    ];
  });
  await postAll(tx, posts, at);
}

/** A text that says when a meeting is, in a zone that it names. */
const whenIn = (text: TextSnapshot, invitation: Draft['invitation'], zone: string): TextSnapshot =>
  invitation ? { ...text, values: { ...text.values, [meetingWhen]: `${meetingTime(invitation.begins, invitation.ends, zone)} (${zone})` } } : text;

/** An invitation as one of those invited reads it. */
function invitationIn(
  { invitedId, title, words, place, ...invitation }: NonNullable<Draft['invitation']>,
  say: (text: TextSnapshot) => string,
  at: Date,
): Pick<Post, 'invitedId' | 'invitation'> {
  const said = { title: say(title).trim(), words: say(words).trim(), ...(place && { place: say(place).trim() }) };
  return { invitedId, invitation: { ...invitation, ...said, stamp: at.toISOString() } };
}

/** The address of a page that a message leads to. */
function pageOf(page: Page, run: { kind: string; number: number }): string {
  if (page === 'request') return `counter/${run.kind}s/${run.number}`;
  if (page === 'trace') return `ledger/${run.number}`;
  if (page === 'things') return 'counter/things';
  if (page === 'counterOfStores') return 'desk/equipment';
  if (page === 'peoplesThings') return 'counter/things?whose=people';
  const at = page.indexOf(':');
  return `${placeOf[page.slice(0, at) as keyof typeof placeOf]}/${page.slice(at + 1)}`;
}
const placeOf = { approval: 'desk/approvals', task: 'desk/queue/tasks', note: 'counter/notes', meeting: 'counter/meetings' };

/** Where those from outside follow what they asked for, by its case. */
async function pagesOutside(tx: Tx, drafts: About[]): Promise<Map<string, string>> {
  const cases = [...new Set(drafts.flatMap((d) => (d.page === 'request' ? [d.run.caseId] : [])))];
  if (cases.length === 0) return new Map();
  const rows = await tx
    .select({ caseId: serviceCase.id, publicRequestId: serviceCase.idempotencyKey })
    .from(serviceCase)
    .innerJoin(person, and(eq(person.id, serviceCase.requesterId), eq(person.outside, true)))
    .where(inArray(serviceCase.id, cases));
  return new Map(rows.map((r) => [r.caseId, `public/requests/${outsideToken(r.publicRequestId)}`]));
}

/** A word to somebody about a request, outside its plan: in a transaction of its own, and in the thread they know. */
export const sayAbout = (runId: string, m: { key: string; to: string; subject: string; words: string; page?: 'request' }): Promise<void> =>
  db().transaction((tx) =>
    writeAbout(tx, runId, { key: m.key, to: m.to, ...(m.page && { page: m.page }), content: { subject: fixed(m.subject), body: fixed(m.words) } }),
  );

/** The same within a transaction, to one or several. */
export async function writeAbout(tx: Tx, runId: string, ...drafts: Draft[]): Promise<void> {
  if (drafts.length === 0) return;
  const [row] = await tx
    .select({
      id: runs.id,
      caseId: runs.caseId,
      kind: serviceCase.kind,
      number: serviceCase.number,
      requesterId: serviceCase.requesterId,
      seq: runs.seq,
      revisionId: runs.revisionId,
    })
    .from(runs)
    .innerJoin(serviceCase, eq(serviceCase.id, runs.caseId))
    .where(eq(runs.id, runId));
  if (!row) return;
  const run = { ...row, definition: await definitionOf(tx, row.revisionId), answers: {} };
  await writeMessages(
    tx,
    drafts.map((draft) => ({ run, ...draft })),
    now(),
  );
}
