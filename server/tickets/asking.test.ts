import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { moveOf } from '../../core/statuses/index.ts';
import { freshGate, replayTicket, type GatedMove, type TicketEvent } from '../../core/tickets/index.ts';
import { approvalFor } from '../approvals/queries.ts';
import { approvalsFor } from '../approvals/list.ts';
import { decide } from '../approvals/commands.ts';
import { askedOf } from '../../core/lists/index.ts';
import { connections } from '../db/database.ts';
import { shiftClock } from '../clock.ts';
import { withdrawRequest } from '../requests/commands.ts';
import { addToRequest } from '../requests/additions.ts';
import { ticketKit } from '../testing/tickets.ts';
import { world, type World } from '../testing/world.ts';
import { takeBackAsking } from './asking.ts';
import { giveTicket, writeOnTicket } from './commands.ts';
import { ticketFor } from './queries.ts';
import { joinTicket } from './related.ts';
import { lostAskings, ticketTime } from './time.ts';

// A move that has a gate: the ticket stays until those who are asked have agreed.

let w: World;
let kit: Awaited<ReturnType<typeof ticketKit>>;
beforeAll(async () => {
  w = await world();
  kit = await ticketKit(w);
});
afterEach(() => shiftClock(0));
afterAll(() => w.close());

const dan = () => w.viewer('dan', 'teamMember');
const gated = async (gate: Partial<GatedMove['gate']>, needs: string[] = []) => {
  const { map } = kit.definition;
  const moves = map.moves.map((m) =>
    m === moveOf(map, 'fresh', 'done') ? { ...m, needs, gate: { ...freshGate('The lead agrees'), nobody: { then: 'fail' as const }, ...gate } } : m,
  );
  return kit.change({ ...kit.definition, map: { ...map, moves } });
};
const boss = { from: 'people' as const, people: [] as { person: string }[] };
const asksBoss = () => gated({ approvers: { ...boss, people: [{ person: w.id('boss') }] } });
let sent = 0;
const toDone = (number: number, more: Partial<Parameters<typeof writeOnTicket>[1]> = {}, who = dan()) =>
  writeOnTicket(who, { number, words: '', inside: false, once: `asks-${++sent}`, move: { from: 'fresh', to: 'done' }, ...more });
const waitingOf = async (who: string) => (await approvalsFor(w.viewer(who), askedOf('approvals', new URLSearchParams('sort=-asked'))!)).rows;
const approvalOf = async (who: string, number: number) => (await waitingOf(who)).find((r) => r.number === number)!;
const asked = async () => {
  const number = await kit.report('tor');
  expect(await toDone(number)).toMatchObject({ ok: true, moved: false, asked: true });
  return number;
};
const history = async (number: number) => (await ticketFor(w.viewer('dan', 'auditor'), number))!.history.map((h) => `${h.by ?? 'nobody'} ${h.words}`);
const says = async (who: string, subject: string, times: number) => {
  await w.work();
  expect((await w.mails(who)).filter((m) => m.subject === subject)).toHaveLength(times);
};

describe('a move that has a gate', () => {
  it('waits until it is agreed to, then the ticket goes and the desk hears it; whoever reported it is told nothing of the asking', async () => {
    await asksBoss();
    const number = await asked();
    expect(await kit.state(number)).toMatchObject({ status: 'fresh', asking: { to: 'done' } });
    const seen = (await ticketFor(dan(), number))!;
    expect(seen.asking).toMatchObject({ to: 'Done', gate: 'The lead agrees', people: [{ name: 'Boss Strand', status: 'waiting' }] });

    await w.work();
    const mail = (await w.mails('boss')).find((m) => m.subject === `Your approval is asked for: Incident: New → Done, T-${number}`)!;
    expect(mail.text).toMatch(
      /A ticket of Tor Strand waits for “Incident: New → Done”[\s\S]*Ticket: Tablet does not charge[\s\S]*Who wants it moved: Dan/,
    );
    const row = await approvalOf('boss', number);
    expect(row).toMatchObject({ kind: 'ticket', gate: 'The lead agrees', item: 'Incident: New → Done', requester: 'Tor Strand' });
    expect(await approvalFor(w.viewer('boss'), row.id)).toMatchObject({
      kind: 'ticket',
      answers: expect.arrayContaining([
        expect.objectContaining({ label: 'What was reported', words: 'It says it charges, but the number falls.' }),
      ]) as unknown,
    });

    expect(await decide(w.viewer('boss'), { approvalId: row.id, decision: 'approve', comment: 'Fine.' })).toMatchObject({ ok: true });
    // It goes by itself, a moment later.
    await w.work();
    expect(await kit.state(number)).toMatchObject({ status: 'done' });
    expect((await kit.state(number)).asking).toBeUndefined();
    expect((await history(number)).slice(1, 3)).toEqual(['Dan Strand asked to move it to “Done”', 'Boss Strand moved it to “Done”, as was agreed']);
    await says('runa', `Agreed to: Tablet does not charge, T-${number}`, 1);
    expect((await w.mails('tor')).filter((m) => /approv|agree|declin/i.test(`${m.subject} ${m.text}`))).toEqual([]);
  });

  it('stays where it is when it is declined, and says why', async () => {
    await asksBoss();
    const number = await asked();
    const { id } = await approvalOf('boss', number);
    await decide(w.viewer('boss'), { approvalId: id, decision: 'decline', comment: 'Not before the survey.' });
    await w.work();
    expect(await kit.state(number)).toMatchObject({ status: 'fresh' });
    expect((await history(number)).at(-1)).toBe('Boss Strand did not agree to moving it to “Done”: Not before the survey.');
    const mail = (await w.mails('runa')).find((m) => m.subject === `Not agreed to: Tablet does not charge, T-${number}`);
    expect(mail?.text).toContain('It was not agreed to, so it does not go to “Done”.\nNot before the survey.');
    // It may be asked again.
    expect(await toDone(number)).toMatchObject({ ok: true, asked: true });
  });

  it('asks neither whoever wants it moved nor whoever reported it; where nobody is left it goes, or stays, as the gate says', async () => {
    const only = { approvers: { ...boss, people: [{ person: w.id('dan') }, { person: w.id('tor') }] } };
    await gated({ ...only, nobody: { then: 'fail' } });
    const stays = await kit.report('tor');
    expect(await toDone(stays)).toMatchObject({ ok: true, moved: false });
    expect(await kit.state(stays)).toMatchObject({ status: 'fresh' });
    expect((await history(stays)).at(-1)).toBe('nobody nobody could be asked, so that it was not moved to “Done”');
    await gated({ ...only, nobody: { then: 'pass' } });
    const goes = await kit.report('tor');
    expect(await toDone(goes)).toMatchObject({ ok: true, moved: true });
    expect(await kit.state(goes)).toMatchObject({ status: 'done' });
  });

  it('lapses after its time, and its word to the requester is sent at once', async () => {
    await gated({ approvers: { ...boss, people: [{ person: w.id('boss') }] }, deadline: 'PT4H' }, ['word']);
    const number = await kit.report('tor');
    expect(await toDone(number, { words: 'We ask whether we may.' })).toMatchObject({ ok: true, asked: true });
    await w.work();
    expect((await w.mails('tor')).some((m) => m.text.includes('We ask whether we may.'))).toBe(true);
    expect((await history(number)).at(-1)).toBe('nobody nobody answered, so that it was not moved to “Done”');
  });

  it('is asked once: another asking is refused, two at once are one', async () => {
    await asksBoss();
    const number = await kit.report('tor');
    const both = await Promise.all([toDone(number), toDone(number, {}, w.viewer('runa', 'teamMember'))]);
    expect(both.filter((r) => r.ok)).toHaveLength(1);
    expect(both.find((r) => !r.ok)).toMatchObject({
      sentence: expect.stringContaining('It is asked already whether it may go to “Done”') as unknown,
    });
    expect(await w.query('select 1 from run u join service_case c on c.id = u.case_id where c.number = $1', [number])).toHaveLength(1);
  });

  it('is not asked any more once it is taken back, or the ticket goes another way or into another; those asked are told', async () => {
    await asksBoss();
    const ways: ((number: number) => Promise<unknown>)[] = [
      (number) => takeBackAsking(dan(), { number }),
      (number) => writeOnTicket(dan(), { number, words: '', inside: false, once: `way-${number}`, move: { from: 'fresh', to: 'read' } }),
      async (number) => joinTicket(dan(), { number, other: `T-${await kit.report('ina')}` }),
    ];
    for (const way of ways) {
      const number = await asked();
      const { id } = await approvalOf('boss', number);
      expect(await way(number)).toMatchObject({ ok: true });
      expect((await kit.state(number)).asking).toBeUndefined();
      await says('boss', `No longer needed: The lead agrees, T-${number}`, 1);
      expect(await decide(w.viewer('boss'), { approvalId: id, decision: 'approve', comment: '' })).toMatchObject({
        ok: false,
        code: 'already-decided',
      });
      await w.work();
      expect((await kit.state(number)).status).not.toBe('done');
    }
    expect(await takeBackAsking(w.viewer('tor'), { number: await asked() })).toMatchObject({ ok: false, code: 'not-allowed' });
  });

  it('is no request: nobody withdraws it by its number, or adds to it', async () => {
    await asksBoss();
    const number = await asked();
    expect(await withdrawRequest(w.viewer('tor'), { number })).toMatchObject({ ok: false, code: 'not-found' });
    const more = { number, kind: 'task' as const, name: 'More', instructions: 'This', to: 'agreed', team: w.teamId };
    expect(await addToRequest(w.viewer('runa', 'administrator'), more)).toMatchObject({ ok: false, code: 'not-found' });
  });

  it('goes on though the job for it was lost, once; what happened replays to where it stands', async () => {
    await asksBoss();
    const number = await asked();
    await decide(w.viewer('boss'), { approvalId: (await approvalOf('boss', number)).id, decision: 'approve', comment: '' });
    await connections().query("delete from graphile_worker._private_jobs where key like 'asked:%'");
    const [lost] = await lostAskings(new Date(Date.now() + 60_000), 10);
    await Promise.all([ticketTime(lost!.caseId), ticketTime(lost!.caseId)]);
    const state = await kit.state(number);
    expect(state.status).toBe('done');
    const events = await w.query<{ event: TicketEvent; at: Date }>(
      'select event, at from ticket_event e join service_case c on c.id = e.case_id where c.number = $1 order by seq',
      [number],
    );
    expect(events.filter((e) => e.event.type === 'moved')).toHaveLength(1);
    expect(
      replayTicket(
        kit.definition,
        events.map((e) => ({ event: e.event, at: e.at.toISOString() })),
      ),
    ).toEqual(state);
  });

  it('several who act on two such tickets at once never wait for each other in a circle', async () => {
    await asksBoss();
    for (let round = 0; round < 3; round++) {
      const [a, b] = [await asked(), await asked()];
      const ids = await Promise.all([a, b].map(async (n) => (await approvalOf('boss', n)).id));
      const say = (id: string) => decide(w.viewer('boss'), { approvalId: id, decision: 'approve', comment: '' });
      await Promise.all([
        joinTicket(dan(), { number: a, other: `T-${b}` }),
        joinTicket(w.viewer('runa', 'administrator'), { number: b, other: `T-${a}` }),
        ...ids.map(say),
        takeBackAsking(dan(), { number: b }),
        writeOnTicket(w.viewer('tor'), { number: a, words: 'And?', inside: false, once: `circle-${round}`, asRequester: true }),
      ]);
      await w.work();
      for (const n of [a, b]) {
        const { status, joined, asking } = await kit.state(n);
        expect(asking).toBeUndefined();
        expect(status === 'done' || joined !== undefined || n === b).toBe(true);
      }
    }
  });

  it('is told with the values of then, where the status tells some', async () => {
    const { map } = kit.definition;
    const tells = [
      [
        { text: 'Done: ' },
        { ref: 'form.its_subject', bold: true as const },
        { text: ', ' },
        { ref: 'request.number' },
        { text: ', by ' },
        { ref: 'form.its_holder' },
      ],
    ];
    const kept = await kit.change({ ...kit.definition, map: { ...map, statuses: map.statuses.map((s) => (s.id === 'done' ? { ...s, tells } : s)) } });
    expect(kept.ok).toBe(true);
    const number = await kit.report('tor');
    await giveTicket(dan(), { number, holder: w.id('dan') });
    expect(await toDone(number, { words: 'A new battery.' })).toMatchObject({ ok: true, moved: true });
    await w.work();
    expect((await w.mails('tor')).some((m) => m.text.includes(`Done: Tablet does not charge, T-${number}, by Dan Strand`))).toBe(true);
  });

  it('whose gate cannot work is not kept', async () => {
    expect(await gated({})).toMatchObject({
      ok: false,
      code: 'has-findings',
      sentence: expect.stringMatching(/^The gate from “New” to “Done”/) as unknown,
    });
    expect(await gated({ approvers: { from: 'team', team: w.teamId }, nobody: undefined })).toMatchObject({ ok: false, code: 'has-findings' });
  });
});
