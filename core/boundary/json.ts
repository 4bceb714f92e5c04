/** How deep JSON may be nested: objects and lists within each other. */
export const deepest = 64;

/** JSON that was read, or the sentence that says why it was not. */
export type Json = { ok: true; value: unknown } | { ok: false; sentence: string };

/**
 * Reads JSON (RFC 8259) that came from outside. Its depth is counted before anything is built of it, so that neither the
 * parser nor whoever walks the result meets more levels than `deepest`.
 */
export function readJson(text: string): Json {
  if (textDepth(text) > deepest) return { ok: false, sentence: `It is nested more than ${deepest} levels deep.` };
  try {
    return { ok: true, value: JSON.parse(text) as unknown };
  } catch {
    return { ok: false, sentence: 'It is not JSON.' };
  }
}

/** The deepest nesting of brackets outside strings. */
function textDepth(text: string): number {
  let depth = 0;
  let most = 0;
  let quoted = false;
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i);
    if (quoted) {
      if (c === 0x5c) i++;
      else if (c === 0x22) quoted = false;
    } else if (c === 0x22) quoted = true;
    else if (c === 0x7b || c === 0x5b) {
      if (++depth > most) most = depth;
    } else if (c === 0x7d || c === 0x5d) depth--;
  }
  return most;
}

/** Whether a value built elsewhere is nested no deeper; looks no further than it has to. */
export function isShallow(value: unknown, left = deepest): boolean {
  if (typeof value !== 'object' || value === null) return true;
  if (left === 0) return false;
  return Object.values(value).every((v) => isShallow(v, left - 1));
}
