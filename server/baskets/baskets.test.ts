import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { passages } from '../../core/plans/index.ts';
import { form, gate, step, tell } from '../../core/testing/samples.ts';
import type { Field, Form } from '../../core/forms/index.ts';
import { archiveItem } from '../items/keeping.ts';
import { myRequest, myRequests } from '../requests/queries.ts';
import { finishTask } from '../tasks/commands.ts';
import { world, type World } from '../testing/world.ts';
import { mostLines, putInBasket, sendBasket, takeFromBasket } from './commands.ts';
import { basketLineOf, basketOf, basketSize, myOrder } from './queries.ts';

let w: World;
let task = '';
let coded = '';
const codedForm: Form = {
  ...form,
  fields: [...form.fields, { id: 'code', kind: 'text', label: 'Code', required: true, unique: { among: 'open' } } as Field],
};
beforeAll(async () => {
  w = await world();
  const doIt = step('task', 't', { assignee: { team: 'desk' }, instructions: passages('Do it'), checklist: [], fields: [] });
  task = (await w.item('Anchor', { steps: [doIt, tell('end', 'End')] })).id;
  const agreed = gate({ approvers: { from: 'people', people: [{ person: 'ada' }] } });
  coded = (await w.item('Buoy', { steps: [agreed, tell('end', 'End')] }, codedForm)).id;
});
afterAll(() => w.close());

const answers = (more: object = {}) => ({ group: { group: w.groupId('tide-models') }, reason: 'The survey', kind: 'daily', ...more });
const put = (who: string, itemId: string, more: object = {}, rest: object = {}) =>
  putInBasket(w.viewer(who), { itemId, revision: 1, answers: answers(more), ...rest });
const send = (who: string, idempotencyKey = crypto.randomUUID()) => sendBasket(w.viewer(who), { idempotencyKey });

describe('a basket', () => {
  it('keeps what is filled in, in the order it was put in; it is its owner’s only', async () => {
    expect(await put('ina', task)).toEqual({ ok: true, lines: 1 });
    expect(await put('ina', coded, { code: 'SK-1' })).toEqual({ ok: true, lines: 2 });
    const { lines } = await basketOf(w.viewer('ina'));
    expect(lines.map((l) => l.item)).toEqual(['Anchor', 'Buoy']);
    expect(lines[1]!.answers).toContainEqual(expect.objectContaining({ label: 'Code', words: 'SK-1' }));
    expect(await basketSize(w.viewer('ina'))).toBe(2);
    expect(await basketSize(w.viewer('tor'))).toBe(0);
    expect(await basketLineOf(w.viewer('tor'), lines[0]!.id)).toBeUndefined();
    expect(await takeFromBasket(w.viewer('tor'), lines[0]!.id)).toMatchObject({ ok: false, code: 'ended' });
    expect((await myRequests(w.viewer('ina'))).rows).toEqual([]);
  });

  it('takes nothing that the form would not, nor what is not offered', async () => {
    expect(await put('ina', coded)).toMatchObject({ ok: false, code: 'invalid', problems: [{ field: 'code' }] });
    expect(await put('ina', crypto.randomUUID())).toMatchObject({ ok: false, code: 'not-found' });
    expect(await put('ina', task, {}, { forWhom: w.id('tor') })).toMatchObject({ ok: false, problems: [{ field: 'for-whom' }] });
    expect(await basketSize(w.viewer('ina'))).toBe(2);
  });

  it('lets a thing be changed where it stands, taken out and put back', async () => {
    const [first] = (await basketOf(w.viewer('ina'))).lines;
    expect((await basketLineOf(w.viewer('ina'), first!.id))?.answers).toMatchObject({ reason: 'The survey' });
    expect(await put('ina', task, { reason: 'The spring survey' }, { instead: first!.id })).toEqual({ ok: true, lines: 2 });
    const [changed] = (await basketOf(w.viewer('ina'))).lines;
    expect(changed!.item).toBe('Anchor');
    expect(changed!.answers).toContainEqual(expect.objectContaining({ words: 'The spring survey' }));
    const taken = await takeFromBasket(w.viewer('ina'), changed!.id);
    expect(taken).toMatchObject({ ok: true, line: { itemId: task, revision: 1 } });
    expect(await takeFromBasket(w.viewer('ina'), changed!.id)).toMatchObject({ ok: false });
    if (taken.ok) expect(await putInBasket(w.viewer('ina'), taken.line)).toEqual({ ok: true, lines: 2 });
  });

  it('is sent as one order, once; each thing runs on its own, and the order is over with the last', async () => {
    const key = crypto.randomUUID();
    const [one, other] = await Promise.all([send('ina', key), send('ina', key)]);
    expect(one).toEqual(other);
    if (!one.ok) throw new Error(one.sentence);
    expect(one.requests).toBe(2);
    expect(await basketSize(w.viewer('ina'))).toBe(0);
    const order = (await myOrder(w.viewer('ina'), one.number))!;
    expect(order.lines.map((l) => l.item).sort()).toEqual(['Anchor', 'Buoy']);
    expect(order.endedAt).toBeUndefined();
    expect(await myOrder(w.viewer('tor'), one.number)).toBeUndefined();
    const [anchor, buoy] = ['Anchor', 'Buoy'].map((name) => order.lines.find((l) => l.item === name)!);
    expect((await myRequest(w.viewer('ina'), anchor!.number))?.order).toBe(one.number);
    // The series of numbers is one.
    expect(new Set([one.number, anchor!.number, buoy!.number]).size).toBe(3);
    const [open] = await w.query<{ id: string }>('select id from task where closed_at is null');
    await finishTask(w.viewer('runa'), { id: open!.id, values: {}, checked: [] });
    expect((await myOrder(w.viewer('ina'), one.number))!.endedAt).toBeUndefined();
    const [run] = await w.query<{ id: string }>('select u.id from run u join service_case k on k.id = u.case_id where k.number = $1', [buoy!.number]);
    await w.decide('boss', run!.id, 'decline', 'Not now');
    expect((await myOrder(w.viewer('ina'), one.number))!.endedAt).toBeInstanceOf(Date);
    expect(await send('ina')).toMatchObject({ ok: false, code: 'ended' });
  });

  it('is sent whole or not at all: what is refused is named, and the rest stays', async () => {
    await put('olav', coded, { code: 'SK-7' });
    expect(await send('olav')).toMatchObject({ ok: true });
    await put('tor', task);
    await put('tor', coded, { code: 'SK-7' });
    const { lines } = await basketOf(w.viewer('tor'));
    expect(await send('tor')).toMatchObject({
      ok: false,
      sentence: 'Nothing was sent: one of them needs another look.',
      problems: [{ field: lines[1]!.id, sentence: expect.stringContaining('an open request asks for it already') }],
    });
    expect(await basketSize(w.viewer('tor'))).toBe(2);
    expect((await myRequests(w.viewer('tor'))).rows).toEqual([]);
    expect(await w.query('select 1 from service_order where requester_id = $1', [w.id('tor')])).toEqual([]);
  });

  it('says of a thing that it is not offered any more', async () => {
    await archiveItem(w.viewer('dan', 'designer'), { id: coded, archived: true });
    const [, second] = (await basketOf(w.viewer('tor'))).lines;
    expect(await send('tor')).toMatchObject({ ok: false, problems: [{ field: second!.id, sentence: expect.stringContaining('does not exist') }] });
    await takeFromBasket(w.viewer('tor'), second!.id);
    const seen = [second!.id];
    expect(await sendBasket(w.viewer('tor'), { idempotencyKey: 'k', lines: seen })).toMatchObject({ ok: false, code: 'changed-meanwhile' });
    expect(await send('tor')).toMatchObject({ ok: true, requests: 1 });
  });

  it('holds so many things, and no more', async () => {
    for (let i = 0; i < mostLines; i++) expect(await put('dan', task)).toMatchObject({ ok: true });
    expect(await put('dan', task)).toMatchObject({ ok: false, code: 'invalid' });
    expect(await send('dan')).toMatchObject({ ok: true, requests: mostLines });
  });
});
