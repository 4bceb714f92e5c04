import { DateTime } from 'luxon';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Plan } from '../../core/plans/index.ts';
import { gate, step, tell } from '../../core/testing/samples.ts';
import type { RichText } from '../../core/values/index.ts';
import { world, type World } from '../testing/world.ts';
import { taskFor } from '../tasks/queries.ts';
import { finishTask } from '../tasks/commands.ts';
import { createItem, saveDraft } from '../items/commands.ts';

let w: World;
beforeAll(async () => {
  w = await world({ replies: true });
});
afterAll(() => w.close());

const text: RichText = [
  [{ text: 'For ' }, { ref: 'request.requester', bold: true }, { text: ' & co' }],
  {
    list: 'points',
    items: [[{ text: 'Read ' }, { text: 'this', link: 'https://desk.skerrin.example/a?b=1&c=2' }], [{ ref: 'form.reason', italic: true }]],
  },
];
const html = (name: string, reason: string) =>
  [
    `<p>For <strong>${name}</strong> &#38; co</p>`,
    `<ul><li>Read <a href="https://desk.skerrin.example/a?b=1&#38;c=2">this</a></li><li><em>${reason}</em></li></ul>`,
  ].join('\n');
const plain = (name: string, reason: string) => `For ${name} & co\n- Read this (https://desk.skerrin.example/a?b=1&c=2)\n- ${reason}`;

const plan: Plan = {
  steps: [
    step('task', 'look', { assignee: { team: 'desk' }, instructions: [{ text }], checklist: [], fields: [] }),
    step('tell', 'end', { to: { ref: 'request.requester' }, subject: [[{ text: 'Formatted' }]], body: [{ text }] }),
    step('tell', 'chat', { to: { ref: 'request.requester' }, by: 'chat', subject: [[{ text: 'Said' }]], body: [{ text }] }),
    step('tell', 'bare', { to: { ref: 'request.requester' }, subject: [[{ text: 'Bare' }]], body: [{ text: [[{ text: 'Only <words>' }]] }] }),
  ],
};

it('goes out formatted beside its plain words (read by mailparser), in chat likewise, and into a task; what was answered is never markup', async () => {
  const item = await w.item('Formatted', plan);
  const { id } = await w.ask(w.viewer('tor'), item.id, 'tide-models', { reason: '<img src=x onerror=alert(1)>' });
  const [task] = await w.query<{ id: string }>('select id from task where run_id = $1', [id]);
  const name = (await w.query<{ name: string }>('select name from person where id = $1', [w.id('tor')]))[0]!.name;
  const said = '&#60;img src=x onerror=alert(1)&#62;';
  const seen = await taskFor(w.viewer('runa'), task!.id);
  expect(seen?.instructions).toEqual([
    [{ text: 'For ' }, { text: name, bold: true }, { text: ' & co' }],
    { list: 'points', items: [expect.anything(), [{ text: '<img src=x onerror=alert(1)>', italic: true }]] },
  ]);
  expect(await finishTask(w.viewer('runa'), { id: task!.id, values: {}, checked: [] })).toEqual({ ok: true });
  await w.work();
  const mails = await w.mails('tor');
  const formatted = mails.find((m) => m.subject === 'Formatted')!;
  expect(formatted.html?.trim()).toBe(html(name, said));
  expect(formatted.text.trim()).toBe(plain(name, '<img src=x onerror=alert(1)>'));
  const bare = mails.find((m) => m.subject === 'Bare')!;
  expect(bare.html).toBeUndefined();
  expect(bare.text.trim()).toBe('Only <words>');
  const events = (await (await fetch(`${w.settings.CHAT_URL}/_events?user=tor`)).json()) as {
    content: { body: string; format?: string; formatted_body?: string };
  }[];
  const chat = events.find((e) => e.content.body.startsWith('Said'))!.content;
  expect(chat.format).toBe('org.matrix.custom.html');
  expect(chat.formatted_body).toBe(`<p><strong>Said</strong></p>\n${html(name, said)}`);
  expect(chat.body).toContain(plain(name, '<img src=x onerror=alert(1)>'));
});

it('what a requester wrote in several lines is quoted where their approval is asked for, by mail and in chat', async () => {
  const asked = gate({ approvers: { from: 'people', people: [{ person: w.id('ina') }] }, nobody: { then: 'fail' } });
  const item = await w.item('Quoted', { steps: [asked, tell('end', 'Done')] });
  const link = 'https://elsewhere.example/desk/decide/0123';
  const reason = `Please.\n\nApprove or decline, signed in:\n${link}\n`;
  await w.ask(w.viewer('tor'), item.id, 'tide-models', { reason });
  await w.work();
  const mail = (await w.mails('ina')).find((m) => m.subject.includes('Quoted'))!.text.replace(/\r\n/g, '\n');
  expect(mail).toContain(`:\n> Please.\n> \n> Approve or decline, signed in:\n> ${link}\n`);
  expect(mail.split('\n').filter((l) => l.includes(link) && !l.startsWith('> '))).toEqual([]);
  const events = (await (await fetch(`${w.settings.CHAT_URL}/_events?user=ina`)).json()) as { content: { body: string } }[];
  const said = events.find((e) => e.content.body.includes(link))!.content.body;
  expect(said.split('\n').filter((l) => l.includes(link) && !l.startsWith('> '))).toEqual([]);
});

it('a plan whose text has an unknown mark, a bad link or an empty list does not fit its schema', async () => {
  const designer = w.viewer('dan', 'designer');
  const made = await createItem(designer, { name: 'Badly formatted' });
  if (!made.ok) throw new Error(made.sentence);
  const save = (written: unknown) => {
    const steps = [step('tell', 'end', { subject: [], body: [{ text: written as RichText }] })];
    return saveDraft(designer, {
      id: made.id,
      version: 1,
      draft: { name: 'Badly formatted', summary: '', category: '', form: { fields: [] }, plan: { steps } },
    });
  };
  for (const wrong of [
    [[{ text: 'x', link: 'javascript:alert(1)' }]],
    [{ list: 'points', items: [] }],
    [{ list: 'stars', items: [[{ text: 'x' }]] }],
  ])
    expect(await save(wrong)).toMatchObject({ ok: false });
  expect(await save(text)).toMatchObject({ ok: true });
});

it('a moment among the values is said in the zone of whoever reads it', async () => {
  const [place] = await w.query<{ id: string }>(
    "insert into location (name, kind, zone) values ('Boat Shed', 'site', 'Pacific/Kiritimati') returning id",
  );
  await w.query('update person set location_id = $1 where id = $2', [place!.id, w.id('tor')]);
  const opened = step('tell', 'opened', {
    to: { ref: 'request.requester' },
    subject: [[{ text: 'Opened' }]],
    body: [{ text: [[{ ref: 'request.opened' }]] }],
  });
  const item = await w.item('Opened when', { steps: [opened] });
  await w.ask(w.viewer('tor'), item.id, 'tide-models');
  await w.work();
  const [row] = await w.query<{ at: Date }>('select opened_at as at from service_case order by number desc limit 1');
  const words = DateTime.fromJSDate(new Date(row!.at)).setZone('Pacific/Kiritimati').setLocale('en-GB').toFormat('d LLL yyyy, HH:mm');
  expect((await w.mails('tor')).find((m) => m.subject === 'Opened')!.text.trim()).toBe(words);
});
