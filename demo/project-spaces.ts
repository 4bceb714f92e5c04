import type { WebSystem } from '../core/systems/index.ts';
import type { RowAsking, TableDefinition } from '../core/tables/index.ts';

const space = { name: 'space', label: 'Space', type: 'text', required: true } as const;
const owner = { name: 'owner', label: 'Owner', type: 'person', required: true } as const;

/** The project spaces as they are registered: what they can be asked to do, what comes back, and what they list. */
export const projectSpaces = (address: string): WebSystem => ({
  name: 'Project spaces',
  address,
  ownNetwork: true,
  timeoutMs: 5000,
  actions: [
    {
      id: 'isTaken',
      label: 'Find out whether a name is taken',
      method: 'GET',
      path: '/names/{name}',
      inputs: [{ name: 'name', label: 'Name', type: 'text', required: true }],
      outputs: [{ name: 'taken', label: 'Is taken', type: 'boolean', at: '/taken', always: true }],
    },
    {
      id: 'prepare',
      label: 'Prepare a space',
      method: 'POST',
      path: '/spaces',
      inputs: [
        { name: 'name', label: 'Name', type: 'text', required: true },
        { name: 'template', label: 'Template', type: 'text', required: true },
        { name: 'seen', label: 'Who may read it', type: 'text', required: true, oneOf: ['members', 'everyone'] },
        { name: 'purpose', label: 'What it is for', type: 'text', required: true },
      ],
      outputs: [{ name: 'address', label: 'Address', type: 'text', at: '/address', always: true }],
      undoneBy: 'remove',
    },
    {
      id: 'addOwner',
      label: 'Make somebody an owner of a space',
      method: 'PUT',
      path: '/spaces/{space}/owners/{owner}',
      inputs: [space, owner],
      outputs: [],
      gives: { kind: 'project space', person: 'owner', what: 'space' },
      listing: { path: '/owners', rows: '/owners', who: '/owner', what: '/space', next: '/next' },
      undoneBy: 'removeOwner',
    },
    {
      id: 'removeOwner',
      label: 'Take an owner off a space',
      method: 'DELETE',
      path: '/spaces/{space}/owners/{owner}',
      inputs: [space, owner],
      outputs: [],
      goneIsDone: true,
    },
    {
      id: 'open',
      label: 'Open a space',
      method: 'POST',
      path: '/spaces/{space}/open',
      inputs: [space],
      outputs: [],
      undoneBy: 'close',
    },
    { id: 'close', label: 'Close a space', method: 'POST', path: '/spaces/{space}/close', inputs: [space], outputs: [], goneIsDone: true },
    {
      id: 'remove',
      label: 'Remove a space that is not open',
      method: 'DELETE',
      path: '/spaces/{name}',
      inputs: [{ ...space, name: 'name' }],
      outputs: [],
      goneIsDone: true,
    },
  ],
  lists: [
    {
      id: 'templates',
      label: 'The templates there are',
      path: '/templates',
      rows: '/templates',
      columns: [
        { name: 'id', label: 'Code', at: '/id' },
        { name: 'name', label: 'Template', at: '/name' },
        { name: 'about', label: 'What is in it', at: '/about' },
      ],
    },
    {
      id: 'spaces',
      label: 'The spaces that are open',
      path: '/spaces',
      rows: '/spaces',
      next: '/next',
      columns: [
        { name: 'name', label: 'Space', at: '/name' },
        { name: 'purpose', label: 'What it is for', at: '/purpose' },
        { name: 'owners', label: 'Owners', at: '/owners' },
        { name: 'firstOwner', label: 'First owner', at: '/firstOwner' },
        { name: 'idleDays', label: 'Days without use', at: '/idleDays' },
      ],
    },
  ],
});

/** What a space can begin with, as the system of the spaces says. */
export const spaceTemplates = (system: string): TableDefinition => ({
  name: 'Space templates',
  purpose: 'What a project space can begin with.',
  columns: [
    { id: 'template', kind: 'text', label: 'Template', required: true },
    { id: 'code', kind: 'text', label: 'Code', required: true },
    { id: 'about', kind: 'text', label: 'What is in it', required: false },
  ],
  key: ['template'],
  from: {
    system,
    list: 'templates',
    columns: [
      { column: 'template', of: 'name' },
      { column: 'code', of: 'id' },
      { column: 'about', of: 'about' },
    ],
    every: 'PT1H',
  },
});

/** The spaces that are open, as their system says. */
export const openSpaces = (system: string): TableDefinition => ({
  name: 'Project spaces',
  purpose: 'The spaces that are open, and for how long nobody has used each.',
  columns: [
    { id: 'space', kind: 'text', label: 'Space', required: true },
    { id: 'purpose', kind: 'longText', label: 'What it is for', required: false },
    { id: 'owner', kind: 'person', label: 'First owner', required: false },
    { id: 'owners', kind: 'number', label: 'Owners', required: true },
    { id: 'idle', kind: 'number', label: 'Days without use', required: true, unit: 'days' },
  ],
  key: ['space'],
  from: {
    system,
    list: 'spaces',
    columns: [
      { column: 'space', of: 'name' },
      { column: 'purpose', of: 'purpose' },
      { column: 'owner', of: 'firstOwner' },
      { column: 'owners', of: 'owners' },
      { column: 'idle', of: 'idleDays' },
    ],
    every: 'PT5M',
  },
});

/** Nobody has used one for 90 days: its first owner is asked, and again 90 days later (common practice, no source). */
export const unusedSpaces = (item: string, accessLead: string): RowAsking => ({
  item,
  when: { compare: 'atLeast', left: { ref: 'row.idle' }, right: { literal: 90 } },
  by: 'owner',
  orBy: { person: accessLead },
  again: 'P90D',
});
