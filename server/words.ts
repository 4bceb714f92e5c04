import { DateTime } from 'luxon';
import { own } from '../core/boundary/index.ts';
import type { TextSnapshot } from '../core/engine/index.ts';
import type { ItemDefinition } from '../core/items/index.ts';
import { basePlace, isFormattedText, isRow, namedIn, sayText, valueWords as inWords, type RichText, type Value } from '../core/values/index.ts';
import type { Names } from './people/names.ts';

type Options = { value: string; label: string }[] | undefined;
/** What has choices, or columns that have. */
interface Offering {
  options?: Options;
  columns?: { id: string; label: string; options?: Options }[] | undefined;
}

/** A value in words, by the names that were looked up and the choices it was made among. */
export const valueWords = (value: Value | undefined, names: Names, offering: Offering = {}): string =>
  inWords(value, (kind, id) => names.of(kind, id), offering.options, offering.columns, names.zone);

/** A value in words, and of files what they are known by, so that a page can lead to them. */
export interface Said {
  words: string;
  files?: { id: string; name: string }[];
}
export function said(value: Value | undefined, names: Names, offering: Offering = {}): Said {
  const files = namedIn(value).flatMap((n) =>
    n.kind === 'file' ? [{ id: n.id, name: names.of('file', n.id) ?? 'A file that is not kept any more' }] : [],
  );
  return { words: valueWords(value, names, offering), ...(files.length > 0 && { files }) };
}

/** The choices of a form's field, for a reference that names one; for a row and its columns, those of the fields that can be its list. */
export function offeringOf({ form: { fields } }: ItemDefinition, ref: string): Offering | undefined {
  if (ref.startsWith('form.')) return fields.find((f) => f.id === ref.slice(5));
  const columns = fields.flatMap((f) => f.columns ?? []);
  if (ref === 'row.value') return { options: fields.flatMap((f) => (f.kind === 'choices' ? (f.options ?? []) : [])), columns };
  return ref.startsWith('row.') ? { options: columns.flatMap((c) => (c.id === ref.slice(4) ? (c.options ?? []) : [])) } : undefined;
}

/** What a run says, with the words its values have now. */
export const sayNow = (said: TextSnapshot, run: { kind: CaseKind; number: number; definition: ItemDefinition }, names: Names): RichText =>
  sayText(said.text, (ref) => {
    if (ref === 'request.number') return caseNumber(run.kind, run.number);
    const value = own(said.values, ref);
    if (isFormattedText(value)) return value.formatted;
    return valueWords(value, names, columnOf(said, ref, names) ?? offeringOf(run.definition, ref));
  });

/** The column of a table that a reference names, by the row that stands where it begins. */
function columnOf(said: TextSnapshot, ref: string, names: Names): Offering | undefined {
  const base = basePlace(ref);
  const row = base === ref ? undefined : own(said.values, base);
  return isRow(row) ? names.columns(row.table)?.find((c) => c.id === ref.slice(base.length + 1)) : undefined;
}

/** A moment as its reader has it, in their zone: "26 Nov 2026, 14:05". */
export const momentWords = (at: Date, zone: string): string => DateTime.fromJSDate(at).setZone(zone).setLocale('en-GB').toFormat('d LLL yyyy, HH:mm');

/** What a case is: asked for from the catalog, or a ticket. */
export type CaseKind = 'request' | 'ticket';
export const caseNumber = (kind: CaseKind, n: number): string => (kind === 'ticket' ? ticketNumber(n) : requestNumber(n));
export const requestNumber = (n: number): string => `R-${n}`;
export const ticketNumber = (n: number): string => `T-${n}`;
