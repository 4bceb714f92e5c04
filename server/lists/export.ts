import { DateTime } from 'luxon';
import Papa from 'papaparse';
import { columnsOf, lists, type ListAsked, type ListName } from '../../core/lists/index.ts';
import { approvalsFor } from '../approvals/list.ts';
import type { Viewer } from '../auth/viewer.ts';
import { differenceList } from '../differences/list.ts';
import { decisionList } from '../evidence/list.ts';
import { pieceList } from '../equipment/list.ts';
import { holdingList } from '../holdings/list.ts';
import { items } from '../items/list.ts';
import { policies } from '../policies/list.ts';
import { ledger } from '../runs/ledger.ts';
import { stuckSteps } from '../runs/stuck.ts';
import { changedObjects } from '../../core/lists/index.ts';
import { changes } from '../changes/queries.ts';
import { staffFollowed, staffHappenings } from '../../core/staff/index.ts';
import { staffList } from '../staff/list.ts';
import { systems } from '../systems/list.ts';
import { tables } from '../tables/list.ts';
import { queueFor } from '../queue/list.ts';
import { ticketList } from '../tickets/list.ts';
import { caseNumber, requestNumber, ticketNumber } from '../words.ts';

const ways: Record<string, string> = lists.decisions.filters.way.options;
const pieceStates = lists.pieces.filters.state.options;
type Cell = string | number | Date | null | undefined;
type Cells<N extends ListName> = Record<keyof (typeof lists)[N]['columns'], Cell>;
interface Source<N extends ListName, Row> {
  page: (viewer: Viewer, asked: ListAsked, size: number) => Promise<{ rows: Row[]; next: string | undefined } | undefined>;
  cells: (row: Row) => Cells<N>;
  /** Heads that say more than on the screen. */
  heads?: Partial<Record<keyof Cells<N>, string>>;
}
type Exported = (viewer: Viewer, asked: ListAsked) => Promise<AsyncGenerator<string> | undefined>;

const atOnce = 500;

/** A list as CSV (RFC 4180), page by page as it is read: all its rows, with the columns that are shown. */
function exported<N extends ListName, Row>(name: N, source: Source<N, Row>): Exported {
  return async (viewer, asked) => {
    const first = await source.page(viewer, { ...asked, after: undefined }, atOnce);
    if (!first) return undefined;
    const shape = lists[name];
    const shown = asked.columns ?? columnsOf(shape);
    const words = (cell: Cell): string | number =>
      cell instanceof Date ? DateTime.fromJSDate(cell).setZone(viewer.zone).toFormat('yyyy-MM-dd HH:mm') : (cell ?? '');
    // What a spreadsheet would take for a formula is kept from being one.
    const lines = (rows: (string | number)[][]) => `${Papa.unparse(rows, { escapeFormulae: true, newline: '\r\n' })}\r\n`;
    const cellsOf = (row: Row): (string | number)[] => {
      const cells = source.cells(row) as Record<string, Cell>;
      return shown.map((c) => words(cells[c]));
    };
    const columns: Record<string, { label: string }> = shape.columns;
    const heads: Record<string, string | undefined> = source.heads ?? {};
    return (async function* () {
      // Without the mark some spreadsheets take the text for another encoding.
      yield `\uFEFF${lines([shown.map((c) => heads[c] ?? columns[c]!.label)])}`;
      for (let page = first; ;) {
        if (page.rows.length > 0) yield lines(page.rows.map(cellsOf));
        if (page.next === undefined) return;
        const next = await source.page(viewer, { ...asked, after: page.next }, atOnce);
        if (!next) return;
        page = next;
      }
    })();
  };
}

const itemCells = (r: NonNullable<Awaited<ReturnType<typeof items>>>['rows'][number]): Cells<'items'> => ({
  name: r.name,
  category: r.category,
  offered: r.published ? `Revision ${r.published}` : '',
  open: r.open,
  changed: r.draftAt,
});

/** How each list is written as CSV; dates are those of the viewer's zone. Undefined where the viewer may not see the list. */
export const exports: Record<ListName, Exported> = {
  ledger: exported('ledger', {
    page: ledger,
    heads: { took: 'Took (minutes)', promise: 'Promise (working minutes used)' },
    cells: (r) => ({
      request: requestNumber(r.number),
      item: r.item,
      requester: r.requester,
      opened: r.openedAt,
      state: r.outcome ?? [r.standing?.stuck ? 'stuck' : 'under way', r.standing?.step, ...(r.standing?.who ?? [])].filter(Boolean).join(', '),
      ended: r.endedAt,
      took: r.endedAt && Math.round((r.endedAt.getTime() - r.openedAt.getTime()) / 60_000),
      promise: r.promised && `${Math.round(r.promised.standing.used)} of ${Math.round(r.promised.standing.promised)}`,
      revision: r.revision,
      reason: r.reason,
    }),
  }),
  tickets: exported('tickets', {
    page: ticketList,
    cells: (r) => ({
      ticket: ticketNumber(r.number),
      subject: `${r.subject} (${[r.kind, r.category, r.priority].filter(Boolean).join(', ')})`,
      requester: r.requester,
      opened: r.openedAt,
      status: [r.status, r.holder].filter(Boolean).join(', '),
      ended: r.endedAt,
      promise: r.kept === undefined ? '' : r.kept ? 'kept' : 'broken',
      team: r.team,
      place: r.place,
      helped: r.helped === null ? '' : r.helped ? 'yes' : 'no',
    }),
  }),
  holdings: exported('holdings', {
    page: holdingList,
    cells: (r) => ({
      who: r.who,
      what: r.what,
      since: r.since,
      request: `${requestNumber(r.number)} ${r.item}`,
      costs: r.costs.join(' and '),
      agreed: r.agreed.map((a) => (a.comment ? `${a.name} (${a.comment})` : a.name)).join('; '),
      ended: r.endedAt,
    }),
  }),
  decisions: exported('decisions', {
    page: decisionList,
    cells: (r) => ({
      decided: r.at,
      who: r.instead === null ? r.who : `${r.who} (instead of ${r.instead})`,
      decision: r.status,
      words: r.comment,
      gate: r.gate,
      request: `${caseNumber(r.kind, r.number)} ${r.item}${r.revision > 0 ? `, revision ${r.revision}` : ''}, asked by ${r.requester}`,
      way: ways[(r.via ?? '').replaceAll(' ', '-')] ?? r.via,
      entry: r.entry,
      link: r.link,
      hash: r.hash,
    }),
  }),
  pieces: exported('pieces', {
    page: pieceList,
    cells: (r) => ({ what: [r.kind, r.mark].filter(Boolean).join(' '), state: pieceStates[r.state], place: r.place, who: r.who, since: r.since }),
  }),
  differences: exported('differences', {
    page: differenceList,
    cells: (r) => ({
      what: `${r.what} (${r.kind})`,
      who: r.who,
      is: lists.differences.filters.is.options[r.is],
      system: r.systemName,
      found: r.foundAt,
      state: [lists.differences.filters.state.options[r.state], r.why].filter(Boolean).join(': '),
    }),
  }),
  staff: exported('staff', {
    page: staffList,
    cells: (r) => ({
      when: r.at,
      who: `${r.name} (${r.staffNumber})`,
      what: staffHappenings[r.kind],
      from: r.from,
      followed: [staffFollowed[r.state], r.request && requestNumber(r.request), r.why].filter(Boolean).join(': '),
    }),
  }),
  queue: exported('queue', {
    page: queueFor,
    heads: { tide: 'Promised (working minutes)', left: 'Left (working minutes)' },
    cells: (r) => ({
      request: r.what === 'ticket' ? ticketNumber(r.number) : requestNumber(r.number),
      task: `${r.name} (${[r.item ?? r.kind, `for ${r.requester}`, r.place, r.priority].filter(Boolean).join(', ')})`,
      status: [r.status, r.holder].filter(Boolean).join(', '),
      tide: r.standing && Math.round(r.standing.promised),
      left: r.left === undefined ? undefined : Math.round(r.left),
      team: r.team,
      due: r.dueAt,
      opened: r.openedAt,
    }),
  }),
  approvals: exported('approvals', {
    page: approvalsFor,
    cells: (r) => ({
      request: caseNumber(r.kind, r.number),
      item: `${[r.item, r.subject].filter(Boolean).join(', ')}, for ${r.requester}`,
      gate: r.gate,
      asked: r.askedAt,
      lapses: r.lapsesAt,
      decision: r.status === 'waiting' ? '' : r.status,
    }),
  }),
  stuck: exported('stuck', {
    page: stuckSteps,
    cells: (r) => ({ request: requestNumber(r.number), step: `${r.name} (${r.item}, for ${r.requester})`, cause: r.cause, since: r.since }),
  }),
  items: exported('items', { page: (viewer, asked, size) => items(viewer, 'item', asked, size), cells: itemCells }),
  policies: exported('policies', {
    page: policies,
    cells: (r) => ({ name: r.name, lines: r.lines, version: r.version, changed: r.changedAt }),
  }),
  tables: exported('tables', {
    page: tables,
    cells: (r) => ({ name: r.name, columns: r.columns, rows: r.rows, changed: r.changedAt }),
  }),
  systems: exported('systems', {
    page: systems,
    cells: (r) => ({ name: r.name, actions: r.actions.length, owners: r.owners.join('; '), changed: r.changedAt }),
  }),
  changes: exported('changes', {
    page: changes,
    cells: (r) => ({
      when: r.at,
      who: r.who ?? 'Nessmoor itself',
      did: r.action,
      to: `${changedObjects[r.object]} ${r.objectId}`,
      more: JSON.stringify(r.detail),
    }),
  }),
  parts: exported('parts', { page: (viewer, asked, size) => items(viewer, 'part', asked, size), cells: itemCells }),
};
