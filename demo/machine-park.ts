import type { WebSystem } from '../core/systems/index.ts';

/** How the machine park answers what it has accepted: asked about, and called back, whichever is first. */
const later = {
  within: 'PT2H',
  asked: { path: '/machines/{job}', job: '/id', firstPauseSeconds: 5, mostPauseSeconds: 300 },
  callsBack: true,
  progress: '/progress',
  cause: '/cause',
};

/** The machine park as it is registered: what it can be asked to do, and what comes back. */
export const machinePark = (address: string): WebSystem => ({
  name: 'Machine park',
  address,
  ownNetwork: true,
  timeoutMs: 5000,
  actions: [
    {
      id: 'make',
      label: 'Make a machine',
      method: 'POST',
      path: '/machines',
      inputs: [
        { name: 'size', label: 'Size', type: 'text', required: true },
        { name: 'region', label: 'Region', type: 'text', required: true },
        { name: 'image', label: 'Image', type: 'text', required: false },
        { name: 'days', label: 'Days', type: 'number', required: true, most: 180 },
        { name: 'owner', label: 'Whose it is', type: 'person', required: true },
        { name: 'purpose', label: 'What it computes', type: 'text', required: false },
      ],
      outputs: [
        { name: 'id', label: 'Machine', type: 'text', at: '/id', always: true },
        { name: 'address', label: 'Address', type: 'text', at: '/address', always: true },
        { name: 'until', label: 'Lent until', type: 'date', at: '/until', always: true },
        { name: 'signIn', label: 'First sign-in', type: 'text', at: '/signIn', always: true, secret: true },
      ],
      anewBy: 'newSignIn',
      later: { ...later, state: { at: '/state', done: ['running'], failed: ['failed', 'deleted'] } },
      gives: { kind: 'machine', person: 'owner', what: 'address', until: 'until' },
      listing: { path: '/machines', rows: '/machines', who: '/owner', next: '/next' },
      undoneBy: 'takeDown',
    },
    {
      id: 'extend',
      label: 'Lend a machine for more days',
      method: 'PATCH',
      path: '/machines/{id}',
      inputs: [
        { name: 'id', label: 'Machine', type: 'text', required: true, known: true },
        { name: 'days', label: 'Days in all, from its first', type: 'number', required: true, most: 180 },
      ],
      outputs: [{ name: 'until', label: 'Lent until', type: 'date', at: '/until', always: true }],
      about: { of: 'make', until: 'until' },
    },
    {
      id: 'resize',
      label: 'Give a machine another size',
      method: 'POST',
      path: '/machines/{id}/size',
      inputs: [
        { name: 'id', label: 'Machine', type: 'text', required: true, known: true },
        { name: 'size', label: 'Size', type: 'text', required: true },
      ],
      outputs: [{ name: 'size', label: 'Size', type: 'text', at: '/size', always: true }],
      about: { of: 'make' },
      later: {
        ...later,
        asked: { ...later.asked, path: '/machines/{job}/size' },
        callsBack: false,
        state: { at: '/state', done: ['resized'], failed: ['failed'] },
      },
    },
    {
      id: 'stop',
      label: 'Stop a machine',
      method: 'POST',
      path: '/machines/{id}/stop',
      inputs: [{ name: 'id', label: 'Machine', type: 'text', required: true, known: true }],
      outputs: [{ name: 'state', label: 'How it stands', type: 'text', at: '/state', always: true }],
      about: { of: 'make' },
      undoneBy: 'start',
    },
    {
      id: 'start',
      label: 'Start a machine that was stopped',
      method: 'POST',
      path: '/machines/{id}/start',
      inputs: [{ name: 'id', label: 'Machine', type: 'text', required: true, known: true }],
      outputs: [{ name: 'state', label: 'How it stands', type: 'text', at: '/state', always: true }],
      about: { of: 'make' },
      undoneBy: 'stop',
    },
    {
      id: 'newSignIn',
      label: 'Make the sign-in to a machine anew',
      method: 'POST',
      path: '/machines/{id}/sign-in',
      inputs: [{ name: 'id', label: 'Machine', type: 'text', required: true }],
      outputs: [{ name: 'signIn', label: 'Sign-in', type: 'text', at: '/signIn', always: true, secret: true }],
    },
    {
      id: 'takeDown',
      label: 'Take a machine down',
      method: 'DELETE',
      path: '/machines/{id}',
      inputs: [{ name: 'id', label: 'Machine', type: 'text', required: true }],
      outputs: [],
      goneIsDone: true,
      later: { ...later, state: { at: '/state', done: ['deleted'], failed: ['failed'] } },
    },
  ],
  lists: [
    {
      id: 'sizes',
      label: 'The sizes there are',
      path: '/sizes',
      rows: '/sizes',
      columns: [
        { name: 'id', label: 'Size', at: '/id' },
        { name: 'processors', label: 'Processors', at: '/processors' },
        { name: 'memoryGb', label: 'Memory', at: '/memoryGb' },
        { name: 'dayEur', label: 'A day costs', at: '/dayEur' },
        { name: 'region', label: 'Where it runs', at: '/region' },
        { name: 'mostDays', label: 'Lent for at most', at: '/mostDays' },
      ],
    },
    {
      id: 'images',
      label: 'The images there are',
      path: '/images',
      rows: '/images',
      columns: [
        { name: 'id', label: 'Code', at: '/id' },
        { name: 'name', label: 'Image', at: '/name' },
      ],
    },
  ],
});
