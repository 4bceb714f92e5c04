import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { jobIn, Later, pathOf, pauseBefore, standingIn } from './index.ts';

const asked = { path: '/jobs/{job}', job: '/id', firstPauseSeconds: 5, mostPauseSeconds: 300 };
const read = { path: '/jobs/{job}/words', rows: '/words', id: '/id', text: '/text' };
const later: Later = { within: 'PT2H', asked, callsBack: false, progress: '/doing', cause: '/why' };
const byWord: Later = { ...later, state: { at: '/state', done: ['up', 'ready'], failed: ['broken'] } };

describe('an answer that comes later', () => {
  it('says how it stands by the status of HTTP, or by a word of its own', () => {
    expect(standingIn(later, 202, { doing: 'Copying' })).toEqual({ is: 'underWay', progress: 'Copying' });
    expect(standingIn(later, 202, undefined)).toEqual({ is: 'underWay', progress: '' });
    expect(standingIn(later, 200, {})).toEqual({ is: 'done' });
    expect(standingIn(byWord, 202, { state: 'up' })).toEqual({ is: 'done' });
    expect(standingIn(byWord, 200, { state: 'going up', doing: 40 })).toEqual({ is: 'underWay', progress: '40' });
    expect(standingIn(byWord, 200, { state: 'broken', why: 'No room' })).toEqual({ is: 'failed', cause: 'No room' });
    expect(standingIn(byWord, 200, { state: 'broken' })).toEqual({ is: 'failed', cause: 'it says “broken”' });
    // A word that nobody stated is neither done nor failed.
    expect(standingIn(byWord, 200, { state: { up: true } })).toEqual({ is: 'underWay', progress: '' });
  });
  it('is asked about by what the system calls it, which is put into the path as one segment', () => {
    expect([{ id: 'm/1' }, { id: 7 }, {}, { id: '' }, { id: '..' }, { id: 'a\0' }].map((body) => jobIn(later, body))).toEqual([
      'm/1',
      '7',
      undefined,
      undefined,
      undefined,
      undefined,
    ]);
    expect(pathOf(asked.path, 'm/1?x')).toBe('/jobs/m%2F1%3Fx');
  });
  it('is asked with pauses that grow by half up to the longest; what the system wants counts where it is longer', () => {
    expect([1, 2, 3, 4].map((n) => pauseBefore(asked, n))).toEqual([5, 7.5, 11.25, 16.875]);
    expect(pauseBefore(asked, 100)).toBe(300);
    expect(pauseBefore(asked, 1, 60)).toBe(60);
    expect(pauseBefore(asked, 100, 1e12)).toBe(86_400);
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 5000 }), fc.integer({ min: 1, max: 3600 }), fc.integer({ min: 0, max: 80_000 }), (n, first, more) => {
        const of = { ...asked, firstPauseSeconds: first, mostPauseSeconds: first + more };
        expect(pauseBefore(of, n)).toBeGreaterThanOrEqual(first);
        expect(pauseBefore(of, n)).toBeLessThanOrEqual(first + more);
        expect(pauseBefore(of, n + 1)).toBeGreaterThanOrEqual(pauseBefore(of, n));
      }),
    );
  });
  it.each([
    [{ asked: undefined }, 'Say how the answer comes: it is asked for, or it calls back.'],
    [{ within: 'PT59S' }, 'An answer has a minute at least.'],
    [{ within: 'P91D' }, 'An answer is waited for 90 days at most.'],
    [{ asked: { ...asked, path: '/jobs' } }, 'The path says with {job} what is asked about.'],
    [{ asked: { ...asked, path: '/../{job}' } }, 'A path does not climb: no . or .. between its slashes.'],
    [{ asked: { ...asked, mostPauseSeconds: 1 } }, 'The longest pause is not shorter than the first.'],
    [
      { asked: undefined, callsBack: true, cancel: { method: 'DELETE', path: '/jobs/{job}' } },
      'Say first how it is asked about, by what the system calls it.',
    ],
    [{ cancel: { method: 'DELETE', path: '/jobs' } }, 'The path says with {job} what is not needed any more.'],
    [{ words: { read: { ...read, path: '/words' } } }, 'The path says with {job} what it is about.'],
    [{ asked: undefined, callsBack: true, words: { read } }, 'Say first how it is asked about, by what the system calls it.'],
    [{ state: { at: '/s', done: [], failed: [] } }, 'Say which word means that it is done.'],
  ])('is refused where it could not be had: %j', (wrong, sentence) => {
    expect(Later.safeParse({ ...later, ...wrong }).error?.issues[0]?.message).toBe(sentence);
    expect(Later.safeParse(later).success).toBe(true);
  });
});
