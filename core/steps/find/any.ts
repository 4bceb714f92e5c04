import fc from 'fast-check';
import type { AnyStep } from '../../testing/drawn.ts';
import { step } from '../../testing/samples.ts';

export const any: AnyStep = () =>
  fc
    .constantFrom(
      { find: 'managerOf', person: { ref: 'request.requester' } } as const,
      { find: 'managerOf', person: { ref: 'request.requester' }, levels: 2 } as const,
      { find: 'ownersOf', group: { ref: 'form.group' } } as const,
      { find: 'membersOf', group: { ref: 'form.group' } } as const,
      { find: 'teamMembers', team: 'desk' } as const,
      { find: 'reportsOf', person: { ref: 'request.requester' } } as const,
    )
    .map((lookup) => (id: string) => step('find', id, { lookup }));
