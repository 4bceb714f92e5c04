import { createContext, createElement, useCallback, useContext, useEffect, useLayoutEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import type { ItemDefinition, ItemKind, Studied } from '../../core/items/index.ts';
import { keepLeft, sameDraft, takeLeft } from './left-behind';
import { useStudy } from './use-study';
import { useLatest } from '~/ui/latest';
import type { NamedKind } from '../../core/values/index.ts';
import { history, type Catalogue, type Finding, type History } from '../../core/plans/index.ts';

export type SaveState = { is: 'saved' } | { is: 'saving' } | { is: 'conflict' | 'refused' | 'unreachable'; sentence: string };

/** One editing session on a draft: changes with undo and redo, findings as you go, saved by itself. */
export interface DraftEditor {
  id: string;
  kind: ItemKind;
  draft: ItemDefinition;
  /** `did` says in words what the change was; undo and redo show them. */
  change: (next: ItemDefinition, did: string) => void;
  undo: () => string | undefined;
  redo: () => string | undefined;
  canUndo: string | undefined;
  canRedo: string | undefined;
  catalogue: Catalogue;
  findings: Finding[];
  /** What is worked out from the draft; it may lag behind by a moment. */
  studied: Studied;
  save: SaveState;
  version: number;
  /** Remembers what somebody or something that was picked is called, for sentences and checks. */
  learn: (id: string, name: string, kind?: NamedKind) => void;
  /** After a conflict: take theirs (ours stays one undo away), or save ours over theirs. */
  resolve: (how: 'theirs' | 'ours') => Promise<void>;
}

const Context = createContext<DraftEditor | undefined>(undefined);
export const DraftProvider = ({ value, children }: { value: DraftEditor; children: ReactNode }) =>
  createElement(Context.Provider, { value }, createElement(DraftedProvider, { value }, children));
export function useEditor(): DraftEditor {
  const editor = useContext(Context);
  if (!editor) throw new Error('There is no draft here.');
  return editor;
}

interface Loaded {
  id: string;
  kind: ItemKind;
  draft: ItemDefinition;
  version: number;
  catalogue: Catalogue;
  /** What is worked out from the draft as it was loaded. */
  studied: Studied;
}
type Answer = { ok: true; version: number } | { ok: false; code: string; sentence: string };

async function post(address: string, body: object, keepalive: boolean): Promise<Answer> {
  try {
    const response = await fetch(address, { method: 'POST', keepalive, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
    return (await response.json()) as Answer;
  } catch {
    return {
      ok: false,
      code: 'unreachable',
      sentence: 'The draft could not be saved: the server does not answer. It is tried again; keep this page open.',
    };
  }
}

/** What the settings of a step need of whatever they are part of: an item's draft, or a ticket kind whose moves have gates. */
export type Drafted = Pick<DraftEditor, 'draft' | 'change' | 'catalogue' | 'learn'>;
const DraftedContext = createContext<Drafted | undefined>(undefined);
export const DraftedProvider = DraftedContext.Provider;
export function useDrafted(): Drafted {
  const drafted = useContext(DraftedContext);
  if (!drafted) throw new Error('There is no draft here.');
  return drafted;
}

/** What is stated outright in the draft that is open, by name, and how a new name is remembered; nothing of either where no draft is open. */
export function useStated(): { nameOf: (kind: NamedKind, id: string) => string | undefined; learn: DraftEditor['learn'] } {
  const editor = useContext(DraftedContext);
  return {
    nameOf: (kind, id) => editor?.catalogue.stated?.[`${kind} ${id}`] ?? (kind === 'person' ? editor?.catalogue.people[id]?.name : undefined),
    learn: editor?.learn ?? (() => undefined),
  };
}

/** The draft as the server has it; undefined where it does not answer. */
async function draftAt(address: string): Promise<{ draft: ItemDefinition; version: number } | undefined> {
  try {
    const answer = await fetch(address);
    return answer.ok ? ((await answer.json()) as { draft: ItemDefinition; version: number }) : undefined;
  } catch {
    return undefined;
  }
}

/** How long typing may rest before it is saved, in milliseconds. */
const rest = 500;

/** `step`: the one whose places are wanted. */
export function useDraftEditor(loaded: Loaded, step: string | undefined): DraftEditor {
  const [h, setH] = useState<History<ItemDefinition>>(() => history.begin(loaded.draft));
  const [people, setPeople] = useState(loaded.catalogue.people);
  const [stated, setStated] = useState(loaded.catalogue.stated);
  const [version, setVersion] = useState(loaded.version);
  const [save, setSave] = useState<SaveState>({ is: 'saved' });
  const [kept, setKept] = useState(loaded.draft);
  const [again, setAgain] = useState(0);
  /** What an answer that arrives later compares itself with. */
  const now = useRef({ draft: loaded.draft, kept: loaded.draft, version: loaded.version, busy: false });
  const latest = useLatest(h);
  useLayoutEffect(() => {
    now.current.draft = h.present;
  }, [h]);

  const address = `/workshop/items/${loaded.id}/draft`;
  const send = useCallback(
    async (keepalive = false): Promise<void> => {
      const n = now.current;
      if (n.busy) return;
      n.busy = true;
      while (n.draft !== n.kept) {
        const { draft } = n;
        setSave({ is: 'saving' });
        const answer = await post(address, { version: n.version, draft }, keepalive);
        // What was sent as a page was left may arrive after it is sent again: the same twice is no conflict.
        const theirs = !answer.ok && answer.code === 'changed-meanwhile' ? await draftAt(address) : undefined;
        if (theirs && sameDraft(theirs.draft, draft)) {
          Object.assign(n, { kept: draft, version: theirs.version });
          setKept(draft);
          setVersion(theirs.version);
          if (n.draft === draft) setSave({ is: 'saved' });
          continue;
        }
        if (!answer.ok) {
          const is = answer.code === 'changed-meanwhile' ? 'conflict' : answer.code === 'unreachable' ? 'unreachable' : 'refused';
          setSave({ is, sentence: answer.sentence });
          if (is === 'unreachable') setTimeout(() => setAgain((x) => x + 1), 3000);
          break;
        }
        n.kept = draft;
        n.version = answer.version;
        setKept(draft);
        setVersion(answer.version);
        if (n.draft !== draft) continue;
        keepLeft(loaded.id, { version: answer.version });
        setSave({ is: 'saved' });
      }
      n.busy = false;
    },
    [address, loaded.id],
  );

  useEffect(() => {
    if (h.present === kept || save.is === 'conflict') return;
    const wait = setTimeout(() => void send(), rest);
    return () => clearTimeout(wait);
  }, [h.present, kept, save.is, again, send]);

  // Leaving the page within the pause loses nothing.
  useEffect(() => {
    const leave = () => {
      const n = now.current;
      if (n.draft === n.kept) return;
      keepLeft(loaded.id, { version: n.version, draft: n.draft });
      void send(true);
    };
    window.addEventListener('pagehide', leave);
    return () => {
      window.removeEventListener('pagehide', leave);
      leave();
    };
  }, [send, loaded.id]);

  // What was on its way when the page was left last: it has arrived meanwhile, or it is sent now, or somebody else was first. This page
  // may have been read before what was saved last, too.
  useEffect(() => {
    const left = takeLeft(loaded.id);
    if (!left || (!left.draft && left.version <= now.current.version)) return;
    const { draft } = left;
    let over = false;
    void draftAt(address)
      .then((theirs) => {
        if (over) return;
        if (!theirs) throw new Error('The server does not answer.');
        Object.assign(now.current, { version: theirs.version, kept: theirs.draft });
        setKept(theirs.draft);
        setVersion(theirs.version);
        // What was typed here meanwhile is newer than both.
        const begun = (was: History<ItemDefinition>) => (was.past.length > 0 ? was : history.begin(theirs.draft));
        if (!draft || sameDraft(theirs.draft, draft)) return setH(begun);
        setH((was) => (was.past.length > 0 ? was : history.record(begun(was), draft, 'Take up what was not saved yet', Date.now())));
        if (theirs.version !== left.version)
          setSave({ is: 'conflict', sentence: 'Somebody else has saved this draft while yours was on its way. Yours is kept here.' });
      })
      // The server does not answer: saving says so, and tries again.
      .catch(() => !over && draft && setH((was) => history.record(was, draft, 'Take up what was not saved yet', Date.now())));
    return () => {
      over = true;
    };
  }, [loaded.id, address]);

  const catalogue = useMemo(() => ({ ...loaded.catalogue, people, ...(stated && { stated }) }), [loaded.catalogue, people, stated]);
  const studied = useStudy(loaded, h.present, catalogue, step);

  return {
    id: loaded.id,
    kind: loaded.kind,
    draft: h.present,
    change: (next, did) => setH((was) => history.record(was, next, did, Date.now())),
    // Of what is there when it is pressed: a message that offers it may stand while more is done.
    undo: () => {
      const did = latest.current.past.at(-1)?.did;
      setH(history.undo);
      return did;
    },
    redo: () => {
      const did = latest.current.future[0]?.did;
      setH(history.redo);
      return did;
    },
    canUndo: h.past.at(-1)?.did,
    canRedo: h.future[0]?.did,
    catalogue,
    findings: studied.findings,
    studied,
    save: save.is === 'saved' && h.present !== kept ? { is: 'saving' } : save,
    version,
    learn: (id, name, kind = 'person') => {
      if (kind === 'person') setPeople((p) => (p[id] ? p : { ...p, [id]: { name, active: true } }));
      setStated((s) => (s?.[`${kind} ${id}`] === name ? s : { ...s, [`${kind} ${id}`]: name }));
    },
    resolve: async (how) => {
      const theirs = await draftAt(address);
      if (!theirs) return setSave({ is: 'unreachable', sentence: 'The other version could not be fetched: the server does not answer. Try again.' });
      now.current.version = theirs.version;
      now.current.kept = theirs.draft;
      setKept(theirs.draft);
      setVersion(theirs.version);
      const ours = h.present;
      const withTheirs = history.record(h, theirs.draft, 'Take the other version', Date.now());
      setH(how === 'theirs' ? withTheirs : history.record(withTheirs, { ...ours }, 'Put my version over the other', Date.now()));
      setSave({ is: how === 'theirs' ? 'saved' : 'saving' });
    },
  };
}
