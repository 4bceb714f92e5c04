import { heard, own } from '../boundary/index.ts';
import { bodySchema, escaped, freshId, idOf, isJson, listIn, outputsOf, resolved, textOf, type Json } from './open-api-schema.ts';
import { SystemList } from './system-list.ts';

/** What a row of a list says at most. */
const mostColumns = 20;

/**
 * Reads an operation as a list, where it is one: asked with GET at one path and without anything that has to be stated, it answers rows, as
 * a whole or as the only list in it. What a row says is its columns, nothing secret; `next`, where the answer has such a text, leads on.
 */
export function offeredList(document: Json, path: string, operation: Json, ids: Set<string>): SystemList | undefined {
  const wants = listIn(operation['parameters']).map((p) => resolved(document, p));
  if (/[{}]/.test(path) || wants.some((p) => !isJson(p) || p['required'] === true)) return undefined;
  const answered = resolved(document, own(isJson(operation['responses']) ? operation['responses'] : {}, '200'));
  const schema = isJson(answered) ? bodySchema(document, answered) : undefined;
  const found = schema && rowsOf(document, schema);
  if (!found) return undefined;
  const outputs = outputsOf(document, found.row, '', true, 0).filter((o) => !o.secret);
  const columns = outputs.slice(0, mostColumns).map(({ name, label, at }) => ({ name, label, at }));
  const label = heard(textOf(operation['summary']) || textOf(operation['operationId']) || path, 80);
  const id = freshId(idOf(textOf(operation['operationId']) || label), ids);
  const read = SystemList.safeParse({ id, label, path, rows: found.at, ...(found.next && { next: found.next }), columns });
  if (!read.success) return undefined;
  ids.add(id);
  return read.data;
}

/** Where the rows stand in an answer, and what one of them is. */
function rowsOf(document: Json, schema: Json): { at: string; row: Json; next?: string } | undefined {
  const rowOf = (s: unknown): Json | undefined => {
    const its = resolved(document, s);
    const row = isJson(its) && its['type'] === 'array' ? resolved(document, its['items']) : undefined;
    return isJson(row) ? row : undefined;
  };
  const whole = rowOf(schema);
  if (whole) return { at: '', row: whole };
  const properties = isJson(schema['properties']) ? Object.entries(schema['properties']) : [];
  const lists = properties.flatMap(([name, s]) => {
    const row = rowOf(s);
    return row ? [{ at: `/${escaped(name)}`, row }] : [];
  });
  const next = resolved(document, properties.find(([name]) => name === 'next')?.[1]);
  return lists.length === 1
    ? { ...lists[0]!, ...(isJson(next) && listIn([next['type']].flat()).includes('string') && { next: '/next' }) }
    : undefined;
}
