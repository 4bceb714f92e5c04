import type { WebSystem } from '../core/systems/index.ts';

/** The yard that looks after the vessels, as its tracker is registered: an item is opened, followed, written about on both sides, and called off. */
export const yard = (address: string): WebSystem => ({
  name: 'Ternsound Yard',
  address,
  ownNetwork: true,
  timeoutMs: 5000,
  actions: [
    {
      id: 'openItem',
      label: 'Have the yard look after it',
      method: 'POST',
      path: '/items',
      inputs: [
        { name: 'title', label: 'What is wrong, in a line', type: 'text', required: true },
        { name: 'text', label: 'What there is to know', type: 'text', required: true },
        { name: 'vessel', label: 'Vessel', type: 'text', required: true },
        { name: 'reference', label: 'What we call it', type: 'text', required: false },
      ],
      outputs: [
        { name: 'item', label: 'Number at the yard', type: 'text', at: '/item', always: true },
        { name: 'done', label: 'What was done', type: 'text', at: '/done', always: false },
      ],
      later: {
        within: 'P60D',
        asked: { path: '/items/{job}', job: '/item', firstPauseSeconds: 60, mostPauseSeconds: 3600 },
        callsBack: true,
        state: { at: '/state', done: ['done'], failed: ['turned down', 'called off'] },
        progress: '/says',
        cause: '/says',
        cancel: { method: 'POST', path: '/items/{job}/call-off' },
        words: {
          read: { path: '/items/{job}/comments', rows: '/comments', next: '/next', id: '/id', text: '/text', by: '/by' },
          say: { path: '/items/{job}/comments', text: 'text', by: 'by', id: '/id' },
        },
      },
    },
  ],
});
