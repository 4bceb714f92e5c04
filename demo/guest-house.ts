import type { WebSystem } from '../core/systems/index.ts';

/** The guest house as it is registered: what it can be asked to do, and what comes back. */
export const guestHouse = (address: string): WebSystem => ({
  name: 'Guest house',
  address,
  ownNetwork: true,
  timeoutMs: 5000,
  actions: [
    {
      id: 'invite',
      label: 'Invite a guest',
      method: 'POST',
      path: '/guests',
      inputs: [
        { name: 'mail', label: 'Mail address', type: 'address', required: true },
        { name: 'name', label: 'Name', type: 'text', required: true },
        { name: 'until', label: 'Until', type: 'date', required: true },
        { name: 'sponsor', label: 'Who answers for them', type: 'person', required: true },
      ],
      outputs: [{ name: 'id', label: 'Guest', type: 'text', at: '/id', always: true }],
      // By their address: of one name there may be two.
      gives: { kind: 'guest', person: 'sponsor', what: 'mail', until: 'until' },
      listing: { path: '/guests', rows: '/guests', who: '/sponsor', what: '/mail', next: '/next' },
      undoneBy: 'remove',
    },
    {
      id: 'look',
      label: 'Find out whether a guest has accepted',
      // It has many guests, and answers each of them so often at most (common practice, no source).
      apart: 'PT5M',
      method: 'GET',
      path: '/guests/{id}',
      inputs: [{ name: 'id', label: 'Guest', type: 'text', required: true }],
      outputs: [{ name: 'accepted', label: 'Has accepted', type: 'boolean', at: '/accepted', always: true }],
    },
    {
      id: 'letIn',
      label: 'Let a guest into a room',
      method: 'PUT',
      path: '/guests/{id}/rooms/{room}',
      inputs: [
        { name: 'id', label: 'Guest', type: 'text', required: true },
        { name: 'room', label: 'Room', type: 'text', required: true },
      ],
      outputs: [],
    },
    {
      id: 'remove',
      label: 'Remove a guest',
      method: 'DELETE',
      path: '/guests/{id}',
      inputs: [{ name: 'id', label: 'Guest', type: 'text', required: true }],
      outputs: [],
      goneIsDone: true,
    },
  ],
});
