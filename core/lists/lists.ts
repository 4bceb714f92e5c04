import { outcomes } from '../plans/index.ts';
import { staffFollowed, staffHappenings } from '../staff/index.ts';
import { readAsked, type ListAsked, type ListShape } from './list.ts';

const title = (word: string): string => word.charAt(0).toUpperCase() + word.slice(1);
const item = { label: 'Item', is: 'record', of: 'item' } as const;
const requester = { label: 'Requester', is: 'record', of: 'person' } as const;

const changedBy = { by: { label: 'Changed by', is: 'record', of: 'person' }, changed: { label: 'Changed', is: 'days' } } as const;

const items = {
  words: 'Find by name or summary',
  columns: {
    name: { label: 'Name', sorts: true },
    category: { label: 'Category', sorts: true },
    offered: { label: 'Published', sorts: true },
    open: { label: 'Under way', sorts: true, right: true },
    changed: { label: 'Draft last changed', sorts: true },
  },
  filters: {
    state: { label: 'State', is: 'choice', options: { offered: 'Published', draft: 'Not yet published', archived: 'Archived' } },
    by: { label: 'Changed by', is: 'record', of: 'person' },
    changed: { label: 'Changed', is: 'days' },
  },
  sort: { by: 'name', down: false },
} as const satisfies ListShape;

/** What the log of changes tells of, in words. */
export const changedObjects = {
  apart: 'Groups kept apart',
  approval: 'Approval',
  category: 'Category',
  difference: 'Difference',
  equipment: 'Equipment',
  evidence: 'Files of evidence',
  group: 'Members of a group',
  holding: 'Holding',
  hours: 'Service hours',
  intake: 'Way in',
  item: 'Item',
  kind: 'Ticket kind',
  location: 'Location',
  meeting: 'Meeting',
  order: 'Order',
  person: 'Person',
  policy: 'Policy',
  question: 'Question',
  request: 'Request',
  routing: 'Routing table',
  'sealed-note': 'Sealed note',
  'set-aside': 'Set aside',
  staff: 'Staff feed',
  system: 'Owners of a system',
  table: 'Table',
  task: 'Task',
  team: 'Team',
  ticket: 'Ticket',
  'web-system': 'System',
} as const;
/** An object that the log of changes tells of. */
export type ChangedObject = keyof typeof changedObjects;

/** The lists that people work with all day. */
export const lists = {
  ledger: {
    words: 'Find in what was asked, said and done',
    columns: {
      request: { label: 'Request', sorts: true },
      item: { label: 'Item', sorts: true },
      requester: { label: 'Requester', sorts: true },
      opened: { label: 'Opened', sorts: true },
      state: { label: 'State' },
      ended: { label: 'Ended', sorts: true },
      took: { label: 'Took', right: true },
      promise: { label: 'Promise' },
      revision: { label: 'Revision', aside: true, right: true },
      reason: { label: 'Reason', aside: true },
    },
    filters: {
      state: {
        label: 'State',
        is: 'choice',
        options: { open: 'Under way', stuck: 'Stuck', ...Object.fromEntries(outcomes.map((o) => [o, title(o)])) },
      },
      item,
      requester,
      opened: { label: 'Opened', is: 'days' },
      ended: { label: 'Ended', is: 'days' },
    },
    sort: { by: 'request', down: true },
  },
  tickets: {
    words: 'Find in what was reported and said',
    columns: {
      ticket: { label: 'Ticket', sorts: true },
      subject: { label: 'About' },
      requester: { label: 'Requester', sorts: true },
      opened: { label: 'Opened', sorts: true },
      status: { label: 'Status' },
      ended: { label: 'Ended', sorts: true },
      promise: { label: 'Promise' },
      team: { label: 'Team', aside: true },
      place: { label: 'Place', aside: true },
      helped: { label: 'Helped', aside: true },
    },
    filters: {
      state: { label: 'State', is: 'choice', options: { open: 'Open', ended: 'Ended', joined: 'Went into another' } },
      promise: { label: 'Promise', is: 'choice', options: { kept: 'Kept', broken: 'Broken' } },
      kind: { label: 'Kind', is: 'record', of: 'kind' },
      team: { label: 'Team', is: 'record', of: 'team' },
      holder: { label: 'Who had it', is: 'record', of: 'person' },
      place: { label: 'Place', is: 'record', of: 'location' },
      requester,
      opened: { label: 'Opened', is: 'days' },
      ended: { label: 'Ended', is: 'days' },
    },
    sort: { by: 'ticket', down: true },
  },
  holdings: {
    words: 'Find by who has it, or by item',
    columns: {
      who: { label: 'Who has it' },
      what: { label: 'What' },
      since: { label: 'Since', sorts: true },
      request: { label: 'By', sorts: true },
      costs: { label: 'Costs' },
      agreed: { label: 'Agreed to by' },
      ended: { label: 'Given back' },
    },
    filters: {
      state: {
        label: 'State',
        is: 'choice',
        options: {
          held: 'Held',
          over: 'Given back',
          leaving: 'Of those who leave soon',
          left: 'Of those who have left',
          outgrown: 'From a former job',
        },
      },
      holder: { label: 'Who has it', is: 'record', of: 'person' },
      item,
      since: { label: 'Since', is: 'days' },
    },
    sort: { by: 'since', down: true },
  },
  decisions: {
    words: 'Find in gates, words, numbers and approvers',
    columns: {
      decided: { label: 'Decided', sorts: true },
      who: { label: 'Who' },
      decision: { label: 'Decision' },
      words: { label: 'In which words' },
      gate: { label: 'What was asked' },
      request: { label: 'Of' },
      way: { label: 'By which way' },
      entry: { label: 'Log entry', aside: true, right: true },
      link: { label: 'Link of the chain', aside: true, right: true },
      hash: { label: 'Hash', aside: true },
    },
    filters: {
      state: { label: 'Decision', is: 'choice', options: { approved: 'Approved', declined: 'Declined' } },
      item,
      who: { label: 'Who', is: 'record', of: 'person' },
      requester,
      way: {
        label: 'By which way',
        is: 'choice',
        options: { portal: 'At the Desk', 'mail-link': 'By the link in the mail', 'mail-reply': 'By a reply to the mail', chat: 'In chat' },
      },
      decided: { label: 'Decided', is: 'days' },
    },
    sort: { by: 'decided', down: true },
  },
  differences: {
    words: 'Find by who has it, or by kind',
    columns: {
      what: { label: 'What' },
      who: { label: 'Whose' },
      is: { label: 'What differs' },
      system: { label: 'System' },
      found: { label: 'Found', sorts: true },
      state: { label: 'What became of it' },
    },
    filters: {
      state: { label: 'State', is: 'choice', options: { open: 'Open', left: 'Left as it is', settled: 'Settled', gone: 'Gone by itself' } },
      is: {
        label: 'What differs',
        is: 'choice',
        options: { missing: 'Held here, not there', unknown: 'There, held by nobody', until: 'Another last day' },
      },
      holder: { label: 'Whose', is: 'record', of: 'person' },
      found: { label: 'Found', is: 'days' },
    },
    sort: { by: 'found', down: true },
  },
  pieces: {
    words: 'Find by kind, serial number or who has it',
    columns: {
      what: { label: 'Piece', sorts: true },
      state: { label: 'State' },
      place: { label: 'Where' },
      who: { label: 'With' },
      since: { label: 'Since', sorts: true },
    },
    filters: {
      state: {
        label: 'State',
        is: 'choice',
        options: { free: 'Free', setAside: 'Set aside', out: 'Handed out', repair: 'In repair', missing: 'Missing', retired: 'Gone for good' },
      },
      place: { label: 'Where', is: 'record', of: 'location' },
      holder: { label: 'With', is: 'record', of: 'person' },
    },
    sort: { by: 'what', down: false },
  },
  queue: {
    words: 'Find by what it is, item or requester',
    columns: {
      request: { label: 'Number', sorts: true },
      task: { label: 'What', sorts: true },
      status: { label: 'Status' },
      tide: { label: 'Working time used of promised' },
      left: { label: 'Left', right: true },
      team: { label: 'Team', aside: true },
      due: { label: 'Due', sorts: true, aside: true },
      opened: { label: 'Came', aside: true },
    },
    filters: {
      whose: { label: 'Whose', is: 'choice', options: { mine: 'Mine', untaken: 'Not taken' } },
      what: { label: 'What', is: 'choice', options: { ticket: 'Tickets', task: 'Tasks of requests' } },
      team: { label: 'Team', is: 'record', of: 'team' },
      place: { label: 'Place', is: 'record', of: 'location' },
      item,
      requester,
      due: { label: 'Due', is: 'days' },
    },
    sort: { by: 'due', down: false },
  },
  approvals: {
    words: 'Find by item, gate or requester',
    columns: {
      request: { label: 'Number', sorts: true },
      item: { label: 'What', sorts: true },
      gate: { label: 'What is asked' },
      asked: { label: 'Asked', sorts: true },
      lapses: { label: 'Lapses' },
      decision: { label: 'Your answer' },
    },
    filters: {
      state: { label: 'State', is: 'choice', options: { waiting: 'Waiting for me', over: 'Answered or over' } },
      item,
      requester,
      asked: { label: 'Asked', is: 'days' },
    },
    sort: { by: 'asked', down: false },
  },
  stuck: {
    words: 'Find by step, item or requester',
    columns: {
      request: { label: 'Number', sorts: true },
      step: { label: 'Step', sorts: true },
      cause: { label: 'Cause' },
      since: { label: 'Since', sorts: true },
    },
    filters: { item, requester, since: { label: 'Since', is: 'days' } },
    sort: { by: 'since', down: false },
  },
  items,
  parts: items,
  policies: {
    words: 'Find by name or purpose',
    columns: {
      name: { label: 'Policy', sorts: true },
      lines: { label: 'Lines', right: true },
      version: { label: 'Version', right: true },
      changed: { label: 'Changed', sorts: true },
    },
    filters: changedBy,
    sort: { by: 'name', down: false },
  },
  tables: {
    words: 'Find by name or purpose',
    columns: {
      name: { label: 'Table', sorts: true },
      columns: { label: 'Columns', right: true },
      rows: { label: 'Rows', right: true },
      changed: { label: 'Changed', sorts: true },
    },
    filters: changedBy,
    sort: { by: 'name', down: false },
  },
  systems: {
    words: 'Find by name, address or action',
    columns: {
      name: { label: 'System', sorts: true },
      actions: { label: 'Actions', right: true },
      owners: { label: 'Owners' },
      changed: { label: 'Changed', sorts: true },
    },
    filters: { owners: { label: 'Owners', is: 'choice', options: { some: 'Has an owner', none: 'Has none' } }, ...changedBy },
    sort: { by: 'name', down: false },
  },
  staff: {
    words: 'Find by name or staff number',
    columns: {
      when: { label: 'Told', sorts: true },
      who: { label: 'Who' },
      what: { label: 'What happened' },
      from: { label: 'From' },
      followed: { label: 'What followed' },
    },
    filters: {
      followed: { label: 'What followed', is: 'choice', options: staffFollowed },
      what: { label: 'What happened', is: 'choice', options: staffHappenings },
      when: { label: 'Told', is: 'days' },
    },
    sort: { by: 'when', down: true },
  },
  changes: {
    words: 'Find in what was done',
    columns: {
      when: { label: 'When', sorts: true },
      who: { label: 'Who' },
      did: { label: 'Did' },
      to: { label: 'To' },
      more: { label: 'More' },
    },
    filters: {
      to: { label: 'To', is: 'choice', options: changedObjects },
      by: { label: 'Who', is: 'record', of: 'person' },
      when: { label: 'When', is: 'days' },
    },
    sort: { by: 'when', down: true },
  },
} as const satisfies Record<string, ListShape>;

/** What names a list: in addresses, kept views and files. */
export type ListName = keyof typeof lists;
/** Whether there is a list of this name. */
export const isList = (name: string): name is ListName => Object.hasOwn(lists, name);

/** What an address asks of one of the lists. */
export const askedOf = (name: ListName, address: URLSearchParams | string = ''): ListAsked =>
  readAsked(lists[name], typeof address === 'string' ? new URLSearchParams(address) : address);
