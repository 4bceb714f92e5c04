import { setOwn } from '../../../core/boundary/index.ts';
import { fieldType, postedAs, type Form } from '../../../core/forms/index.ts';
import { typedAs, type Value } from '../../../core/values/index.ts';
import { isFound, resolveName } from '../../../server/people/find.ts';
import type { Posted } from '../session.server';

/** Reads the answers out of a posted form; where scripts had no part, a typed-out name finds what is called so. */
export async function answersFrom(data: Posted, form: Form): Promise<{ answers: Record<string, Value>; names: Record<string, string> }> {
  const answers: Record<string, Value> = {};
  const names: Record<string, string> = {};
  for (const f of form.fields) {
    const raw = data.get(`f.${f.id}`);
    const type = fieldType(f.kind);
    if (!isFound(type)) {
      const all = data.all(`f.${f.id}`).filter((v) => v !== '');
      // A sum is an amount and a currency beside it, where the form does not state that.
      const one = type === 'money' && raw ? `${raw} ${f.unit ?? data.get(`f.${f.id}.currency`)}`.trim() : raw;
      setOwn(answers, f.id, postedAs(f.kind, one, all));
      continue;
    }
    const name = data.get(`f.${f.id}.name`);
    // The id counts only for the name it was given for: without scripts the name may have been typed over since.
    const id = raw && name === data.get(`f.${f.id}.for`) ? raw : name ? ((await resolveName(type, name)) ?? '') : '';
    // A name that finds nobody is kept as it was typed, so that the answer is refused and not lost.
    const kept = id || (name ? `unknown-${Object.keys(names).length + 1}` : '');
    setOwn(answers, f.id, typedAs(kept, type) ?? null);
    if (kept) setOwn(names, kept, name);
  }
  return { answers, names };
}
