import { expect, it } from 'vitest';
import { Letter } from '../letters/index.ts';
import { decisionsPaper, type DecidedOn } from './index.ts';

const hash = 'a1b2c3d4'.repeat(8);
const one: DecidedOn = {
  at: '26 Nov 2026, 14:05',
  who: 'Ivar Tidemark',
  instead: null,
  decision: 'Approved',
  comment: '',
  gate: 'Owners agree',
  of: 'R-7, Join a group (revision 2), asked by Tuva Fossness',
  way: 'At the Desk',
  entry: 41,
  link: 40,
  hash,
};
const paper = (rows: DecidedOn[], chain?: { link: number; hash: string }) =>
  decisionsPaper({
    fileName: 'decisions taken 26 Nov 2026',
    about: ['Decision: Approved'],
    taken: 'taken 26 Nov 2026, 15:00',
    lastFirst: true,
    rows,
    chain,
  });
const wordsIn = (l: Letter) => JSON.stringify(l);

it('a paper of decisions has each with its place in the chain, and where the chain ended', () => {
  const made = paper([one, { ...one, instead: 'Solveig Langskar', comment: 'As agreed', entry: 44, link: null, hash: null }], { link: 97, hash });
  expect(Letter.parse(made)).toEqual(made);
  expect(made).toMatchObject({ fileName: 'decisions taken 26 Nov 2026.pdf', landscape: true, numbered: true });
  expect(made.body[0]!.table?.rows).toHaveLength(2);
  const said = wordsIn(made);
  for (const words of [
    '2 decisions, the last on top',
    'Decision: Approved',
    'Log entry 41, link 40',
    'Log entry 44, not in the chain yet',
    'in place of Solveig Langskar',
    '“As agreed”',
    'ended with link 97',
  ])
    expect(said).toContain(words);
  expect(said).toContain(Array(8).fill('a1b2c3d4').join(' '));
  expect(made.body[0]!.table?.shares?.reduce((a, b) => a + b)).toBe(100);
});

it('of none says so, and of what was never logged, too', () => {
  expect(paper([]).body[0]).toEqual({ words: expect.anything() as unknown });
  expect(wordsIn(paper([]))).toContain('No decision, ');
  expect(wordsIn(paper([{ ...one, entry: null, link: null, hash: null }]))).toContain('Not in the log of changes');
  expect(wordsIn(paper([one]))).toContain('no link yet');
});
