import fc from 'fast-check';
import type { AnyStep } from '../../testing/drawn.ts';
import { step } from '../../testing/samples.ts';
import type { Lookup } from './settings.ts';

export const any: AnyStep = () =>
  fc
    .constantFrom<Lookup>(
      { find: 'managerOf', person: { ref: 'request.requester' } },
      { find: 'managerOf', person: { ref: 'request.requester' }, levels: 2 },
      { find: 'ownersOf', group: { ref: 'form.group' } },
      { find: 'membersOf', group: { ref: 'form.group' } },
      { find: 'teamMembers', team: 'desk' },
      { find: 'reportsOf', person: { ref: 'request.requester' } },
      { find: 'rows', table: 'machines', where: { processors: { ref: 'form.cores' } } },
      { find: 'rows', table: 'machines', where: {} },
      { find: 'row', table: 'machines', where: { size: { literal: 'Large' } }, several: 'first' },
      { find: 'row', table: 'machines', where: {}, several: 'fail' },
    )
    .map((lookup) => (id: string) => step('find', id, { lookup }));
