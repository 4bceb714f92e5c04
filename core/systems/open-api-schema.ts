import { heard, own } from '../boundary/index.ts';
import { Id, type SingleType } from '../values/index.ts';
import { pointed } from './pointer.ts';
import { mostKnown, type WebAction } from './web-system.ts';

/** What is read of a schema of a value that a plan can state or keep. */
export interface Known {
  type: SingleType;
  secret: boolean;
  most?: number;
  oneOf?: string[];
}

/** An object of JSON, of which nothing is known yet. */
export type Json = Record<string, unknown>;
/** Whether something is an object of JSON. */
export const isJson = (x: unknown): x is Json => typeof x === 'object' && x !== null && !Array.isArray(x);
/** A text, or none. */
export const textOf = (x: unknown): string => (typeof x === 'string' ? x : '');
/** The methods that an action can be asked with. */
export const methods = ['get', 'post', 'put', 'patch', 'delete'] as const;
/** References and parts of parts are followed this far. */
export const deepest = 8;

/** What a reference within the document leads to; anything else as it is. */
export function resolved(document: Json, x: unknown, depth = 0): unknown {
  if (!isJson(x) || typeof x['$ref'] !== 'string') return x;
  if (depth >= deepest || !x['$ref'].startsWith('#')) return undefined;
  return resolved(document, pointed(document, decoded(x['$ref'].slice(1))), depth + 1);
}
/** A fragment as it is meant; one that is not well formed as it stands. */
function decoded(fragment: string): string {
  try {
    return decodeURIComponent(fragment);
  } catch {
    return fragment;
  }
}

/** A list, or an empty one. */
export const listIn = (x: unknown): unknown[] => (Array.isArray(x) ? x : []);
/** A name as a step of a JSON Pointer (RFC 6901). */
export const escaped = (path: string): string => path.replaceAll('~', '~0').replaceAll('/', '~1');

/** The JSON schema of what is sent or answered. */
export function bodySchema(document: Json, body: Json): Json | undefined {
  const content = body['content'];
  if (!isJson(content)) return undefined;
  const media = Object.entries(content).find(([type]) => /^application\/(json|[\w.-]+\+json)\b/.test(type) || type === '*/*')?.[1];
  const schema = isJson(media) ? resolved(document, media['schema']) : undefined;
  return isJson(schema) ? schema : undefined;
}

/** What an answer holds that can be kept, each where it stands. */
export function outputsOf(document: Json, schema: Json, at: string, always: boolean, depth: number): WebAction['outputs'] {
  if (depth > 3) return [];
  const parts = [
    schema,
    ...listIn(schema['allOf'])
      .map((p) => resolved(document, p))
      .filter(isJson),
  ];
  return parts.flatMap((part) => {
    const required = listIn(part['required']);
    const properties = isJson(part['properties']) ? Object.entries(part['properties']) : [];
    return properties.flatMap(([name, property]): WebAction['outputs'] => {
      const its = resolved(document, property);
      if (!isJson(its) || its['writeOnly'] === true) return [];
      const [there, surely] = [`${at}/${escaped(name)}`, always && required.includes(name)];
      const type = typeOf(document, its);
      if (!type) return its['type'] === 'object' || isJson(its['properties']) ? outputsOf(document, its, there, surely, depth + 1) : [];
      const id = idOf(there.slice(1).replaceAll('/', ' '));
      if (!Id.safeParse(id).success) return [];
      return [{ name: id, label: labelOf(its, name), type: type.type, at: there, always: surely, ...(type.secret && { secret: true }) }];
    });
  });
}

/** The words that a text may be (`enum`); undefined where there are none, or more than could be chosen among. */
function knownWords(schema: Json): string[] | undefined {
  const known = [...new Set(listIn(schema['enum']).filter((w) => w !== null))];
  const words = known.filter((w): w is string => typeof w === 'string' && w === heard(w, 200) && w.trim() !== '');
  return words.length > 0 && words.length === known.length && words.length <= mostKnown ? words : undefined;
}

/** The type a plan knows that a schema's values have; undefined where there is none. */
export function typeOf(document: Json, given: unknown): Known | undefined {
  const schema = resolved(document, given);
  if (!isJson(schema)) return undefined;
  // One that may be null (3.1) is of its other type.
  const types = (Array.isArray(schema['type']) ? schema['type'] : [schema['type']]).filter((t) => t !== 'null');
  const [type] = types;
  if (types.length !== 1) return undefined;
  const { maximum } = schema;
  if (type === 'integer' || type === 'number')
    return { type: 'number', secret: false, ...(typeof maximum === 'number' && Number.isFinite(maximum) && { most: maximum }) };
  if (type === 'boolean') return { type: 'boolean', secret: false };
  if (type !== 'string') return undefined;
  const formats: Record<string, SingleType> = { date: 'date', 'date-time': 'instant', email: 'address' };
  const format = textOf(schema['format']);
  const its = own(formats, format) ?? 'text';
  const oneOf = its === 'text' && format !== 'password' ? knownWords(schema) : undefined;
  return { type: its, secret: format === 'password', ...(oneOf && { oneOf }) };
}

/** What it is called for people: its title or the first sentence about it, else its name in words. */
export function labelOf(schema: unknown, name: string): string {
  const said = isJson(schema) ? textOf(schema['title']) || (textOf(schema['description']).split(/[.\n]/)[0] ?? '') : '';
  const words = name
    .replaceAll(/[-_]+/g, ' ')
    .replaceAll(/([a-z\d])([A-Z])/g, (_, a: string, b: string) => `${a} ${b.toLowerCase()}`)
    .trim();
  const short = said.length > 0 && said.length <= 60 ? said : words;
  return heard(short.charAt(0).toUpperCase() + short.slice(1), 80) || 'Value';
}

/** A name of ours made of one of theirs; it may still be none. */
export function idOf(name: string): string {
  const [first = '', ...others] = name.split(/[^A-Za-z0-9]+/).filter(Boolean);
  return (first.charAt(0).toLowerCase() + first.slice(1) + others.map((w) => w.charAt(0).toUpperCase() + w.slice(1)).join('')).slice(0, 40);
}
/** An id made of a word that none of those taken has. */
export function freshId(id: string, taken: Set<string>): string {
  const base = Id.safeParse(id).success ? id : 'action';
  for (let n = 1; ; n++) {
    const next = n === 1 ? base : `${base.slice(0, 36)}${n}`;
    if (!taken.has(next)) return next;
  }
}
