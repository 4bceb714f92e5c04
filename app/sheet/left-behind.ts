import canonicalize from 'canonicalize';
import { ItemDefinition } from '../../core/items/index.ts';

/** A draft that was on its way to the server when its page was left, and the version it was made from. */
export interface Left {
  version: number;
  draft: ItemDefinition;
}

const place = (id: string): string => `nessmoor.left.${id}`;

/** Keeps it in this tab until it is known to be saved: a page that is loaded anew may come before what was sent last. */
export function keepLeft(id: string, left: Left): void {
  sessionStorage.setItem(place(id), JSON.stringify(left));
}
export const forgetLeft = (id: string): void => sessionStorage.removeItem(place(id));

/** What was left, if anything; what cannot be read is nothing. */
export function takeLeft(id: string): Left | undefined {
  const text = sessionStorage.getItem(place(id));
  forgetLeft(id);
  if (text === null) return undefined;
  try {
    const { version, draft } = JSON.parse(text) as { version: unknown; draft: unknown };
    const read = ItemDefinition.safeParse(draft);
    return read.success && typeof version === 'number' ? { version, draft: read.data } : undefined;
  } catch {
    return undefined;
  }
}

/** Whether two drafts say the same, in whatever order their settings stand. */
export const sameDraft = (a: ItemDefinition, b: ItemDefinition): boolean => canonicalize(a) === canonicalize(b);
