import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fileName, sizeWords, takeFile, type Found } from './index.ts';

const known = (type: string, ending: string): Found => ({ is: 'known', type, ending });

describe('a file', () => {
  it.each<[string, Found, string]>([
    ['Sketch.PDF', known('application/pdf', 'pdf'), 'application/pdf'],
    ['photo.jpeg', known('image/jpeg', 'jpg'), 'image/jpeg'],
    ['rows.csv', { is: 'text' }, 'text/csv'],
    ['a letter.eml', { is: 'text' }, 'message/rfc822'],
    ['track.gpx', known('application/xml', 'xml'), 'application/xml'],
  ])('%s is taken by what is in it', (name, found, type) => expect(takeFile(name, found)).toEqual({ ok: true, type }));

  it.each<[string, Found, RegExp]>([
    ['report.pdf', known('application/x-msdownload', 'exe'), /“report\.pdf” is of a kind that cannot be attached \(application\/x-msdownload\)/],
    ['report.pdf', known('image/png', 'png'), /is not what its name says: in it is a PNG picture\. Let its name end in \.png\./],
    ['report.pdf', { is: 'text' }, /is a text of a kind that cannot be attached/],
    ['page.html', { is: 'text' }, /is a text of a kind that cannot be attached/],
    ['run.sh', { is: 'text' }, /cannot be attached/],
    ['rows.csv', { is: 'unknown' }, /holds something that cannot be told/],
    ['constructor', known('constructor', ''), /of a kind that cannot be attached/],
    ['x.toString', { is: 'text' }, /cannot be attached/],
  ])('%s with something else in it is refused with a sentence', (name, found, sentence) => {
    const taken = takeFile(name, found);
    expect(taken.ok || taken.sentence).toMatch(sentence);
  });

  it('has a name without a path, on one line, that is never empty and keeps its ending', () => {
    expect(['C:\\my files\\a.pdf', '../../etc/passwd', '/', 'a\nb.txt'].map(fileName)).toEqual(['a.pdf', 'passwd', 'Unnamed', 'a b.txt']);
    fc.assert(
      fc.property(fc.string({ maxLength: 400, unit: 'grapheme' }), (raw) => {
        const name = fileName(`${raw}.pdf`);
        expect([...name].length).toBeLessThanOrEqual(200);
        expect(name).toMatch(/\.pdf$/);
        expect(name).not.toMatch(/[\\/\n\r\t\u0000]/);
      }),
    );
  });

  it('has a size as people read it', () =>
    expect([0, 999, 1000, 25_000_000, 3_449_999].map(sizeWords)).toEqual(['0 B', '999 B', '1 kB', '25 MB', '3.4 MB']));
});
