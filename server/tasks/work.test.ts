import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { passages, type Plan, type Step } from '../../core/plans/index.ts';
import { finish, gate, step, tell, wideForm } from '../../core/testing/samples.ts';
import { sentence } from '../../core/values/index.ts';
import { world, type World } from '../testing/world.ts';
import { correctRequest, finishTask, handOver, writeFromTask, saveTask, takeTask } from './commands.ts';
import { askedOf } from '../../core/lists/index.ts';
import { queueFor } from '../queue/list.ts';
import { taskFor } from './queries.ts';
import { answerQuestion } from '../requests/commands.ts';
import { myRequest } from '../requests/queries.ts';
import { decide } from '../approvals/commands.ts';
import { addToRequest } from '../requests/additions.ts';
import { skipStep, takeOverStep } from '../runs/commands.ts';
import { changePolicy, createPolicy } from '../policies/commands.ts';
import { policyOf } from '../policies/queries.ts';
import { createItem, publish, saveDraft } from '../items/commands.ts';
import { browse } from '../items/offered.ts';
import { fireTimer } from '../runtime/fire-timers.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());

const told = tell('end', 'End');
const task = (id: string, more: object = {}): Step =>
  step('task', id, { assignee: { team: 'desk' }, instructions: passages('Do it'), checklist: [], fields: [], ...more });
const ask = (plan: Plan, who?: string) => w.askPlan(plan, who);
const taskOf = async (runId: string, key?: string) =>
  (await w.query<{ id: string; key: string }>('select id, key from task where run_id = $1 and closed_at is null order by key', [runId])).find(
    (t) => !key || t.key === key,
  )!;

describe('tasks', () => {
  const full = task('t', {
    checklist: [{ id: 'a', words: 'First' }],
    fields: [{ id: 'serial', kind: 'text', label: 'Serial number', required: true }],
  });

  it('are seen and done by their team only; finished when all is checked off and filled in; then the plan goes on by itself', async () => {
    const { id } = await ask({ steps: [full, told] });
    const t = await taskOf(id);
    const runa = w.viewer('runa', 'teamMember');
    expect((await queueFor(runa, askedOf('queue'))).rows.map((r) => r.id)).toContain(t.id);
    expect((await queueFor(w.viewer('ina'), askedOf('queue'))).rows).toEqual([]);
    expect(await taskFor(w.viewer('ina'), t.id)).toBeUndefined();
    expect(await finishTask(w.viewer('ina'), { id: t.id, values: {}, checked: [] })).toMatchObject({ ok: false, code: 'not-found' });
    expect(await takeTask(runa, { id: t.id, give: false })).toEqual({ ok: true });
    expect(await takeTask(w.viewer('dan', 'teamMember'), { id: t.id, give: false })).toMatchObject({
      ok: false,
      sentence: expect.stringContaining('Runa Strand'),
    });
    const missing = await finishTask(runa, { id: t.id, values: {}, checked: [] });
    expect(missing).toMatchObject({ ok: false, code: 'invalid', problems: [{ field: 'serial' }, { field: 'a' }] });
    await saveTask(runa, { id: t.id, values: { serial: 'S-77' }, checked: ['a', 'unknown'] });
    expect((await taskFor(runa, t.id))?.draft).toEqual({ values: { serial: 'S-77' }, checked: ['a'] });
    expect(await finishTask(runa, { id: t.id, values: { serial: 'S-77' }, checked: ['a'] })).toEqual({ ok: true });
    expect((await w.request(id)).state).toMatchObject({ outcome: 'fulfilled', outputs: { t: { serial: 'S-77', doneBy: { person: w.id('runa') } } } });
    expect(await finishTask(runa, { id: t.id, values: { serial: 'S-78' }, checked: ['a'] })).toMatchObject({
      ok: false,
      code: 'ended',
      sentence: expect.stringContaining('Already finished by Runa Strand'),
    });
  });

  it('two who finish at once: one effect, both told; an answer of the wrong type is refused at its field', async () => {
    const { id } = await ask({ steps: [task('t', { fields: [{ id: 'n', kind: 'number', label: 'How many', required: true, max: 5 }] }), told] });
    const t = await taskOf(id);
    for (const wrong of ['many', 9])
      expect(await finishTask(w.viewer('runa'), { id: t.id, values: { n: wrong }, checked: [] })).toMatchObject({
        ok: false,
        problems: [{ field: 'n' }],
      });
    const both = await Promise.all(['runa', 'dan'].map((u) => finishTask(w.viewer(u), { id: t.id, values: { n: 3 }, checked: [] })));
    expect(both.map((r) => r.ok).sort()).toEqual([false, true]);
    expect(await w.query("select 1 from run_event where run_id = $1 and event->>'type' = 'taskDone' and ignored is null", [id])).toHaveLength(1);
  });

  it('for each row of a list: one task a row, each for its person, who is told by mail, or named for its row', async () => {
    const packed = await ask({ steps: [step('forEach', 'e', { list: { ref: 'form.crew' }, body: [task('t')] }), told] });
    expect((await w.query<{ name: string }>('select name from task where run_id = $1 order by key', [packed.id])).map((t) => t.name)).toEqual([
      'task t: Ina Strand',
      'task t: Runa Strand',
    ]);
    const each = step('forEach', 'e', {
      list: { ref: 'form.crew' },
      body: [task('t', { assignee: { from: { ref: 'row.value' } }, instructions: passages('Pack') })],
    });
    const { id } = await ask({ steps: [each, told] });
    await w.work();
    expect((await w.mails('ina')).at(-1)?.subject).toContain('Task for you: task t, R-');
    for (const u of ['ina', 'runa']) {
      const [mine] = await w.query<{ id: string }>('select id from task where run_id = $1 and person_id = $2', [id, w.id(u)]);
      expect(await finishTask(w.viewer(u), { id: mine!.id, values: {}, checked: [] })).toEqual({ ok: true });
    }
    expect((await w.request(id)).outcome).toBe('fulfilled');
  });
});

describe('a task that opens what was asked', () => {
  it('lets whoever has it correct that, held against the form; it is a version, and what follows reads it', async () => {
    const { id } = await ask({ steps: [task('t', { corrects: ['cores'] }), told] });
    const t = await taskOf(id);
    const [runa, dan] = [w.viewer('runa', 'teamMember'), w.viewer('dan', 'teamMember')];
    expect((await taskFor(runa, t.id))!.correctable.fields.map((f) => f.id)).toEqual(['cores']);
    expect(await correctRequest(w.viewer('ina'), { id: t.id, values: { cores: 4 } })).toMatchObject({ ok: false, code: 'not-found' });
    expect(await correctRequest(runa, { id: t.id, values: { cores: 99 } })).toMatchObject({ ok: false, problems: [{ field: 'cores' }] });
    expect(await correctRequest(runa, { id: t.id, values: { cores: 2 } })).toEqual({ ok: true, changed: 0 });
    expect(await correctRequest(runa, { id: t.id, values: { cores: 4, reason: 'Mine' } })).toEqual({ ok: true, changed: 1 });
    expect((await w.request(id)).answers).toMatchObject({ cores: 4, reason: 'Tide tables' });
    expect(await w.query('select changed from answer_version where run_id = $1 order by seq desc limit 1', [id])).toEqual([
      { changed: { cores: 4 } },
    ]);
    await takeTask(dan, { id: t.id, give: false });
    expect(await correctRequest(runa, { id: t.id, values: { cores: 5 } })).toMatchObject({ ok: false, code: 'changed-meanwhile' });
    expect(await finishTask(dan, { id: t.id, values: {}, checked: [] })).toEqual({ ok: true });
    expect(await correctRequest(dan, { id: t.id, values: { cores: 5 } })).toMatchObject({ ok: false, code: 'ended' });
  });
});

describe('a task handed over', () => {
  it('goes with what is filled in to a person, who is told, or to a team; not what a colleague has taken', async () => {
    const { id } = await ask({ steps: [task('t', { fields: [{ id: 'n', kind: 'text', label: 'N', required: true }] }), told] });
    const t = await taskOf(id);
    const [runa, dan] = [w.viewer('runa', 'teamMember'), w.viewer('dan', 'teamMember')];
    await saveTask(runa, { id: t.id, values: { n: 'Half done' }, checked: [] });
    expect(await handOver(dan, { id: t.id, person: w.id('olav') })).toMatchObject({ ok: false, code: 'changed-meanwhile' });
    expect(await handOver(runa, { id: t.id })).toMatchObject({ ok: false, code: 'invalid' });
    expect(await handOver(runa, { id: t.id, person: randomUUID() })).toMatchObject({ ok: false, code: 'invalid' });
    expect(await handOver(runa, { id: t.id, person: w.id('olav') })).toEqual({ ok: true });
    await w.work();
    expect((await w.mails('olav')).at(-1)!.subject).toContain('Task for you: t');
    expect(await taskFor(runa, t.id)).toBeUndefined();
    expect((await taskFor(w.viewer('olav'), t.id))?.draft.values).toEqual({ n: 'Half done' });
    expect(await handOver(w.viewer('olav'), { id: t.id, team: w.teamId })).toEqual({ ok: true });
    expect(await taskFor(dan, t.id)).toMatchObject({ takenBy: null, mine: false, draft: { values: { n: 'Half done' } } });
    expect(await finishTask(dan, { id: t.id, values: { n: 'Done' }, checked: [] })).toEqual({ ok: true });
    expect((await w.request(id)).outcome).toBe('fulfilled');
  });

  it('whoever has it writes to the requester, and asks them; both stand on their page and their answer on the task', async () => {
    const { id, number } = await ask({ steps: [task('t'), told] });
    const t = await taskOf(id);
    const runa = w.viewer('runa', 'teamMember');
    expect(await writeFromTask(runa, { id: t.id, words: '  ' })).toMatchObject({ ok: false, code: 'invalid' });
    expect(await writeFromTask(runa, { id: t.id, words: 'x'.repeat(8001) })).toMatchObject({ ok: false, code: 'invalid' });
    expect(await writeFromTask(runa, { id: t.id, words: 'It comes on Friday.' })).toEqual({ ok: true });
    const question = { number, kind: 'question' as const, name: 'Which colour', instructions: 'Which colour is it to have?', to: 'end' };
    expect(await addToRequest(runa, { ...question, instructions: '' })).toMatchObject({ ok: false, problems: [{ field: 'instructions' }] });
    expect(await addToRequest(runa, question)).toEqual({ ok: true });
    await w.work();
    const tor = w.viewer('tor');
    const page = (await myRequest(tor, number))!;
    expect(page.words.map((x) => [x.by, x.from, x.text])).toEqual([
      ['Runa Strand', 'desk', 'It comes on Friday.'],
      [null, 'desk', 'Which colour is it to have?'],
    ]);
    expect(page.questions).toMatchObject([{ words: 'Which colour is it to have?' }]);
    expect((await taskFor(runa, t.id))!.words.at(-1)).toMatchObject({ stands: 'asked' });
    expect(await answerQuestion(tor, { id: page.questions[0]!.id, values: { answer: 'Ochre' } })).toEqual({ ok: true });
    expect((await taskFor(runa, t.id))!.words.slice(-2)).toMatchObject([
      { text: 'Which colour is it to have?', stands: undefined },
      { text: 'Ochre', from: 'requester' },
    ]);
    expect(await finishTask(runa, { id: t.id, values: {}, checked: [] })).toEqual({ ok: true });
    expect(await writeFromTask(runa, { id: t.id, words: 'Too late' })).toMatchObject({ ok: false, code: 'ended' });
  });
});

describe('questions and sending back', () => {
  it('a question is answered by the one who was asked; the wrong type is refused and nothing lost', async () => {
    const plan = {
      steps: [
        step('askBack', 'q', { question: sentence('Until when?'), fields: [{ id: 'last', kind: 'date', label: 'Last day', required: true }] }),
        told,
      ],
    };
    const { id, number } = await ask(plan);
    const q = (await myRequest(w.viewer('tor'), number))!.questions[0]!;
    expect(q.words).toBe('Until when?');
    expect(await answerQuestion(w.viewer('ina'), { id: q.id, values: { last: '2026-12-01' } })).toMatchObject({ ok: false, code: 'not-found' });
    expect(await answerQuestion(w.viewer('tor'), { id: q.id, values: { last: 'soon' } })).toMatchObject({ ok: false, problems: [{ field: 'last' }] });
    expect(await answerQuestion(w.viewer('tor'), { id: q.id, values: { last: '2026-12-01' } })).toEqual({ ok: true });
    expect((await w.request(id)).outcome).toBe('fulfilled');
    expect(await answerQuestion(w.viewer('tor'), { id: q.id, values: { last: '2026-12-02' } })).toMatchObject({ ok: false, code: 'ended' });
  });

  it('an approver sends it back, the requester corrects, approvers are asked again; a correction by an approver is a version', async () => {
    const { id, number } = await ask({ steps: [gate({ sendBack: true, corrects: ['cores'] }), told] });
    const waiting = async (user: string) => (await w.approvals(id)).find((a) => a.personId === w.id(user) && a.status === 'waiting')!;
    const first = await waiting('ina');
    expect(await decide(w.viewer('ina'), { approvalId: first.id, decision: 'sendBack', comment: '' })).toMatchObject({
      ok: false,
      problems: [{ field: 'comment' }],
    });
    expect(await decide(w.viewer('ina'), { approvalId: first.id, decision: 'sendBack', comment: 'Which survey?' })).toEqual({ ok: true });
    expect(
      await decide(w.viewer('olav'), {
        approvalId: (await w.approvals(id)).find((a) => a.personId === w.id('olav'))!.id,
        decision: 'approve',
        comment: '',
      }),
    ).toMatchObject({ ok: false, sentence: expect.stringContaining('sent back') });
    const r = (await myRequest(w.viewer('tor'), number))!;
    expect(r.questions[0]).toMatchObject({ back: true, words: 'Which survey?' });
    expect(
      await answerQuestion(w.viewer('tor'), { id: r.questions[0]!.id, values: { ...r.questions[0]!.answers, reason: 'The north survey' } }),
    ).toEqual({ ok: true });
    const again = await waiting('ina');
    expect(again.id).not.toBe(first.id);
    expect(await decide(w.viewer('ina'), { approvalId: again.id, decision: 'approve', comment: '', corrections: { cores: 99 } })).toMatchObject({
      ok: false,
      problems: [{ field: 'cores' }],
    });
    expect(
      await decide(w.viewer('ina'), { approvalId: again.id, decision: 'approve', comment: '', corrections: { cores: 4, reason: 'mine' } }),
    ).toEqual({ ok: true });
    expect((await w.request(id)).answers).toMatchObject({ reason: 'The north survey', cores: 4 });
    const versions = await w.query<{ changed: object }>('select changed from answer_version where run_id = $1 order by seq', [id]);
    expect(versions.at(-1)).toEqual({ changed: { cores: 4 } });
  });
});

describe('late additions', () => {
  it('by somebody with work in the request; the milestone waits; others are refused', async () => {
    const { id, number } = await ask({ steps: [task('t'), step('mark', 'ready', { shows: 'milestone', words: 'Ready' }), told] });
    const extra = { number, kind: 'task' as const, name: 'Check the cable', instructions: 'Look behind the desk', team: w.teamId, to: 'ready' };
    expect(await addToRequest(w.viewer('ina'), extra)).toMatchObject({ ok: false, code: 'not-allowed' });
    expect(await addToRequest(w.viewer('ina', 'teamMember'), extra)).toMatchObject({ ok: false, code: 'not-found' });
    expect(await addToRequest(w.viewer('runa', 'teamMember'), { ...extra, instructions: ' ' })).toMatchObject({
      ok: false,
      problems: [{ field: 'instructions' }],
    });
    expect(await addToRequest(w.viewer('runa', 'teamMember'), extra)).toEqual({ ok: true });
    await finishTask(w.viewer('runa'), { id: (await taskOf(id, 't#1')).id, values: {}, checked: [] });
    expect((await w.request(id)).outcome).toBeNull();
    await finishTask(w.viewer('runa'), { id: (await taskOf(id)).id, values: {}, checked: [] });
    expect((await w.request(id)).outcome).toBe('fulfilled');
    expect(await addToRequest(w.viewer('runa', 'teamMember'), extra)).toMatchObject({ ok: false });
  });
});

describe('stuck steps', () => {
  it('are skipped by an administrator with a reason, or taken over with the values the step would have given', async () => {
    const stuck = async () => {
      const made = await ask({
        steps: [
          step('provision', 'p', {
            action: 'directory.addMember',
            inputs: { group: { ref: 'form.group' }, person: { ref: 'request.requester' } },
            retries: { times: 0, firstPauseSeconds: 1, factor: 1 },
          }),
          told,
        ],
      });
      await w.manner('directory', 'refusing');
      await w.work();
      await w.manner('directory', 'well');
      return made;
    };
    const a = await stuck();
    const at = { number: a.number, key: 'p#1' };
    const tech = w.viewer('runa', 'teamMember');
    expect(await skipStep(tech, { ...at, comment: 'No' })).toMatchObject({ ok: false, code: 'not-allowed' });
    expect(await takeOverStep(tech, { ...at, comment: 'By hand', outputs: {} })).toMatchObject({ ok: false, problems: [{ field: 'already' }] });
    expect(await takeOverStep(tech, { ...at, comment: '', outputs: { already: 'false' } })).toMatchObject({
      ok: false,
      problems: [{ field: 'comment' }],
    });
    expect(await takeOverStep(tech, { ...at, comment: 'By hand', outputs: { already: 'false' } })).toEqual({ ok: true });
    expect((await w.request(a.id)).state).toMatchObject({ outcome: 'fulfilled', outputs: { p: { already: false } } });
    const b = await stuck();
    expect(await skipStep(w.viewer('dan', 'administrator'), { number: b.number, key: 'p#1', comment: 'Not needed' })).toEqual({ ok: true });
    expect((await w.request(b.id)).outcome).toBe('fulfilled');
    expect(await skipStep(w.viewer('dan', 'administrator'), { number: b.number, key: 'p#1', comment: 'Again' })).toMatchObject({ ok: false });
  });
});

describe('undo and holdings', () => {
  it('what was given is a holding; when the run ends so it is taken back, and off the holdings', async () => {
    const add = step('provision', 'p', {
      action: 'directory.addMember',
      inputs: { group: { ref: 'form.group' }, person: { ref: 'request.requester' } },
    });
    const last = gate({ id: 'last', approvers: { from: 'people', people: [{ person: 'ada' }] }, declined: [told, finish('no', 'declined')] });
    const { id } = await ask({ undoWhen: ['declined'], steps: [add, last, tell('yes', 'Yes')] }, 'dan');
    await w.work();
    const holdings = () =>
      w.query<{ kind: string; ended: boolean }>('select kind, ended_at is not null as ended from holding where run_id = $1', [id]);
    expect(await holdings()).toEqual([{ kind: 'group', ended: false }]);
    expect((await w.scimGroup('tide-models')).members.map((m) => m.value)).toContain(w.scimUser('dan'));
    const [mine] = await w.approvals(id);
    await decide(w.viewer('boss'), { approvalId: mine!.id, decision: 'decline', comment: 'No' });
    await w.work();
    expect(await holdings()).toEqual([{ kind: 'group', ended: true }]);
    expect((await w.scimGroup('tide-models')).members.map((m) => m.value)).not.toContain(w.scimUser('dan'));
    expect(await w.query<{ name: string; end: string }>('select name, "end" from run_step where run_id = $1 and key like \'undo:%\'', [id])).toEqual([
      { name: 'Undo: provision p', end: 'done' },
    ]);
  });
});

describe('approval policies', () => {
  it('changed in one place, they work from the next gate on in every item, with their history', async () => {
    const dan = w.viewer('dan', 'designer');
    const made = await createPolicy(dan, { name: 'Machines' });
    if (!made.ok) throw new Error(made.sentence);
    const line = (who: string) => ({ id: 'all', approvers: { from: 'people', people: [{ person: w.id(who) }] }, rule: { rule: 'any' } });
    const definition = (who: string) => ({
      name: 'Machines',
      purpose: '',
      inputs: [{ name: 'cores', label: 'Processors', type: 'number' }],
      lines: [
        {
          id: 'one',
          when: { compare: 'less', left: { ref: 'input.cores' }, right: { literal: 2 } },
          approvers: { from: 'nobody' },
          rule: { rule: 'any' },
        },
        line(who),
      ],
    });
    expect(await createPolicy(w.viewer('ina'), { name: 'X' })).toMatchObject({ ok: false, code: 'not-allowed' });
    expect(await createPolicy(dan, { name: 'machines' })).toMatchObject({ ok: false, code: 'taken' });
    expect(await changePolicy(dan, { id: made.id, version: 1, definition: definition('olav'), note: 'Begun' })).toMatchObject({
      ok: true,
      version: 2,
      findings: [],
    });
    expect(await changePolicy(dan, { id: made.id, version: 1, definition: definition('ina'), note: '' })).toMatchObject({
      ok: false,
      code: 'changed-meanwhile',
    });
    expect(await changePolicy(dan, { id: made.id, version: 2, definition: { name: '' }, note: '' })).toMatchObject({ ok: false, code: 'invalid' });
    const plan = { steps: [gate({ approvers: { from: 'policy', policy: made.id, inputs: { cores: { ref: 'form.cores' } } } }), told] };
    const asked = async (runId: string) => (await w.approvals(runId)).map((a) => a.personId);
    const item = await w.item('By policy', plan, wideForm);
    const answers = (cores: number) => ({
      crew: [{ person: w.id('ina') }],
      cores,
      from: '2026-12-04',
      price: { amount: '10', currency: 'EUR' },
      machine: w.machine,
      by: { team: w.teamId },
    });
    expect(await asked((await w.ask(w.viewer('tor'), item.id, 'tide-models', answers(2))).id)).toEqual([w.id('olav')]);
    await changePolicy(dan, { id: made.id, version: 2, definition: definition('runa'), note: 'Runa has taken over' });
    expect(await asked((await w.ask(w.viewer('tor'), item.id, 'tide-models', answers(2))).id)).toEqual([w.id('runa')]);
    const free = await w.ask(w.viewer('tor'), item.id, 'tide-models', answers(1));
    expect((await w.request(free.id)).outcome).toBe('fulfilled');
    const shown = (await policyOf(dan, made.id))!;
    expect([shown.usedBy.map((u) => u.name), shown.versions.map((v) => v.note)]).toEqual([['By policy'], ['Runa has taken over', 'Begun', 'Begun']]);
  });
});

describe('parts', () => {
  it('are written into the revision of the items that use them: a later change works from the next publishing on', async () => {
    const dan = w.viewer('dan', 'designer');
    const made = await createItem(dan, { name: 'Desk work', kind: 'part' });
    if (!made.ok) throw new Error(made.sentence);
    const part = (name: string) => ({
      name: 'Desk work',
      summary: '',
      category: '',
      form: { fields: [{ id: 'who', kind: 'person' as const, label: 'Who', required: true }] },
      plan: {
        steps: [
          {
            ...task('t', { assignee: { from: { ref: 'part.who' } }, fields: [{ id: 'tag', kind: 'text', label: 'Tag', required: true }] }),
            name,
          } as Step,
        ],
      },
      outputs: [{ name: 'tag', label: 'Tag', type: 'text' as const, from: { ref: 'steps.t.tag' } }],
    });
    const keep = async (version: number, name: string) => {
      const saved = await saveDraft(dan, { id: made.id, version, draft: part(name) });
      if (!saved.ok) throw new Error(saved.sentence);
      const published = await publish(dan, { id: made.id, version: saved.version, note: '' });
      if (!published.ok) throw new Error(published.sentence);
      return saved.version;
    };
    const version = await keep(1, 'Label it');
    const item = await w.item(
      'Uses a part',
      { steps: [step('part', 'p', { part: made.id, inputs: { who: { ref: 'request.requester' } } }), told] },
      wideForm,
    );
    await keep(version, 'Label it twice');
    const { id } = await w.ask(w.viewer('tor'), item.id, 'tide-models', {
      crew: [{ person: w.id('ina') }],
      cores: 1,
      from: '2026-12-04',
      price: { amount: '10', currency: 'EUR' },
      machine: w.machine,
      by: { team: w.teamId },
    });
    expect(await w.query('select name, key from task where run_id = $1', [id])).toEqual([{ name: 'Label it', key: 'p~1/t#1' }]);
    expect((await browse(w.viewer('tor'), 'Desk work')).map((i) => i.name)).toEqual([]);
  });
});

describe('timers', () => {
  it('fire once each, remind and lapse a gate, and move on when set again', async () => {
    const { id } = await ask({ steps: [gate({ deadline: 'P5D', reminders: { after: 'P1D', times: 1 } })] });
    await w.work();
    await w.work();
    expect(await w.request(id)).toMatchObject({ outcome: 'lapsed' });
    const fired = await w.query<{ name: string }>(
      "select event->>'name' as name from run_event where run_id = $1 and event->>'type' = 'timer' and ignored is null order by id",
      [id],
    );
    expect(fired.map((f) => f.name.replace(/:.*/, ':'))).toEqual(['remind:', 'remind:', 'lapse']);
    expect(await w.query("select 1 from message where run_id = $1 and subject like 'Reminder: your approval%'", [id])).toHaveLength(2);
    expect(await w.query('select 1 from timer where run_id = $1', [id])).toEqual([]);
    await fireTimer({ runId: id, key: 'owners#1', name: 'lapse' });
    expect(await w.query("select 1 from run_event where run_id = $1 and event->>'type' = 'timer'", [id])).toHaveLength(3);
  });

  const working = async (id: string) => {
    await w.work();
    await w.work();
    return (
      await w.query<{ to: string; subject: string }>(
        `select p.user_name as "to", m.subject from message m join person p on p.id = m.to_id
       where m.run_id = $1 and m.subject ~ '^(Late|Handed over)' order by m.created_at, p.user_name`,
        [id],
      )
    ).map((m) => `${m.to}: ${m.subject.replace(/, R-.*/, '')}`);
  };

  it('a late task: its team is told while nobody has it, whoever has it after that; brought before others it is still done', async () => {
    const late = { reminders: { after: 'P1D', times: 1 } };
    const { id } = await ask({ steps: [task('t', { due: { within: 'PT1H' }, late }), told] });
    expect(await working(id)).toEqual(['dan: Late: task t', 'runa: Late: task t']);
    await finishTask(w.viewer('runa', 'teamMember'), { id: (await taskOf(id)).id, values: {}, checked: [] });
    expect(await w.query('select 1 from timer where run_id = $1', [id])).toEqual([]);

    const raise = { after: 'P1D', to: { person: { person: w.id('boss') } }, how: 'tell' as const };
    const second = await ask({ steps: [task('t', { due: { within: 'PT1H' }, late: { raise } }), told] });
    await takeTask(w.viewer('runa', 'teamMember'), { id: (await taskOf(second.id)).id, give: false });
    expect(await working(second.id)).toEqual(['boss: Late: task t']);
    expect(await w.query("select text from message where run_id = $1 and subject like 'Late%'", [second.id])).toEqual([
      { text: expect.stringMatching(/^It has been due since .+\.\nIt is with Runa Strand\./) },
    ]);
    expect(await taskFor(w.viewer('runa', 'teamMember'), (await taskOf(second.id)).id)).toMatchObject({ takenBy: expect.anything() });

    const over = await ask({ steps: [task('t', { due: { within: 'PT1H' }, late: { raise: { ...raise, how: 'handOver' } } }), told] });
    const t = await taskOf(over.id);
    await takeTask(w.viewer('runa', 'teamMember'), { id: t.id, give: false });
    await saveTask(w.viewer('runa', 'teamMember'), { id: t.id, values: {}, checked: [] });
    expect(await working(over.id)).toEqual(['boss: Late, and yours now: task t', 'runa: Handed over: task t']);
    expect(await taskFor(w.viewer('runa', 'teamMember'), t.id)).toBeUndefined();
    expect(await finishTask(w.viewer('boss'), { id: t.id, values: {}, checked: [] })).toEqual({ ok: true });

    // To somebody who has left it does not go: it would be nobody's.
    const gone = await ask({ steps: [task('t', { due: { within: 'PT1H' }, late: { raise: { ...raise, how: 'handOver' } } }), told] });
    await w.query('update person set active = false where id = $1', [w.id('boss')]);
    try {
      expect(await working(gone.id)).toEqual(['dan: Late: task t', 'runa: Late: task t']);
    } finally {
      await w.query('update person set active = true where id = $1', [w.id('boss')]);
    }
  });
});
