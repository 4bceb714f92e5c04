import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { fieldType, hasFiles, type Answers, type Form } from '../../../core/forms/index.ts';
import { isOfType, Value } from '../../../core/values/index.ts';
import { useHydrated } from '../../ui/choices';

/** What somebody typed and did not send, as their browser keeps it. */
interface Kept {
  answers: Answers;
  names: Record<string, string>;
  /** When it was typed last, ISO 8601. */
  at: string;
}
/** How all keys begin under which it is kept: of whom, and of which item. */
const begins = 'asked ';
export const keyOf = (person: string, item: string): string => `${begins}${person} ${item}`;
/** For so long it is offered again. */
const days = 14;

/**
 * What was typed into a form and not sent is kept by the browser, also when it is closed, and offered when the form is opened
 * again: to the same person, for two weeks, and until it is sent, forgotten, or they sign out. `key` is undefined where nothing is
 * to be kept. Files are kept with nothing that is not sent, so they are attached again.
 */
export function useKeptAnswers(key: string | undefined, form: Form) {
  const hydrated = useHydrated();
  const found = useMemo(() => (hydrated && key ? keptIn(read(key), form) : undefined), [hydrated, key, form]);
  // What is offered stays as it is until somebody says what becomes of it.
  const [settled, setSettled] = useState(false);
  const offered = settled ? undefined : found;
  const waiting = useRef<Kept>(undefined);
  const sending = useRef(false);
  const write = useCallback(() => {
    if (key && waiting.current) store(key, JSON.stringify(waiting.current));
    waiting.current = undefined;
  }, [key]);
  useEffect(() => {
    if (!key) return;
    window.addEventListener('pagehide', write);
    return () => {
      window.removeEventListener('pagehide', write);
      if (sending.current) store(key, undefined);
      else write();
    };
  }, [key, write]);
  const later = useRef<ReturnType<typeof setTimeout>>(undefined);
  return {
    offered,
    /** Keeps what is typed, once typing rests; not over what is offered still. */
    keep: (answers: Answers, names: Record<string, string>) => {
      if (offered) return;
      setSettled(true);
      waiting.current = { answers, names, at: new Date().toISOString() };
      clearTimeout(later.current);
      later.current = setTimeout(write, 400);
    },
    /** It is on its way: gone once this form is left; kept on where it was refused. */
    sent: (underWay: boolean) => {
      sending.current = underWay;
    },
    /** It is gone on with, or not wanted. */
    settle: (forget: boolean) => {
      setSettled(true);
      if (forget && key) store(key, undefined);
    },
  };
}

/** Forgets whatever anybody typed and did not send; how wide columns are and the like stays. */
export function forgetAll(): void {
  try {
    for (const key of Object.keys(localStorage)) if (key.startsWith(begins)) localStorage.removeItem(key);
  } catch {
    // A browser that keeps nothing has nothing to forget.
  }
}

/** What is kept, as far as the form asks it today; undefined where that is nothing, or too old. */
export function keptIn(raw: string | null, form: Form, now = Date.now()): Kept | undefined {
  try {
    const kept = JSON.parse(raw ?? 'null') as Partial<Kept> | null;
    const at = Date.parse(kept?.at ?? '');
    if (!kept?.answers || !(now - at < days * 86_400_000)) return undefined;
    const { answers: all } = kept;
    const answers = Object.fromEntries(
      form.fields.flatMap((f) => {
        const value = Value.safeParse(Object.hasOwn(all, f.id) ? all[f.id] : null);
        return value.success && value.data !== null && !f.held && !hasFiles(f.kind) && isOfType(value.data, fieldType(f.kind))
          ? [[f.id, value.data] as const]
          : [];
      }),
    );
    const names = Object.fromEntries(Object.entries(kept.names ?? {}).filter(([, name]) => typeof name === 'string'));
    return Object.keys(answers).length > 0 ? { answers, names, at: new Date(at).toISOString() } : undefined;
  } catch {
    return undefined;
  }
}

// A browser may keep nothing, by its settings or for want of room: then nothing is offered.
function read(key: string): string | null {
  try {
    return localStorage.getItem(key);
  } catch {
    return null;
  }
}
function store(key: string, text: string | undefined): void {
  try {
    if (text === undefined) localStorage.removeItem(key);
    else localStorage.setItem(key, text);
  } catch {
    // As above.
  }
}
