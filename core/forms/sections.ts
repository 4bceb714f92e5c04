import { z } from 'zod';
import { line } from '../boundary/index.ts';
import { Id, idFrom, isEmpty, plainText, RichText } from '../values/index.ts';
import type { Field, Form } from './form.ts';

/**
 * Where a form begins anew on its way down: with a title, a note to the reader, or both. It stands before a field, or at the end;
 * `twoColumns`: the fields under it stand beside one another where there is room.
 */
export const FormSection = z.object({
  id: Id,
  before: Id.optional(),
  title: line(120),
  note: RichText,
  twoColumns: z.literal(true).optional(),
});
export type FormSection = z.infer<typeof FormSection>;

/** What stands in a form from top to bottom: fields and sections. */
export type Element = { field: Field } | { section: FormSection };
type Arranged = Pick<Form, 'fields' | 'sections'>;

const nameOf = (e: Element): string => ('field' in e ? `field ${e.field.id}` : `section ${e.section.id}`);

/** A form from top to bottom. A section before a field that is gone stands at the end. */
export function elementsOf(form: Arranged): Element[] {
  const there = new Set(form.fields.map((f) => f.id));
  const of = (id: string | undefined) =>
    (form.sections ?? [])
      .filter((s) => (s.before !== undefined && there.has(s.before) ? s.before : undefined) === id)
      .map((section) => ({ section }));
  return [...form.fields.flatMap((field): Element[] => [...of(field.id), { field }]), ...of(undefined)];
}

/** The form with these elements, from top to bottom. */
export function arranged<F extends Arranged>(form: F, elements: readonly Element[]): F {
  const sections = elements.flatMap((e, i): FormSection[] => {
    if (!('section' in e)) return [];
    const next = elements.slice(i).find((x) => 'field' in x);
    const { before: _, ...rest } = e.section;
    return [{ ...rest, ...(next && 'field' in next && { before: next.field.id }) }];
  });
  const { sections: _, ...others } = form;
  return { ...others, fields: elements.flatMap((e) => ('field' in e ? [e.field] : [])), ...(sections.length > 0 && { sections }) } as F;
}

/** The form with one element moved to stand at a place (counted without it); the same where there is none of that name. */
export function moved<F extends Arranged>(form: F, name: string, to: number): F {
  const all = elementsOf(form);
  const one = all.find((e) => nameOf(e) === name);
  if (!one) return form;
  return arranged(form, all.filter((e) => e !== one).toSpliced(to, 0, one));
}
/** What an element is told apart by. */
export const elementName = nameOf;

/** A key for a new section. */
export const freshSectionId = (form: Arranged): string => idFrom('section', new Set((form.sections ?? []).map((s) => s.id)));

/** A form as it is read: its sections, each with the fields under it. The first has neither title nor note where none stands at the top. */
export function sectionsOf(form: Arranged, shown: readonly Field[]): { section: FormSection | undefined; fields: Field[] }[] {
  const is = new Set(shown.map((f) => f.id));
  const all: { section: FormSection | undefined; fields: Field[]; of: number }[] = [{ section: undefined, fields: [], of: 0 }];
  for (const e of elementsOf(form)) {
    if ('section' in e) all.push({ section: e.section, fields: [], of: 0 });
    else {
      const last = all.at(-1)!;
      last.of++;
      if (is.has(e.field.id)) last.fields.push(e.field);
    }
  }
  // A section whose fields are all out of sight is so itself; one that has none is a note, and stands.
  return all.filter((s) => s.fields.length > 0 || (s.section && s.of === 0)).map(({ section, fields }) => ({ section, fields }));
}

/** Whether a section says anything at all. */
export const isSilent = (s: FormSection): boolean => !s.twoColumns && s.title.trim() === '' && isEmpty(plainText(s.note, () => ''));
