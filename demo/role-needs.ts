import type { TableDefinition } from '../core/tables/index.ts';

/** What each job role needs by the first day, and which team prepares it; the People office keeps it, and no item is touched. */
export const roleNeeds: TableDefinition = {
  name: 'What a role needs',
  purpose: 'What each team prepares for a new colleague, by their job role.',
  columns: [
    { id: 'role', kind: 'text', label: 'Job role', required: true },
    { id: 'team', kind: 'team', label: 'Team', required: true },
    { id: 'what', kind: 'text', label: 'What', required: true },
    { id: 'todo', kind: 'formatted', label: 'To do', required: true },
  ],
  key: ['role', 'team', 'what'],
};
/** Roles by what the team is called that prepares something for them; what is to be done in plain letters (CommonMark). */
export const needs: { role: string; team: string; what: string; todo: string }[] = [
  {
    role: 'Hydrographer',
    team: 'Stores',
    what: 'Laptop',
    todo: 'Take one **with the sounding programs** from the second shelf, and follow [the list for laptops](https://stores.skerrin.example/laptops).',
  },
  { role: 'Hydrographer', team: 'Stores', what: 'Life vest', todo: 'Try it on for size; note the number on the collar.' },
  {
    role: 'Hydrographer',
    team: 'Platforms',
    what: 'Storage for soundings',
    todo: 'Make a folder of 2 TB:\n\n- read by the whole survey\n- written by them and the survey lead',
  },
  { role: 'Tide analyst', team: 'Stores', what: 'Laptop', todo: 'Take one with much memory.' },
  { role: 'Tide analyst', team: 'Platforms', what: 'Tide models', todo: 'Let them run the models of the last five years.' },
  { role: 'Chart editor', team: 'Stores', what: 'Two screens', todo: 'Both of the same make, measured for colour.' },
  { role: 'Chart editor', team: 'Charts helpdesk', what: 'Drafting table', todo: 'Show them the drafts they begin with.' },
  { role: 'Deck technician', team: 'Stores', what: 'Field tablet', todo: '1. Charge it.\n2. Lock it to the **ship’s** net.' },
  { role: 'Deck technician', team: 'Stores', what: 'Life vest', todo: 'The one with a harness; note the number on the collar.' },
];
