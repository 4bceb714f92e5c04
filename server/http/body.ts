import { Readable } from 'node:stream';
import busboy from 'busboy';
import { data } from 'react-router';
import { readJson, typed } from '../../core/boundary/index.ts';

/** What a form of ours may hold at most, in bytes; a route that needs more says so. */
export const largestForm = 200_000;

/** The fields of a posted form, as people typed them: without what no text can keep. */
export interface Posted {
  get: (name: string) => string;
  all: (name: string) => string[];
  /** Every field with its name. */
  entries: () => [string, string][];
}

const refuse = (status: 400 | 413 | 415, sentence: string) => data(sentence, { status, headers: { Connection: 'close' } });

/** The body of a request, counted while it streams: what is larger is not read to its end. */
async function bodyOf(request: Request, most: number): Promise<string> {
  const tooLarge = () =>
    refuse(413, `What was sent is larger than ${Math.round(most / 1000).toLocaleString('en')} kB and was not taken. Nothing was changed.`);
  if (Number(request.headers.get('content-length') ?? 0) > most) throw tooLarge();
  const pieces: Uint8Array[] = [];
  let size = 0;
  const reader = request.body?.getReader();
  for (let piece = await reader?.read(); piece && !piece.done; piece = await reader!.read()) {
    size += piece.value.length;
    if (size > most) {
      void reader!.cancel().catch(() => undefined);
      throw tooLarge();
    }
    pieces.push(piece.value);
  }
  return Buffer.concat(pieces).toString('utf8');
}

/** A posted form (application/x-www-form-urlencoded, as every form without files is sent). The one way in for what people type. */
export async function posted(request: Request, most = largestForm): Promise<Posted> {
  const type = request.headers.get('content-type') ?? '';
  if (type && !/^application\/x-www-form-urlencoded\b/i.test(type)) throw refuse(415, 'A form of this page was expected. Nothing was changed.');
  return formOf(new URLSearchParams(await bodyOf(request, most)));
}

/** What becomes of a file that comes with a form: the value that its field then has, or nothing. */
export type TakeFile = (field: string, name: string, stream: Readable) => Promise<string | undefined>;

/** More files than this do not come with one form, and not more bytes in all. */
const mostFiles = 50;
const mostTogether = 300_000_000;

/**
 * A posted form that may bring files (multipart/form-data): its fields are those that were typed, and for each file, as it streams in,
 * what `take` makes of it, under its own name. Files follow each other; what is larger than a form may be is not read to its end.
 */
export async function postedWithFiles(request: Request, take: TakeFile, most = largestForm): Promise<Posted> {
  const type = request.headers.get('content-type') ?? '';
  if (!/^multipart\/form-data\b/i.test(type)) return posted(request, most);
  const broken = () => refuse(400, 'What was sent did not arrive whole. Nothing was changed.');
  const tooLarge = () => refuse(413, 'What was sent is larger than a form may be and was not taken. Nothing was changed.');
  if (!request.body) throw refuse(400, 'Nothing was sent.');
  let parser: ReturnType<typeof busboy>;
  try {
    parser = busboy({
      headers: { 'content-type': type },
      // Names of files come as browsers write them.
      defParamCharset: 'utf8',
      limits: { fieldSize: most, fields: 2000, files: mostFiles, parts: 2000 + mostFiles, headerPairs: 50, fieldNameSize: 200 },
    });
  } catch {
    throw broken();
  }
  const fields = new URLSearchParams();
  const body = Readable.fromWeb(request.body as Parameters<typeof Readable.fromWeb>[0]);
  let typedIn = 0;
  let together = 0;
  let taking = Promise.resolve();
  await new Promise<void>((done, fail) => {
    /** The rest is not read. */
    const stop = (why: unknown) => {
      body.unpipe(parser);
      body.destroy();
      parser.destroy();
      fail(why as Error);
    };
    parser.on('field', (name, value, info) => {
      typedIn += name.length + value.length;
      if (info.valueTruncated || info.nameTruncated || typedIn > most) stop(tooLarge());
      else fields.append(name, value);
    });
    parser.on('file', (name, stream, { filename }) => {
      // A file that breaks off is told by whoever takes it; one that nobody takes any more tells nobody.
      stream.on('error', () => undefined);
      if (!filename) return void stream.resume();
      // A file that is given up in the middle must not stop the others.
      taking = taking.then(async () => {
        const value = await take(name, filename, stream).finally(() => stream.resume());
        if (value !== undefined) fields.append(name, value);
      });
      taking.catch(stop);
    });
    for (const limit of ['filesLimit', 'fieldsLimit', 'partsLimit'] as const) parser.on(limit, () => stop(tooLarge()));
    parser.on('error', () => stop(broken()));
    parser.on('close', () => void taking.then(done, fail));
    body.on('error', () => stop(broken()));
    body.on('data', (chunk: Uint8Array) => {
      together += chunk.length;
      if (together > mostTogether) stop(tooLarge());
    });
    body.pipe(parser);
  });
  return formOf(fields);
}

function formOf(fields: URLSearchParams): Posted {
  return {
    get: (name) => typed(fields.get(name) ?? ''),
    all: (name) => fields.getAll(name).map(typed),
    entries: () => [...fields].map(([name, value]) => [name, typed(value)]),
  };
}

/** A posted JSON document, read no deeper than the boundary allows; its schema is the command's. */
export async function postedJson(request: Request, most: number): Promise<unknown> {
  const read = readJson(await bodyOf(request, most));
  if (!read.ok) throw refuse(400, `What was sent did not arrive whole. ${read.sentence} Nothing was changed.`);
  return read.value;
}

/** A document in a field of a form; undefined where it is none. */
export function documentIn(form: Posted, name: string): unknown {
  const read = readJson(form.get(name));
  return read.ok ? read.value : undefined;
}
