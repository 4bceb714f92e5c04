import { setOwn } from '../../../core/boundary/index.ts';
import type { FieldKind, Form } from '../../../core/forms/index.ts';
import type { Value } from '../../../core/values/index.ts';
import { resolveName } from '../../../server/people/find.ts';
import type { Posted } from '../session.server';

/** Reads the answers out of a posted form; where scripts had no part, a typed-out name finds its person or group. */
export async function answersFrom(data: Posted, form: Form): Promise<{ answers: Record<string, Value>; names: Record<string, string> }> {
  const answers: Record<string, Value> = {};
  const names: Record<string, string> = {};
  for (const f of form.fields) {
    const raw = data.get(`f.${f.id}`);
    if (f.kind !== 'person' && f.kind !== 'group') {
      const all = data.all(`f.${f.id}`).filter((v) => v !== '');
      setOwn(answers, f.id, typed(f.kind, raw, all));
      continue;
    }
    const name = data.get(`f.${f.id}.name`);
    // The id counts only for the name it was given for: without scripts the name may have been typed over since.
    const id = raw && name === data.get(`f.${f.id}.for`) ? raw : name ? ((await resolveName(f.kind, name)) ?? '') : '';
    // A name that finds nobody is kept as it was typed, so that the answer is refused and not lost.
    const kept = id || (name ? `unknown-${Object.keys(names).length + 1}` : '');
    setOwn(answers, f.id, kept === '' ? null : f.kind === 'person' ? { person: kept } : { group: kept });
    if (kept) setOwn(names, kept, name);
  }
  return { answers, names };
}

/** What was posted, as the value its kind of field holds. What does not fit is kept as typed, to be refused and not lost. */
function typed(kind: FieldKind, raw: string, all: string[]): Value {
  if (kind === 'choices') return all.length ? all : null;
  if (kind === 'people') return all.length ? all.map((person) => ({ person })) : null;
  if (raw === '') return null;
  if (kind === 'number') return Number.isFinite(Number(raw)) ? Number(raw) : raw;
  if (kind === 'yesNo') return raw === 'true' ? true : raw === 'false' ? false : raw;
  return raw;
}
