import { own } from '../boundary/index.ts';
import { milestonesOf, type Catalogue, type Finding } from '../plans/index.ts';
import type { ItemDefinition } from './definition.ts';

/** What the check finds in who is told of the promises of an item: a team that cannot be told, and nothing to be told of. */
export function checkWatched(d: Pick<ItemDefinition, 'promise' | 'plan' | 'watched'>, catalogue: Catalogue): Finding[] {
  if (!d.watched) return [];
  const team = own(catalogue.teams, d.watched.team);
  const mend = 'Pick another team, or let nobody be told.';
  if (!team)
    return [{ code: 'unknown-team', severity: 'stops', sentence: 'The team that is to be told when the promise is near does not exist.', mend }];
  if (team.members === 0)
    return [{ code: 'nobody-to-ask', severity: 'stops', sentence: `${team.name} is to be told when the promise is near, and has no members.`, mend }];
  if (d.promise !== undefined || milestonesOf(d.plan).some((m) => m.promised !== undefined)) return [];
  return [
    {
      code: 'promise',
      severity: 'warns',
      sentence: `${team.name} is to be told when the promise is near, and nothing is promised.`,
      mend: 'Promise a time for the whole or for a milestone.',
    },
  ];
}
