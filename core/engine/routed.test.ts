import { describe, expect, it } from 'vitest';
import { passages, type Plan, type TaskAssignee } from '../plans/index.ts';
import { checkItem } from '../checks/index.ts';
import { play } from '../testing/player.ts';
import { catalogue, form, step, wideForm } from '../testing/samples.ts';

const routed = (assignee: TaskAssignee, due = true): Plan => ({
  steps: [
    step('task', 'do', {
      assignee,
      instructions: passages('Do it'),
      checklist: [],
      fields: [],
      tellTeam: true,
      ...(due && { due: { within: 'PT4H' } }),
    }),
  ],
});
const begun = (assignee: TaskAssignee) => {
  const p = play(routed(assignee));
  return { p, key: p.open('do')!.key, wanted: p.effects.flatMap((e) => (e.effect === 'find' ? [e.wanted] : [])) };
};
const opened = (p: ReturnType<typeof play>) => p.effects.find((e) => e.effect === 'openTask');

describe('a task of whoever a routing table names', () => {
  it('asks the table when it begins, with the place that counts', () => {
    expect(begun({ routed: 'whoGets' }).wanted).toEqual([{ from: 'routed', table: 'whoGets' }]);
    expect(begun({ routed: 'whoGets', place: { ref: 'form.place' } }).wanted).toEqual([{ from: 'routed', table: 'whoGets', place: 'l1' }]);
    // An answer that is not given leaves it to where the requester works.
    expect(begun({ routed: 'whoGets', place: { ref: 'form.reason' } }).wanted).toEqual([{ from: 'routed', table: 'whoGets' }]);
  });

  it('is of the team, of somebody in it, or of a person; what is due counts by the hours of that team', () => {
    const team = begun({ routed: 'whoGets' });
    team.p.feed({ type: 'found', key: team.key, people: [], team: 'desk' });
    expect(opened(team.p)).toMatchObject({ assignee: { team: 'desk' }, tellTeam: true });
    expect(opened(team.p)).not.toHaveProperty('holder');
    expect(team.p.effects.flatMap((e) => (e.effect === 'reckon' ? [e.wanted.hours.team] : []))).toEqual(['desk']);
    expect(team.p.state().root.current).toMatchObject({ routed: { team: 'desk' }, phase: 'working' });

    const inTurn = begun({ routed: 'whoGets' });
    inTurn.p.feed({ type: 'found', key: inTurn.key, people: [{ person: 'olav' }], team: 'desk' });
    expect(opened(inTurn.p)).toMatchObject({ assignee: { team: 'desk' }, holder: 'olav' });

    const person = begun({ routed: 'whoGets' });
    person.p.feed({ type: 'found', key: person.key, people: [{ person: 'ada' }] });
    expect(opened(person.p)).toMatchObject({ assignee: { person: 'ada' } });
  });

  it('that nobody is named for is stuck, and asks the table again when it is tried again', () => {
    const nobody = begun({ routed: 'whoGets' });
    nobody.p.feed({ type: 'found', key: nobody.key, people: [] });
    expect(nobody.p.open('do')).toMatchObject({ phase: 'stuck', cause: '“task do” has nobody to do it.' });
    nobody.p.feed({ type: 'retried', key: nobody.key, person: 'tech' });
    expect(nobody.p.open('do')).toMatchObject({ phase: 'finding' });
    nobody.p.feed({ type: 'found', key: nobody.key, people: [], team: 'desk' });
    expect(nobody.p.open('do')).toMatchObject({ phase: 'working' });
  });

  it('is checked: the table is there, and looks at what the form asks', () => {
    const codes = (assignee: TaskAssignee, of = form) =>
      checkItem(of, routed(assignee), catalogue)
        .filter((f) => f.step === 'do' && f.code !== 'untold')
        .map((f) => f.code);
    expect(codes({ routed: 'whoGets' })).toEqual([]);
    expect(codes({ routed: 'gone' })).toEqual(['unknown-routing']);
    expect(codes({ routed: 'whoGets' }, { fields: form.fields.filter((f) => f.id !== 'kind') })).toEqual(['unknown-reference']);
    expect(codes({ routed: 'whoGets', place: { ref: 'form.group' } }, wideForm)).toEqual(['wrong-type']);
  });
});
