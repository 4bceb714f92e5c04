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

/** A posted form (application/x-www-form-urlencoded, as every form of ours is sent). The one way in for what people type. */
export async function posted(request: Request, most = largestForm): Promise<Posted> {
  const type = request.headers.get('content-type') ?? '';
  if (type && !/^application\/x-www-form-urlencoded\b/i.test(type)) throw refuse(415, 'A form of this page was expected. Nothing was changed.');
  const fields = new URLSearchParams(await bodyOf(request, most));
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
