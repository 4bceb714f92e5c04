import canonicalize from 'canonicalize';
import { ItemDefinition } from '../../core/items/index.ts';

/**
 * What this tab knows of a draft that a page loaded anew may not: its version, and what was on its way to the server when the page was
 * left. Without that, it is the version that was saved last from here.
 */
export interface Left {
  version: number;
  draft?: ItemDefinition;
}

const place = (id: string): string => `nessmoor.left.${id}`;

/** Keeps it in this tab: a page that is loaded anew may have been read before what was sent last had arrived. */
export function keepLeft(id: string, left: Left): void {
  sessionStorage.setItem(place(id), JSON.stringify(left));
}

/** What was left, if anything; what cannot be read is nothing. */
export function takeLeft(id: string): Left | undefined {
  const text = sessionStorage.getItem(place(id));
  sessionStorage.removeItem(place(id));
  if (text === null) return undefined;
  try {
    const { version, draft } = JSON.parse(text) as { version: unknown; draft: unknown };
    const read = ItemDefinition.optional().safeParse(draft);
    return read.success && typeof version === 'number' ? { version, ...(read.data && { draft: read.data }) } : undefined;
  } catch {
    return undefined;
  }
}

/** Whether two drafts say the same, in whatever order their settings stand. */
export const sameDraft = (a: ItemDefinition, b: ItemDefinition): boolean => canonicalize(a) === canonicalize(b);
