/** What kinds of things people hold are called. */
const kinds: Record<string, string> = { group: 'Group access', machine: 'Machine' };
export const kindOfThing = (kind: string): string => kinds[kind] ?? kind;
