import { own } from '../../boundary/index.ts';
import { listTypes, plainText, sentence, type Value } from '../../values/index.ts';
import type { Catalogue } from '../catalogue.ts';
import { isWordless, typeFindings } from '../check.ts';
import { stop, unset, type Finding } from '../finding.ts';
import { inText, output, readOne, readPassages, readText, type Place, type Places, type Reading } from '../place.ts';
import type { Room } from '../room.ts';
import { ended, fail, holds, putOutputs, read, snapshotOf, type RunContext, type Scope } from '../run/context.ts';
import type { LetterPiece } from '../run/effect.ts';
import { Write, type LetterPassage } from './settings.ts';

/** The columns of which a table of this list may be made; none where its rows are one thing each. */
export function columnsOfList(place: Place | undefined, catalogue: Catalogue): { id: string; label: string }[] {
  const columns = place?.columns ?? (place?.table === undefined ? undefined : own(catalogue.tables, place.table)?.columns) ?? [];
  return columns.map(({ id, label }) => ({ id, label }));
}

/** A list without a value is a table without rows. */
const readTables = (body: LetterPassage[]): Reading[] =>
  body.flatMap((p) => readOne(p.table?.list?.ref, 'Table').map((r) => ({ ...r, needed: false, ...(p.when && { under: p.when }) })));

/** What is wrong with a table: no list, not a list, or columns that it has not. */
function tableFindings(step: Write, { table }: LetterPassage, anywhere: Places, catalogue: Catalogue): Finding[] {
  if (!table) return [];
  if (!table.list) return [unset(step, 'the list of its table')];
  const place = anywhere.get(table.list.ref);
  const known = new Set(columnsOfList(place, catalogue).map((c) => c.id));
  const gone = place ? table.columns.filter((c) => !known.has(c.id)) : [];
  return [
    ...typeFindings(step, 'The table', table.list.ref, listTypes, anywhere),
    ...gone.map((c) =>
      stop(step, {
        code: 'unknown-reference',
        sentence: `The table of “${step.name}” has a column “${c.head || c.id}” that ${place ? `“${place.label}”` : 'its list'} has not.`,
        mend: 'Take the column out, or choose another.',
      }),
    ),
  ];
}

/** What stands in a letter now: the passages whose condition holds, with their values. */
const pieceOf = (context: RunContext, scope: Scope, { text, table }: LetterPassage): LetterPiece => ({
  words: snapshotOf(context, scope, text),
  ...(table?.list && { table: { list: table.list.ref, rows: rowsIn(read(context, scope, table.list.ref)), columns: table.columns } }),
});
const rowsIn = (list: Value | undefined): Value[] => (Array.isArray(list) ? list : list === undefined || list === null || list === '' ? [] : [list]);

/** The room of this kind; `room.ts` says what each member means. */
export const write: Room<Write> = {
  verb: 'Write',
  does: 'Make a letter',
  toRequester: 'A letter is written',
  alsoCalled: ['letter', 'document', 'pdf', 'certificate', 'print', 'template', 'file'],
  schema: () => Write,
  fresh: () => ({ fileName: sentence(''), title: sentence(''), body: [{ text: sentence('') }], numbered: true }),
  outputs: (step) => [output(step, 'file', 'Letter', 'file', true)],
  reads: (step) => [
    ...inText([
      ...readText(step.fileName, 'File name'),
      ...readText(step.head ?? [], 'Head of each page'),
      ...readText(step.title, 'Title'),
      ...readPassages(step.body, 'Letter'),
    ]),
    ...readTables(step.body),
  ],
  conditions: (step) => step.body.flatMap((p) => (p.when ? [{ when: p.when, setting: 'A condition in the letter' }] : [])),
  lacks: (step, anywhere, catalogue) => [
    ...(isWordless(step.fileName) ? [unset(step, 'a name for its file')] : []),
    ...(isWordless(step.title) ? [unset(step, 'a title')] : []),
    ...(step.body.every((p) => isWordless(p.text) && !p.table) ? [unset(step, 'words')] : []),
    ...step.body.flatMap((p) => tableFindings(step, p, anywhere, catalogue)),
  ],
  party: () => 'The run itself',
  sentence: (step, naming) =>
    `Write “${plainText(step.title, naming.place)}” as a PDF, and file it with the request as “${plainText(step.fileName, naming.place)}.pdf”.`,
  start: (context, step, activity, scope) => {
    const body = step.body.filter((p) => !p.when || holds(context, scope, p.when)).map((p) => pieceOf(context, scope, p));
    activity.phase = 'calling';
    context.effects.push({
      effect: 'letter',
      key: activity.key,
      round: activity.round ?? 0,
      fileName: snapshotOf(context, scope, step.fileName),
      ...(step.head && !isWordless(step.head) && { head: snapshotOf(context, scope, step.head) }),
      title: snapshotOf(context, scope, step.title),
      body,
      numbered: step.numbered,
    });
  },
  on: (context, { step, activity, scope }, event) => {
    if (event.type !== 'callFailed' && event.type !== 'answered') return 'not-open';
    if (activity.phase !== 'calling' || (event.round ?? 0) !== (activity.round ?? 0)) return 'not-open';
    if (event.type === 'callFailed') fail(context, scope, activity, event.cause);
    else {
      putOutputs(scope, step.id, event.outputs);
      ended(context, activity, 'done', event.outputs);
    }
    return undefined;
  },
  withdraw: (context, _, a) => {
    if (a.phase === 'calling') context.effects.push({ effect: 'cancelLetter', key: a.key });
  },
  bpmn: (step, from, writer) => writer.simple('bpmn:ServiceTask', step, from),
};
