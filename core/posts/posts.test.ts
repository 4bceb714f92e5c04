import { describe, expect, it } from 'vitest';
import { z } from 'zod';
import { Addition, Begun, ByHand, ConsentDecision, Decision, HandOver, problemsOf, RevisionNote } from './index.ts';

const wrong = (schema: z.ZodType, given: object) => {
  const read = schema.safeParse(given);
  return read.success ? [] : problemsOf(read.error).map((p) => `${p.field}: ${p.sentence}`);
};

describe('what people type into a form of ours', () => {
  it('a field that did not come is one that was left empty', () => {
    expect(wrong(Begun, {})).toEqual(['name: Give it a name.']);
    expect(wrong(Begun, { name: '  ' })).toEqual(['name: Give it a name.']);
    expect(Begun.parse({ name: '  Tide  ' })).toEqual({ name: 'Tide' });
    expect(wrong(RevisionNote, {})).toEqual([]);
    expect(wrong(RevisionNote, { note: 'x'.repeat(1001) })).toEqual(['note: At most 1,000 characters.']);
  });

  it('a comment is needed where somebody is told no, and at the press of a button only', () => {
    expect(wrong(Decision, { decision: 'approve' })).toEqual([]);
    expect(wrong(Decision, { comment: '' })).toEqual([]);
    expect(wrong(Decision, { decision: 'decline', comment: ' ' })).toEqual(['comment: Say why you decline; the requester is told.']);
    expect(wrong(Decision, { decision: 'sendBack' })).toEqual(['comment: Say what is to be corrected; the requester is told.']);
    expect(wrong(ConsentDecision, { decision: 'decline' })).toEqual(['comment: Say why not; whoever publishes the item reads it.']);
    expect(wrong(ConsentDecision, { decision: 'constructor' })).toEqual([]);
    expect(wrong(ByHand, {})).toEqual(['comment: Say why; it stands in the trace.']);
  });

  it('a task is handed to one: a person, or a team', () => {
    expect(wrong(HandOver, {})).toEqual(['to: Name a person or choose a team.']);
    expect(wrong(HandOver, { to: 'a', team: 'b' })).toEqual(['to: To a person or to a team, not to both.']);
    expect(wrong(HandOver, { to: 'a' })).toEqual([]);
    expect(wrong(HandOver, { team: 'b' })).toEqual([]);
  });

  it('what is added says what, and who', () => {
    expect(wrong(Addition, { kind: 'question', name: 'Why', instructions: '' })).toEqual(['instructions: Write the question.']);
    expect(wrong(Addition, { kind: 'gate', name: 'Agree' })).toEqual(['person: Say who must agree.']);
    expect(wrong(Addition, { kind: 'gate', name: 'Agree', team: 't' })).toEqual(['person: Say who must agree.']);
    expect(wrong(Addition, { kind: 'task', name: '', instructions: 'Do it', team: 't' })).toEqual(['name: Give it a name.']);
    expect(wrong(Addition, { kind: 'task', name: 'Do', instructions: 'Do it' })).toEqual(['person: Say who does it.']);
  });

  it('what is wrong within a list is told by its place', () => {
    const lines = z.object({ lines: z.array(z.object({ label: z.string().min(1, 'It needs words.') })) });
    expect(wrong(lines, { lines: [{ label: 'a' }, { label: '' }] })).toEqual(['lines[1].label: It needs words.']);
  });
});
