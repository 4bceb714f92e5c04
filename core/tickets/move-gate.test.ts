import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { validateAnswers } from '../forms/index.ts';
import { ItemDefinition } from '../items/index.ts';
import { anyMap } from '../statuses/any.ts';
import { play } from '../testing/player.ts';
import { catalogue } from '../testing/samples.ts';
import {
  checkKind,
  checkMoveGate,
  freshGate,
  gatedMoves,
  moveAnswers,
  moveDefinition,
  movePlaces,
  shippedKinds,
  tellPlaces,
  type GatedMove,
  type TicketKind,
} from './index.ts';

const change = shippedKinds.find((k) => k.name === 'Change')!;
const [from, to] = [change.map.begin, change.map.moves.find((m) => m.from === change.map.begin)!.to];
const gated = (gate: Partial<GatedMove['gate']>): GatedMove => ({
  from,
  to,
  who: ['team'],
  needs: [],
  gate: { ...freshGate('The site lead agrees'), nobody: { then: 'fail' }, ...gate },
});
const known = {
  requesterId: 'tuva',
  moverId: 'birk',
  said: 'It is tried.',
  subject: 'New firmware for the sounders',
  words: 'On a Sunday.',
  category: null,
  placeId: 'quay',
  priority: 'low',
  answers: {},
  filled: {},
};
/** The run that asks for a move, begun by Birk for a ticket of Tuva's, up to whom it asks. */
const asked = (move: GatedMove, people: string[]) => {
  const p = play(moveDefinition(change, move).plan, { requester: { person: 'tuva' }, for: { person: 'birk' }, answers: moveAnswers(change, known) });
  const gate = p.open('agreed')!;
  p.feed({ type: 'found', key: gate.key, people: people.map((person) => ({ person })) });
  return { ...p, key: gate.key };
};
const told = (p: ReturnType<typeof asked>) => p.effects.filter((e) => e.effect === 'message');

describe('a gate on a move', () => {
  const team = gated({ approvers: { from: 'team', team: 'desk' } });

  it('lets the ticket go once it is agreed to, and says nothing to whoever reported it', () => {
    const p = asked(team, ['ada', 'olav']);
    p.feed({ type: 'decided', key: p.key, person: 'olav', decision: 'approve', comment: '' });
    expect(p.state()).toMatchObject({ status: 'ended', outcome: 'fulfilled' });
    expect(told(p)).toEqual([]);
  });

  it('asks neither whoever reported the ticket nor whoever wants it moved', () => {
    const p = asked(team, ['tuva', 'birk', 'ada']);
    expect(p.effects.find((e) => e.effect === 'openGate')).toMatchObject({ asks: [{ person: 'ada' }] });
  });

  it('ends as declined with the reason, as lapsed after its time, and as failed where nobody can be asked', () => {
    const declined = asked(team, ['ada']);
    declined.feed({ type: 'decided', key: declined.key, person: 'ada', decision: 'decline', comment: 'Not before the survey.' });
    expect(declined.state()).toMatchObject({ outcome: 'declined', reason: 'Not before the survey.' });

    const lapsed = asked(gated({ approvers: { from: 'team', team: 'desk' }, deadline: 'PT4H' }), ['ada']);
    lapsed.until('2026-03-09T09:00:00.000Z');
    expect(lapsed.state().outcome).toBe('lapsed');

    const nobody = asked(team, ['tuva']);
    expect(nobody.state().outcome).toBe('failed');
    expect([...told(declined), ...told(lapsed), ...told(nobody)]).toEqual([]);
  });

  it('reads what is known of the ticket, what the desk filled in under a key of its own where both sides have one', () => {
    const field = (label: string) => ({ id: 'serial', kind: 'text' as const, label, required: false });
    const kind: TicketKind = { ...change, form: { fields: [field('Which one')] }, desk: [field('Which one it was')] };
    const answers = moveAnswers(kind, { ...known, answers: { serial: 'FT-1' }, filled: { serial: 'FT-2' } });
    expect(answers).toEqual({
      its_subject: 'New firmware for the sounders',
      its_requester: { person: 'tuva' },
      its_mover: { person: 'birk' },
      its_said: 'It is tried.',
      its_words: 'On a Sunday.',
      its_place: { location: 'quay' },
      its_priority: 'low',
      serial: 'FT-1',
      serial_desk: 'FT-2',
    });
    const { form } = moveDefinition(kind, team);
    expect(validateAnswers(form, answers, () => true)).toMatchObject({ ok: true });
    expect([...movePlaces(kind, catalogue).keys()]).toContain('form.serial_desk');
  });

  it('is checked as a gate of a plan is, and cannot name whoever asks for the move', () => {
    const codes = (gate: Partial<GatedMove['gate']>) => checkMoveGate(change, gated(gate), catalogue).map((f) => f.code);
    expect(codes({ approvers: { from: 'team', team: 'desk' } })).toEqual([]);
    expect(codes({})).toEqual(['unset-setting']);
    expect(codes({ approvers: { from: 'team', team: 'gone' } })).toEqual(['unknown-team']);
    expect(codes({ approvers: { from: 'team', team: 'desk' }, nobody: undefined })).toEqual(['nobody-to-ask']);
    expect(codes({ approvers: { from: 'managerOf', person: { ref: 'request.for' } } })).toContain('unknown-reference');
    expect(codes({ approvers: { from: 'ownersOf', group: { ref: 'form.its_place' } } })).toContain('wrong-type');
  });

  it('of any map is a definition that can be kept', () => {
    fc.assert(
      fc.property(anyMap, (map) => {
        const kind = { ...change, map };
        for (const move of gatedMoves(kind)) expect(ItemDefinition.safeParse(moveDefinition(kind, move)).error).toBeUndefined();
      }),
    );
  });
});

describe('what a status tells', () => {
  it('can hold what is known of the ticket, and nothing that is not there', () => {
    const refs = tellPlaces(change).map((p) => p.ref);
    expect(refs).toEqual(expect.arrayContaining(['request.number', 'form.its_subject', 'form.its_holder', 'ticket.promisedBy']));
    expect(refs).not.toContain('form.its_mover');
    const telling = (ref: string): TicketKind => ({
      ...change,
      map: {
        ...change.map,
        statuses: change.map.statuses.map((s) => (s.id === 'done' ? { ...s, tells: [[{ text: 'Done by ' }, { ref }]] } : s)),
      },
    });
    expect(checkKind(telling('form.its_holder')).filter((f) => f.stops)).toEqual([]);
    expect(checkKind(telling('form.gone')).map((f) => f.code)).toContain('unknown-value');
  });
});
