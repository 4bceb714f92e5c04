import { heard, own } from '../boundary/index.ts';
import { Id } from '../values/index.ts';
import { offeredList } from './open-api-lists.ts';
import {
  bodySchema,
  deepest,
  escaped,
  freshId,
  idOf,
  isJson,
  labelOf,
  listIn,
  methods,
  outputsOf,
  resolved,
  textOf,
  typeOf,
  type Json,
  type Known,
} from './open-api-schema.ts';
import { pointed } from './pointer.ts';
import type { SystemList } from './system-list.ts';
import { WebAction } from './web-system.ts';

/** What an OpenAPI document offers, as actions and as lists; and what of it could not be taken, each with why. */
export interface Offered {
  name: string;
  /** Where it says that it stands, if it is a whole address. */
  address: string | undefined;
  actions: WebAction[];
  lists: SystemList[];
  left: { what: string; why: string }[];
}

const most = 50;
const mostLists = 20;

/**
 * Reads the operations of an OpenAPI document (3.0 or 3.1, as JSON) as actions: what stands in the path and in a JSON body are inputs, what
 * the answer that goes well holds are outputs, thirty at most. A password in an answer is a secret. What is accepted (202) with an `id`,
 * or with what the path calls it, and can be read by that, one segment below or at its own path, is answered later: within an hour, unless somebody changes that. What
 * cannot be taken is told. What answers rows, asked for nothing, is a list that tables can be read from.
 */
export function openApiActions(document: unknown): { ok: true; offered: Offered } | { ok: false; sentence: string } {
  if (!isJson(document) || !/^3\.[01]\./.test(textOf(document['openapi'])))
    return { ok: false, sentence: 'This is no OpenAPI document of version 3.0 or 3.1.' };
  const paths = document['paths'];
  if (!isJson(paths)) return { ok: false, sentence: 'The document describes no paths.' };
  const offered: Offered = {
    name: heard(textOf(pointed(document, '/info/title')), 60),
    address: addressIn(document),
    actions: [],
    lists: [],
    left: [],
  };
  const ids = new Set<string>();
  const listIds = new Set<string>();
  for (const [path, item] of Object.entries(paths)) {
    const its = resolved(document, item);
    for (const method of methods) {
      const operation = isJson(its) ? own(its, method) : undefined;
      if (!isJson(operation)) continue;
      const list = method === 'get' && offered.lists.length < mostLists ? offeredList(document, path, operation, listIds) : undefined;
      if (list) offered.lists.push(list);
      const what = heard(textOf(operation['summary']) || `${method.toUpperCase()} ${path}`, 80);
      const read =
        offered.actions.length < most
          ? actionOf(document, { path, method, item: its as Json, operation, paths, ids })
          : 'There are more than 50 actions.';
      // A list that answers nothing but its rows is no action.
      if (typeof read !== 'string' && !(list && read.outputs.length === 0)) offered.actions.push(read);
      else if (typeof read === 'string' && !list) offered.left.push({ what, why: read });
    }
  }
  return { ok: true, offered };
}

function addressIn(document: Json): string | undefined {
  const url = textOf(pointed(document, '/servers/0/url'));
  return /^https?:\/\/[^\s?#@]+$/.test(url) ? url.replace(/\/$/, '') : undefined;
}

interface Operation {
  path: string;
  method: (typeof methods)[number];
  item: Json;
  operation: Json;
  paths: Json;
  ids: Set<string>;
}

/** One operation as an action; why it cannot be one otherwise. */
function actionOf(document: Json, { path, method, item, operation, paths, ids }: Operation): WebAction | string {
  const label = heard(textOf(operation['summary']) || textOf(operation['operationId']) || `${method.toUpperCase()} ${path}`, 80);
  const inputs: WebAction['inputs'] = [];
  let template = path;
  for (const given of [...listIn(item['parameters']), ...listIn(operation['parameters'])]) {
    const p = resolved(document, given);
    if (!isJson(p)) return 'It names a parameter that the document does not describe.';
    const [name, where, required] = [textOf(p['name']), textOf(p['in']), p['required'] === true];
    if (where === 'path') {
      const type = typeOf(document, p['schema']);
      const id = idOf(name);
      if (!type || !Id.safeParse(id).success) return `“${heard(name, 40)}” stands in its path and is nothing that a plan could state.`;
      template = template.replaceAll(`{${name}}`, `{${id}}`);
      if (!inputs.some((i) => i.name === id)) inputs.push({ name: id, label: labelOf(p, name), type: type.type, required: true, ...boundsOf(type) });
    } else if (required)
      return `It wants “${heard(name, 40)}” in its ${where === 'query' ? 'query' : heard(where, 20)}, where nothing can be stated.`;
  }
  const body = resolved(document, operation['requestBody']);
  if (isJson(body)) {
    const schema = bodySchema(document, body);
    if (!schema) return 'What it is sent is not JSON.';
    const fields = fieldsOf(document, schema);
    if (typeof fields === 'string') return fields;
    for (const f of fields) {
      if (!f.type || !Id.safeParse(f.name).success) {
        if (f.required) return `It wants “${heard(f.name, 40)}”, which is nothing that a plan could state.`;
        continue;
      }
      if (inputs.some((i) => i.name === f.name)) return `“${f.name}” stands in its path and in what it is sent.`;
      inputs.push({
        name: f.name,
        label: f.label,
        type: f.type.type,
        required: f.required,
        ...(f.type.secret && { made: true }),
        ...boundsOf(f.type),
      });
    }
  }
  const responses = isJson(operation['responses']) ? operation['responses'] : {};
  const status = ['200', '201', '202', '2XX', 'default'].find((s) => own(responses, s) !== undefined);
  // Reading is answered at once, also where it says that something is under way.
  const accepted = method !== 'get' && own(responses, '202') !== undefined;
  const told = resolved(document, own(responses, '202'));
  const acceptedSchema = isJson(told) ? bodySchema(document, told) : undefined;
  const says = acceptedSchema === undefined ? [] : outputsOf(document, acceptedSchema, '', true, 0).map((o) => o.at);
  const place = accepted ? askingOf(paths, method, template) : undefined;
  const job = ['/id', ...(place ? [`/${place.called}`] : [])].find((at) => says.includes(at));
  const asked = place && job !== undefined ? { ...place, job } : undefined;
  if (accepted && !asked && own(responses, '200') === undefined && own(responses, '201') === undefined)
    return 'It is accepted first (202), and nothing says by what it is asked about.';
  const ready = asked
    ? (resolved(document, pointed(paths, `/${escaped(asked.of)}/get/responses/200`)) ?? own(responses, '202'))
    : status && own(responses, status);
  const answer = resolved(document, ready);
  const answerSchema = isJson(answer) ? bodySchema(document, answer) : undefined;
  const outputs = answerSchema ? outputsOf(document, answerSchema, '', true, 0) : [];
  const id = freshId(idOf(textOf(operation['operationId']) || label), ids);
  const read = WebAction.safeParse({
    id,
    label,
    method: method.toUpperCase(),
    path: template,
    inputs,
    outputs: outputs.slice(0, 30),
    ...(asked && {
      later: { within: 'PT1H', asked: { path: asked.path, job: asked.job, firstPauseSeconds: 5, mostPauseSeconds: 300 }, callsBack: false },
    }),
  });
  if (read.success) {
    ids.add(id);
    return read.data;
  }
  return read.error.issues[0]?.message ?? 'It cannot be read.';
}

/** Where what was accepted is asked about: one segment below, or at its own path, where one thing is taken down or changed; and what the path calls it there. */
function askingOf(paths: Json, method: string, path: string): { of: string; path: string; called: string } | undefined {
  const reads = (p: string) => isJson(own(paths, p)) && isJson(own(own(paths, p) as Json, 'get'));
  const below = Object.keys(paths).find((p) => p.startsWith(`${path}/{`) && /^\/\{[^{}/]+\}$/.test(p.slice(path.length)) && reads(p));
  if (method === 'post' && below) return { of: below, path: `${path}/{job}`, called: below.slice(path.length + 2, -1) };
  const places = path.match(/\{[^{}/]+\}/g) ?? [];
  const [one] = places;
  return one !== undefined && places.length === 1 && reads(path)
    ? { of: path, path: path.replace(one, '{job}'), called: one.slice(1, -1) }
    : undefined;
}

interface Field {
  name: string;
  label: string;
  type: Known | undefined;
  required: boolean;
}

/** The fields of an object, those it takes over from others (allOf) as well. */
function fieldsOf(document: Json, schema: Json, depth = 0): Field[] | string {
  if (depth > deepest) return 'What it is sent goes too deep.';
  const fields = new Map<string, Field>();
  for (const part of listIn(schema['allOf'])) {
    const of = resolved(document, part);
    const more = isJson(of) ? fieldsOf(document, of, depth + 1) : 'It takes over something that the document does not describe.';
    if (typeof more === 'string') return more;
    for (const f of more) fields.set(f.name, f);
  }
  if (schema['oneOf'] !== undefined || schema['anyOf'] !== undefined) return 'What it is sent is one of several things.';
  if (fields.size === 0 && !isJson(schema['properties']) && schema['type'] !== undefined && schema['type'] !== 'object')
    return 'What it is sent is no object.';
  const required = listIn(schema['required']);
  if (isJson(schema['properties']))
    for (const [name, property] of Object.entries(schema['properties'])) {
      const its = resolved(document, property);
      if (isJson(its) && its['readOnly'] === true) continue;
      fields.set(name, { name, label: labelOf(its, name), type: typeOf(document, its), required: false });
    }
  return [...fields.values()].map((f) => ({ ...f, required: f.required || required.includes(f.name) }));
}

/** What the document says of the values an input may have. */
const boundsOf = ({ most, oneOf }: Known) => ({ ...(most !== undefined && { most }), ...(oneOf && { oneOf }) });
