import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { machinePark } from '../../demo/machine-park.ts';
import { listedIn, WebAction, type Listing } from './index.ts';

const make = machinePark('https://park.example').actions[0]!;
const listing: Listing = { path: '/machines', rows: '/machines', who: '/owner', next: '/next' };
const row = { id: 'm-1', owner: 'p-1', address: 'm-1.example', until: '2027-01-02', signIn: 'never told' };
const page = (...machines: unknown[]) => listedIn(make, listing, { machines });

describe('what a system lists', () => {
  it('is read as the action itself would have answered it, but for what is secret', () => {
    expect(page(row)).toEqual({
      ok: true,
      odd: [],
      next: undefined,
      rows: [
        {
          what: 'm-1.example',
          person: 'p-1',
          until: '2027-01-02',
          outputs: { id: 'm-1', address: 'm-1.example', until: '2027-01-02' },
          job: 'm-1',
        },
      ],
    });
  });
  it('a row that does not say what it is is none yet; one that makes no sense is told, and harms no other', () => {
    const read = page({ ...row, address: undefined }, { ...row, until: 'soon' }, 7, row);
    expect(read).toMatchObject({ ok: true, odd: ['A row has something at “/until” that cannot be read as “Lent until”.'] });
    expect(read.ok && read.rows.map((r) => r.what)).toEqual(['m-1.example']);
    const nobodys = page({ ...row, owner: { name: 'x' } }, { ...row, owner: undefined });
    expect(nobodys.ok && nobodys.rows.map((r) => r.person)).toEqual([undefined, undefined]);
  });
  it('goes on at the path it names, which is one of the system; what is no list is told', () => {
    expect(listedIn(make, listing, { machines: [], next: '/machines?after=m-1' })).toMatchObject({ next: '/machines?after=m-1' });
    for (const next of ['https://elsewhere.example/', '/../x', '/%2e%2e/x', 'machines', 7, {}, '/x y'])
      expect([next, listedIn(make, listing, { machines: [], next }).ok]).toEqual([next, false]);
    for (const none of [undefined, null, {}, { machines: {} }, [], 'x']) expect(listedIn(make, listing, none).ok).toBe(false);
    expect(listedIn(make, { ...listing, rows: '' }, [row])).toMatchObject({ ok: true, rows: [{ what: 'm-1.example' }] });
  });
  it('says what it is where the action is told that: at a place of its own, without which it is refused', () => {
    const letIn = WebAction.safeParse({
      id: 'letIn',
      label: 'Let in',
      method: 'POST',
      path: '/rooms',
      inputs: [
        { name: 'room', label: 'Room', type: 'text', required: true },
        { name: 'who', label: 'Who', type: 'person', required: true },
      ],
      outputs: [],
      gives: { kind: 'room', person: 'who', what: 'room' },
      listing: { path: '/rooms', rows: '', who: '/who' },
    });
    expect(letIn.error?.issues[0]).toMatchObject({ path: ['listing', 'what'] });
    const action = { ...make, ...{ inputs: [{ name: 'room', label: 'Room', type: 'text', required: true }], outputs: [] } } as WebAction;
    const gives = { kind: 'room', person: 'who', what: 'room' };
    expect(listedIn({ ...action, gives }, { path: '/rooms', rows: '', who: '/who', what: '/room' }, [{ room: 'a', who: 'p-1' }])).toMatchObject({
      rows: [{ what: 'a', person: 'p-1', outputs: {} }],
    });
    for (const wrong of [
      { path: '/rooms/{room}', rows: '' },
      { path: 'rooms', rows: '' },
      { path: '/rooms', rows: 'rows' },
    ])
      expect(WebAction.safeParse({ ...make, listing: wrong }).success).toBe(false);
    const { gives: _, ...nothing } = make;
    expect(WebAction.safeParse({ ...nothing, listing }).success).toBe(false);
  });
  it('whatever it is, it is read or told, and never throws', () => {
    fc.assert(
      fc.property(fc.anything(), fc.array(fc.anything()), (whole, rows) => {
        listedIn(make, listing, whole);
        expect(listedIn(make, listing, { machines: rows }).ok).toBe(true);
      }),
    );
  });
});
