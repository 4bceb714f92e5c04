import { describe, expect, it } from 'vitest';
import { checkItem } from '../checks/index.ts';
import { passages, type Block, type Step } from '../plans/index.ts';
import { play } from '../testing/player.ts';
import { catalogue, finish, form, gate, step, tell } from '../testing/samples.ts';

// An answer corrected by whoever has a task is a new version of it; values are read when used.

const task = (corrects?: string[]): Step =>
  step('task', 'do', { assignee: { team: 'desk' }, instructions: passages('Do it'), checklist: [], fields: [], ...(corrects && { corrects }) });
const which = step('choose', 'which', {
  cases: [
    { id: 'p', name: 'Project', when: { compare: 'is', left: { ref: 'form.kind' }, right: { literal: 'project' } }, block: [tell('p', 'Project')] },
  ],
  otherwise: [tell('d', 'Daily')],
});
const corrected = (key: string, corrections: Record<string, string | null>) => ({ type: 'corrected' as const, key, person: 'tech', corrections });

describe('a task whose doer may correct what was asked', () => {
  it('takes what it opens, and that counts from then on; the rest stays as it was', () => {
    const p = play({ steps: [task(['kind']), which] });
    const effects = p.feed(corrected('do#1', { kind: 'project', reason: 'Mine' }));
    expect(effects).toEqual([{ effect: 'answers', by: 'tech', changed: { kind: 'project' } }]);
    expect(p.state().answers).toMatchObject({ kind: 'project', reason: expect.not.stringMatching('Mine') });
    p.feed({ type: 'taskDone', key: 'do#1', person: 'tech', values: {} });
    expect(p.done()).toContain('p');
  });
  it('takes nothing where it opens nothing, and nothing once it is done', () => {
    const p = play({ steps: [task(), gate({ approvers: { from: 'people', people: [{ person: 'a' }] } })] });
    expect(p.feed(corrected('do#1', { kind: 'project' }))).toEqual([]);
    p.feed({ type: 'taskDone', key: 'do#1', person: 'tech', values: {} });
    expect(p.feed(corrected('do#1', { kind: 'project' }))).toEqual([{ effect: 'ignored', reason: 'not-open' }]);
  });
  it('is looked at by the check: what it opens is there, is no file, and is not certain any more', () => {
    const codes = (...steps: Block) => checkItem(form, { steps }, catalogue).map((f) => [f.code, f.step]);
    const agreed = gate({ declined: [tell('no', 'No'), finish('f', 'declined')] });
    expect(codes(agreed, task(['kind']), tell('t', 'T'))).toEqual([]);
    expect(codes(agreed, task(['gone']), tell('t', 'T'))).toEqual([['unknown-reference', 'do']]);
    const words = step('tell', 'say', {
      to: { ref: 'request.requester' },
      subject: [[{ text: 'It is' }]],
      body: [{ text: [[{ ref: 'form.project' }]] }],
    });
    const sure = (inside: Step) =>
      codes(
        agreed,
        step('choose', 'c', { cases: [{ id: 'x', name: 'X', when: { has: { ref: 'form.project' } }, block: [inside, words] }], otherwise: [] }),
        tell('t', 'T'),
      );
    expect(sure(tell('u', 'U'))).toEqual([]);
    expect(sure(task(['project', 'kind']))).toEqual([['may-have-no-value', 'say']]);
  });
});
