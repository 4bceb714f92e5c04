import { setOwn } from '../../../core/boundary/index.ts';
import { keepFile } from '../../../server/files/keep.ts';
import { namesOfOwn } from '../../../server/files/queries.ts';
import { filesIn } from '../../../server/files/whose.ts';
import { fieldType, hasColumns, postedAs, type Column, type Field, type FieldProblem, type Form, type OfHolding } from '../../../core/forms/index.ts';
import { namedIn, typedAs, type Entry, type Value } from '../../../core/values/index.ts';
import type { Roled, Viewer } from '../../../server/auth/viewer.ts';
import { isFound, resolveName } from '../../../server/people/find.ts';
import { heldCalled } from '../../../server/holdings/choices.ts';
import { rowCalled } from '../../../server/tables/queries.ts';
import { isId, postedWithFiles, type Posted } from '../session.server';

/** More lines than a list has rows are not read, and so many names that were typed out are looked up. */
const mostLines = 1000;
const mostTyped = 100;
/** No more files come with one word. */
const mostWithWord = 20;

/** The names that answers hold, by what holds them, and how many were typed out. */
/** Whoever fills in: nobody known, from outside. */
type Filling = Roled & { id?: string };
interface Naming {
  viewer: Filling;
  /** The person it is for, as far as that was chosen. */
  whom: string;
  names: Record<string, string>;
  typed: number;
}

/** Reads the answers out of a posted form; where scripts had no part, a typed-out name finds what is called so. */
export async function answersFrom(
  viewer: Filling,
  data: Posted,
  form: Form,
): Promise<{ answers: Record<string, Value>; names: Record<string, string> }> {
  const answers: Record<string, Value> = {};
  const naming: Naming = { viewer, whom: data.get('whom'), names: {}, typed: 0 };
  for (const f of form.fields)
    setOwn(answers, f.id, hasColumns(f.kind) ? await linesFrom(data, f, naming) : await oneFrom(data, f, `f.${f.id}`, naming));
  return { answers, names: naming.names };
}

const heldBy = ({ viewer, whom }: Naming, { gave = '', lent = false }: OfHolding, name: string) =>
  viewer.id === undefined ? undefined : heldCalled(viewer.id, { gave, lent, whom, name });

/** Each line that was there, its cells named by where it stood. */
async function linesFrom(data: Posted, { id, columns = [] }: Field, naming: Naming): Promise<Value> {
  const lines: Entry[] = [];
  for (let n = 0; n < Math.min(Number(data.get(`f.${id}.lines`)) || 0, mostLines); n++) {
    const entry: Entry['entry'] = {};
    for (const c of columns) setOwn(entry, c.id, (await oneFrom(data, c, `f.${id}.${n}.${c.id}`, naming)) as Entry['entry'][string]);
    lines.push({ entry });
  }
  return lines.length > 0 ? lines : null;
}

/** What was posted under a name for a field or a column. */
async function oneFrom(data: Posted, f: Field | Column, at: string, naming: Naming): Promise<Value> {
  const raw = data.get(at);
  const type = fieldType(f.kind);
  const table = 'table' in f ? (f.table ?? '') : '';
  if (!isFound(type) && type !== 'row' && type !== 'holding') {
    const all = data.all(at).filter((v) => v !== '');
    // A sum is an amount and a currency beside it, where the form does not state that.
    const one = type === 'money' && raw ? `${raw} ${f.unit ?? data.get(`${at}.currency`)}`.trim() : raw;
    // Of files the last: the one that was attached in place of another.
    return postedAs(f.kind, f.kind === 'file' ? (all.at(-1) ?? '') : one, all);
  }
  const name = data.get(`${at}.name`);
  // The id counts only for the name it was given for: without scripts the name may have been typed over since.
  const chosen = raw && name === data.get(`${at}.for`) ? raw : '';
  const typed = chosen === '' && name ? ++naming.typed : 0;
  const called = () =>
    type === 'row'
      ? rowCalled(naming.viewer, table, name)
      : type === 'holding'
        ? heldBy(naming, 'gave' in f ? f : {}, name)
        : resolveName(type, name);
  const id = chosen || (typed > 0 && typed <= mostTyped ? ((await called()) ?? '') : '');
  // A name that finds nobody is kept as it was typed, so that the answer is refused and not lost.
  const kept = id || (typed === 0 ? '' : type === 'row' ? `${table || 'none'}/${name.trim().slice(0, 300)}` : `unknown-${typed}`);
  if (kept) setOwn(naming.names, kept, name);
  return typedAs(kept, type) ?? null;
}

/** The person, or the place, posted under a name: chosen, or typed out where scripts had no part; undefined where nothing was. */
export async function foundFrom(
  viewer: Filling,
  data: Posted,
  at: string,
  kind: 'person' | 'location' | 'group',
): Promise<{ id: string; name: string } | undefined> {
  const field = { id: kind, kind, label: '', required: false } as const;
  const naming: Naming = { viewer, whom: '', names: {}, typed: 0 };
  const [one] = namedIn(await oneFrom(data, field, at, naming));
  return one && { id: one.id, name: naming.names[one.id] ?? '' };
}

/** A posted form that may bring files: its answers, with what is to be told of files that cannot be attached, at their fields. */
export async function attachedAnswers(
  viewer: Viewer,
  request: Request,
  formFor: (data: Posted) => Promise<Form> | Form,
): Promise<{ data: Posted; answers: Record<string, Value>; names: Record<string, string>; wrong: FieldProblem[] }> {
  const wrong: FieldProblem[] = [];
  const data = await postedWithFiles(request, async (field, name, stream) => {
    const kept = await keepFile(viewer, { name, stream });
    if (kept.ok) return kept.file.id;
    wrong.push({ field: field.replace(/^f\./, ''), sentence: kept.sentence });
    return undefined;
  });
  const form = await formFor(data);
  const { answers, names } = await answersFrom(viewer, data, form);
  const files = filesIn(Object.values(answers));
  return { data, answers, names: { ...names, ...(files.length > 0 && (await namesOfOwn(viewer, files))) }, wrong };
}

/** A posted word about a case with the files that come with it (`file`): those attached before, and those that come before scripts load. */
export async function wordPosted(
  viewer: Viewer,
  request: Request,
): Promise<{ form: Posted; files: { id: string; name: string }[]; wrong: FieldProblem[] }> {
  const wrong: FieldProblem[] = [];
  const form = await postedWithFiles(request, async (field, name, stream) => {
    const kept = await keepFile(viewer, { name, stream });
    if (!kept.ok) wrong.push({ field, sentence: kept.sentence });
    return kept.ok ? kept.file.id : undefined;
  });
  return { form, files: await wordFilesIn(viewer, form), wrong };
}

/** The files that a posted word brings. */
export async function wordFilesIn(viewer: Viewer, form: Posted): Promise<{ id: string; name: string }[]> {
  const ids = form.all('file').filter(isId).slice(0, mostWithWord);
  const names = ids.length > 0 ? await namesOfOwn(viewer, ids) : {};
  return ids.map((id) => ({ id, name: names[id] ?? 'A file' }));
}
