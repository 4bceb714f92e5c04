import type { Condition } from '../conditions/index.ts';
import { digitsOf, isEmpty, isNumber, isReference, jsonSchemaOf, plainOf, rowType, type Value } from '../values/index.ts';
import type { Column, Field, Form } from './form.ts';
import { fieldRoom, fieldType, hasColumns, isCounted } from './kinds.ts';
import { shapePattern } from './shape.ts';

/** A JSON Schema (2020-12), or a piece of one. */
export type JsonSchema = { readonly [key: string]: unknown };

/**
 * What a form takes, as JSON Schema (2020-12) of its answers without our marks (`plainOf`), by the keys of its fields. What is shown or
 * required under conditions is so here as well, as far as JSON Schema can compare: equality, presence, and the order of numbers. What it
 * cannot say (the order of days, sums and texts, values with values, what must be the only one, names that must exist) stands in
 * `$comment`, and is left to the form.
 */
export function formJsonSchema(form: Form, title: string): JsonSchema {
  const unsaid: string[] = [];
  const truth = truths(form);
  const properties: Record<string, unknown> = {};
  const required: string[] = [];
  const allOf: JsonSchema[] = [];
  for (const field of form.fields) {
    const { id, label } = field;
    const about = { title: label, ...(field.help && { description: field.help }) };
    if (field.held) {
      properties[id] = { ...about, readOnly: true };
      continue;
    }
    if (field.unique) unsaid.push(`“${label}” must be the only one.`);
    const schema = answerSchema(field, field.required);
    const wanted = field.required ? { required: [id] } : {};
    if (!field.visibleWhen) {
      properties[id] = { ...about, ...schema };
      required.push(...(wanted.required ?? []));
    } else {
      properties[id] = about;
      const shown = truth(field.visibleWhen).yes;
      if (shown) allOf.push({ if: shown, then: { properties: { [id]: schema }, ...wanted } });
      else unsaid.push(`When “${label}” is shown, and then what it takes.`);
    }
    if (!field.required && field.requiredWhen) {
      const needed = both(truth(field.requiredWhen).yes, field.visibleWhen ? truth(field.visibleWhen).yes : anything);
      if (needed) allOf.push({ if: needed, then: { properties: { [id]: filled(field) }, required: [id] } });
      else unsaid.push(`When “${label}” is required.`);
    }
  }
  for (const { holds, apart, field: at, sentence } of form.rules ?? []) {
    const place = form.fields.find((f) => f.id === at);
    if (!place || !sentence.trim()) continue;
    // Days are not counted by a schema.
    if (apart) unsaid.push(sentence);
    if (!holds) continue;
    const broken = truth(holds).no;
    const shown = place.visibleWhen ? truth(place.visibleWhen).yes : anything;
    const never = both(broken, shown);
    if (never) allOf.push({ not: never, $comment: sentence });
    else unsaid.push(sentence);
  }
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title,
    ...(unsaid.length > 0 && { $comment: `Not said here, and held to by the form: ${unsaid.join(' ')}` }),
    type: 'object',
    properties,
    ...(required.length > 0 && { required }),
    ...(allOf.length > 0 && { allOf }),
  };
}

const anything: JsonSchema = {};
const both = (a: JsonSchema | undefined, b: JsonSchema | undefined): JsonSchema | undefined => a && b && { allOf: [a, b] };

/** What a field takes; where no answer is wanted, also none: nothing, or only blanks. */
function answerSchema(field: Field | Column, required: boolean): JsonSchema {
  const answer = { ...ofKind(field), ...(required && filled(field)) };
  return required ? answer : { anyOf: [{ type: 'null' }, blankOf(field), answer] };
}

const isText = (field: Pick<Field, 'kind'>): boolean => jsonSchemaOf(fieldType(field.kind))['type'] === 'string';
/** An answer that says nothing. */
const blankOf = (field: Pick<Field, 'kind'>): JsonSchema =>
  isText(field) ? { type: 'string', pattern: '^\\s*$' } : rowType(fieldType(field.kind)) ? { type: 'array', maxItems: 0 } : { type: 'null' };
/** An answer that says something. */
const filled = (field: Pick<Field, 'kind'>): JsonSchema =>
  isText(field) ? { type: 'string', pattern: '\\S' } : rowType(fieldType(field.kind)) ? { type: 'array', minItems: 1 } : { not: { type: 'null' } };

function ofKind(field: Field | Column): JsonSchema {
  const { offers, longest } = fieldRoom(field.kind);
  const type = fieldType(field.kind);
  const options = (field.options ?? []).map((o) => o.value);
  const counted = isCounted(field.kind);
  const base = jsonSchemaOf(type);
  const more: JsonSchema[] = [
    ...(longest !== undefined ? [{ maxLength: longest }] : []),
    ...(offers ? [rowType(type) ? { items: { enum: options } } : { enum: options }] : []),
    ...(field.min !== undefined ? [counted ? { minItems: field.min } : { minimum: field.min }] : []),
    ...(field.max !== undefined ? [counted ? { maxItems: field.max } : { maximum: field.max }] : []),
    ...('shape' in field && field.shape ? [{ pattern: shapePattern(field.shape) }] : []),
    ...(field.kind === 'row' && 'table' in field ? [{ properties: { table: { const: field.table } } }] : []),
    ...(hasColumns(field.kind) && 'columns' in field ? [{ items: lineSchema(field.columns ?? []) }] : []),
  ];
  return more.length > 0 ? { allOf: [base, ...more] } : base;
}

const lineSchema = (columns: readonly Column[]): JsonSchema => ({
  type: 'object',
  properties: Object.fromEntries(columns.map((c) => [c.id, { title: c.label, ...answerSchema(c, c.required) }])),
  required: columns.flatMap((c) => (c.required ? [c.id] : [])),
});

/** When a condition is true, and when it is false; undefined where JSON Schema cannot tell. What is neither cannot be told. */
interface Truths {
  yes: JsonSchema | undefined;
  no: JsonSchema | undefined;
}

function truths(form: Form): (c: Condition) => Truths {
  const all = (schemas: (JsonSchema | undefined)[], how: 'allOf' | 'anyOf'): JsonSchema | undefined =>
    schemas.every((s) => s !== undefined) ? { [how]: schemas } : undefined;
  /** A field with an answer that counts: one that is shown. */
  const has = (ref: string): JsonSchema | undefined => {
    const field = form.fields.find((f) => `form.${f.id}` === ref);
    if (!field || field.held || field.kind === 'lines') return undefined;
    const given = { properties: { [field.id]: filled(field) }, required: [field.id] };
    return field.visibleWhen ? both(given, of(field.visibleWhen).yes) : given;
  };
  function of(c: Condition): Truths {
    if ('all' in c) {
      const parts = c.all.map(of);
      return {
        yes: all(
          parts.map((p) => p.yes),
          'allOf',
        ),
        no: all(
          parts.map((p) => p.no),
          'anyOf',
        ),
      };
    }
    if ('any' in c) {
      const parts = c.any.map(of);
      return {
        yes: all(
          parts.map((p) => p.yes),
          'anyOf',
        ),
        no: all(
          parts.map((p) => p.no),
          'allOf',
        ),
      };
    }
    if ('not' in c) {
      const { yes, no } = of(c.not);
      return { yes: no, no: yes };
    }
    if ('has' in c) {
      const given = has(c.has.ref);
      return { yes: given, no: given && { not: given } };
    }
    const given = has(c.left.ref);
    if (!given || isReference(c.right)) return { yes: undefined, no: undefined };
    const id = c.left.ref.slice(5);
    const { literal } = c.right;
    const at = (schema: JsonSchema): JsonSchema => ({ allOf: [given, { properties: { [id]: schema } }] });
    if (c.compare === 'is' || c.compare === 'isNot') {
      const same = isEmpty(literal) ? { not: given } : isSimple(literal) ? at({ const: plainOf(literal) }) : undefined;
      const other = same && { not: same };
      return c.compare === 'is' ? { yes: same, no: other } : { yes: other, no: same };
    }
    if (!isNumber(literal)) return { yes: undefined, no: undefined };
    const n = Number(digitsOf(literal));
    const [yes, no] = {
      less: bounds('exclusiveMaximum', 'minimum'),
      atMost: bounds('maximum', 'exclusiveMinimum'),
      more: bounds('exclusiveMinimum', 'maximum'),
      atLeast: bounds('minimum', 'exclusiveMaximum'),
    }[c.compare](n);
    return { yes: at(yes), no: at(no) };
  }
  return of;
}
const bounds =
  (yes: string, no: string) =>
  (n: number): [JsonSchema, JsonSchema] => [{ [yes]: n }, { [no]: n }];

/** Whether two values that say the same are the same JSON: not of sums, which may be written in several ways, nor of lists. */
const isSimple = (v: Value): boolean => !Array.isArray(v) && (typeof v !== 'object' || v === null || !('amount' in v || 'entry' in v));
