import type { Readable } from 'node:stream';
import { describe, expect, it } from 'vitest';
import { postedWithFiles, type TakeFile } from './body.ts';

const boundary = 'tide';
const encode = (text: string) => new TextEncoder().encode(text);
const part = (name: string, filename: string | undefined, text: string) =>
  `--${boundary}\r\ncontent-disposition: form-data; name="${name}"${filename === undefined ? '' : `; filename="${filename}"`}\r\n\r\n${text}\r\n`;
/** A request whose body comes in these pieces. */
function sent(pieces: Iterable<Uint8Array>, type = `multipart/form-data; boundary=${boundary}`): Request {
  const from = pieces[Symbol.iterator]();
  const body = new ReadableStream<Uint8Array>({
    pull(controller) {
      const { value, done } = from.next();
      if (done) controller.close();
      else controller.enqueue(value);
    },
  });
  return new Request('http://127.0.0.1/x', { method: 'POST', headers: { 'content-type': type }, body, duplex: 'half' } as RequestInit);
}
const taken: [string, string, number][] = [];
const take: TakeFile = async (field, name, stream: Readable) => {
  let size = 0;
  for await (const chunk of stream) size += (chunk as Buffer).length;
  taken.push([field, name, size]);
  return `kept-${name}`;
};
const refusal = async (request: Request, taker = take) => {
  const refused = await postedWithFiles(request, taker).then(
    () => undefined,
    (error: { init?: { status: number }; data?: string }) => error,
  );
  return [refused?.init?.status, refused?.data];
};
const end = `--${boundary}--\r\n`;

describe('a form that brings files', () => {
  it('has what was typed, and for each file what was made of it, under its own name', async () => {
    taken.length = 0;
    const text =
      part('label', undefined, 'Øvre skjær\u0000') +
      part('f.a', 'å.pdf', 'abc') +
      part('f.a', '', '') +
      part('f.a', 'b.pdf', 'x'.repeat(70_000)) +
      end;
    const bytes = encode(text);
    const posted = await postedWithFiles(sent([bytes.subarray(0, 50), bytes.subarray(50, 30_000), bytes.subarray(30_000)]), take);
    // A chooser that was left empty is a field that is empty.
    expect([posted.get('label'), posted.all('f.a').filter(Boolean)]).toEqual(['Øvre skjær', ['kept-å.pdf', 'kept-b.pdf']]);
    expect(taken).toEqual([
      ['f.a', 'å.pdf', 3],
      ['f.a', 'b.pdf', 70_000],
    ]);
  });

  it('without files is read as every form is', async () => {
    const plain = await postedWithFiles(sent([encode('a=1&a=2')], 'application/x-www-form-urlencoded'), take);
    expect(plain.all('a')).toEqual(['1', '2']);
  });

  it.each<[string, () => Request, number, RegExp]>([
    ['has no boundary', () => sent([encode('x')], 'multipart/form-data'), 400, /did not arrive whole/],
    ['breaks off', () => sent([encode(part('f.a', 'a.pdf', 'abc'))]), 400, /did not arrive whole/],
    ['types more than a form holds', () => sent([encode(part('a', undefined, 'x'.repeat(250_000)) + end)]), 413, /larger than a form may be/],
    ['has too many files', () => sent([encode(Array.from({ length: 60 }, (_, i) => part('f', `${i}.txt`, 'x')).join('') + end)]), 413, /larger/],
    [
      'does not end',
      () =>
        sent(
          (function* () {
            yield encode(part('f.a', 'a.pdf', ''));
            for (;;) yield new Uint8Array(4_000_000);
          })(),
        ),
      413,
      /larger than a form may be/,
    ],
  ])('that %s is refused with a sentence', async (_, request, status, sentence) => {
    expect(await refusal(request())).toEqual([status, expect.stringMatching(sentence)]);
  });

  it('whose file cannot be kept fails with why, and reads no further', async () => {
    const failing: TakeFile = () => Promise.reject(new Error('the disk is full'));
    await expect(postedWithFiles(sent([encode(part('f.a', 'a.pdf', 'abc') + part('f.b', 'b.pdf', 'abc') + end)]), failing)).rejects.toThrow(
      'the disk is full',
    );
  });
});
