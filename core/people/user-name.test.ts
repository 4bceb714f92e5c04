import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addressFor, defaultUserNames, mostTried, UserNameRule, userNameForms, userNames } from './index.ts';

const rule = { form: 'given.family', most: 20, domain: 'skerrin.example' } as const;
const first = (form: (typeof userNameForms)[number], given: string, family: string, most = 20) =>
  userNames({ ...rule, form, most }, { given, family })[0];

describe('user names', () => {
  it.each([
    ['given.family', 'Ása', 'Lunde', 'asa.lunde'],
    ['given', 'Ása', 'Lunde', 'asa'],
    ['initialFamily', 'Ása', 'Lunde', 'alunde'],
    ['familyInitial', 'Ása', 'Lunde', 'lundea'],
    // Only the first of several given names; a family name of several words is one.
    ['given.family', 'Þórdís Björk', 'van der Søndre-Nes', 'thordis.vandersondre'],
    ['given.family', 'Jürgen', 'Groß', 'jurgen.gross'],
    // Other scripts are written as they sound.
    ['given.family', 'Ольга', 'Щукина', 'olga.shchukina'],
    ['initialFamily', 'Δημήτρης', 'Νησιώτης', 'dnisiotis'],
    // Decomposed letters are the same letters.
    ['given', 'A\u0301sa', 'x', 'asa'],
    ['given.family', 'Seán', 'O’Skerry', 'sean.oskerry'],
    // With one name there is nothing to join.
    ['initialFamily', '', 'Ragnhild', 'ragnhild'],
    ['given.family', 'Ragnhild', ' ', 'ragnhild'],
  ] as const)('%s of %s %s', (form, given, family, name) => expect(first(form, given, family)).toBe(name));

  it('namesakes get a number, within the length', () => {
    expect(userNames(rule, { given: 'Ása', family: 'Lunde' }).slice(0, 3)).toEqual(['asa.lunde', 'asa.lunde2', 'asa.lunde3']);
    const short = userNames({ ...rule, most: 9 }, { given: 'Asa', family: 'Lundestad' });
    expect([short[0], short[1], short[9]]).toEqual(['asa.lunde', 'asa.lund2', 'asa.lun10']);
    // What is cut does not end in a dot.
    expect(userNames({ ...rule, most: 6 }, { given: 'Oscar', family: 'Ness' })[0]).toBe('oscar');
  });

  it('of signs that are no letters no name is made', () => {
    expect(userNames(rule, { given: '…', family: '—' })).toEqual([]);
    expect(userNames(rule, { given: '', family: '' })).toEqual([]);
  });

  it('whatever somebody is called: letters and digits that every system takes, within the length, none twice', () => {
    const rules = fc.record({ form: fc.constantFrom(...userNameForms), most: fc.integer({ min: 6, max: 64 }), domain: fc.constant('') });
    fc.assert(
      fc.property(rules, fc.string({ unit: 'grapheme', maxLength: 40 }), fc.string({ unit: 'grapheme', maxLength: 40 }), (r, given, family) => {
        const names = userNames(r, { given, family });
        expect(names.length).toBeLessThanOrEqual(mostTried);
        expect(new Set(names).size).toBe(names.length);
        for (const n of names) {
          expect(n.length).toBeLessThanOrEqual(r.most);
          expect(n).toMatch(/^[a-z0-9]+(\.[a-z0-9]+)?$/);
        }
      }),
      { numRuns: 300 },
    );
  });

  it('the address follows from the user name, where one is made', () => {
    expect(addressFor({ ...rule, domain: 'Skerrin.Example' }, 'asa.lunde')).toBe('asa.lunde@skerrin.example');
    expect(addressFor(defaultUserNames, 'asa.lunde')).toBeUndefined();
    expect(UserNameRule.safeParse({ ...rule, domain: 'skerrin' }).success).toBe(false);
    expect(UserNameRule.safeParse({ ...rule, most: 5 }).success).toBe(false);
  });
});
