import { useEffect, useLayoutEffect, useRef, useState, type FocusEvent, type KeyboardEvent, type RefObject } from 'react';
import { useHeld } from '../keyboard';
import { useLatest } from '../latest';

/** Rows that are chosen together. */
export interface ChosenRows {
  keys: ReadonlySet<string>;
  onChange: (keys: ReadonlySet<string>) => void;
}

interface Here {
  keys: string[];
  /** The row whose details are open. */
  open: string | undefined;
  scroller: RefObject<HTMLDivElement | null>;
  /** Scrolls to a row that is not drawn. */
  draw: (index: number) => void;
  onOpen: (index: number) => void;
  chosen: ChosenRows | undefined;
}

/** What a row's height and the window's are taken as, in pixels, where they are not known. */
const usual = { height: 47, window: 470 };

/** The keys of a list (WAI-ARIA grid, rows): one tab stop, and the keyboard is never lost when rows go. */
export function useGridKeys({ keys, open, scroller, draw, onOpen, chosen }: Here) {
  const [at, setAt] = useState<string>();
  const had = useRef({ keyboard: false, index: 0 });
  const goTo = (index: number): void => {
    const key = keys[Math.max(0, Math.min(index, keys.length - 1))];
    if (key === undefined) return;
    setAt(key);
    const take = () => {
      const row = scroller.current?.querySelector<HTMLElement>(`[data-row="${CSS.escape(key)}"]`);
      row?.focus();
      return row !== null && row !== undefined;
    };
    // At once, so that the next key is meant for it; one that is not drawn yet is scrolled to, and takes it when it is.
    if (take()) return;
    draw(keys.indexOf(key));
    requestAnimationFrame(() => take() || requestAnimationFrame(take));
  };
  const goToRef = useLatest(goTo);

  // One key from anywhere that hears none itself.
  useEffect(() => {
    const hear = (e: globalThis.KeyboardEvent) => {
      if (e.key !== 'ArrowDown' || e.defaultPrevented || e.altKey || e.ctrlKey || e.metaKey || e.shiftKey) return;
      const on = document.activeElement;
      if (on !== document.body && (on?.tagName !== 'A' || on.closest('[data-slip]'))) return;
      e.preventDefault();
      goToRef.current(0);
    };
    window.addEventListener('keydown', hear);
    return () => window.removeEventListener('keydown', hear);
  }, [goToRef]);

  useHeld(scroller, 'row', (key) => {
    setAt(key);
    had.current.keyboard = true;
  });

  // What was open is gone to when it is closed, where nothing else has the keyboard.
  const wasOpen = useRef(open);
  useLayoutEffect(() => {
    const was = wasOpen.current;
    wasOpen.current = open;
    if (was === undefined || open !== undefined || document.activeElement !== document.body) return;
    goToRef.current(keys.indexOf(was));
  }, [open, keys, goToRef]);

  // The row that the keyboard is on may be gone when the list is read anew: it goes to the one that stands there now.
  useLayoutEffect(() => {
    if (at === undefined) return;
    const index = keys.indexOf(at);
    if (index >= 0) had.current.index = index;
    else if (had.current.keyboard && document.activeElement === document.body) goToRef.current(had.current.index);
  }, [keys, at, goToRef]);

  const choose = (key: string) => {
    if (!chosen) return;
    const next = new Set(chosen.keys);
    if (!next.delete(key)) next.add(key);
    chosen.onChange(next);
  };
  const hear = (e: KeyboardEvent<HTMLElement>) => {
    const row = (e.target as HTMLElement).closest<HTMLElement>('[data-row]');
    if (!row || e.target !== row || e.altKey || e.ctrlKey || e.metaKey) return;
    const index = keys.indexOf(row.dataset['row'] ?? '');
    const page = Math.max(1, Math.floor((scroller.current?.clientHeight ?? usual.window) / usual.height) - 1);
    const go: Record<string, number> = {
      ArrowDown: index + 1,
      ArrowUp: index - 1,
      Home: 0,
      End: keys.length - 1,
      PageDown: index + page,
      PageUp: index - page,
    };
    if (Object.hasOwn(go, e.key)) {
      e.preventDefault();
      if (e.shiftKey && chosen && (e.key === 'ArrowDown' || e.key === 'ArrowUp')) {
        const next = keys[go[e.key]!];
        chosen.onChange(new Set([...chosen.keys, keys[index]!, ...(next === undefined ? [] : [next])]));
      }
      goTo(go[e.key]!);
    } else if (e.key === 'Enter') {
      e.preventDefault();
      onOpen(index);
    } else if (e.key === ' ') {
      e.preventDefault();
      choose(keys[index]!);
    } else if (e.key === 'Escape' && chosen && chosen.keys.size > 0) {
      e.preventDefault();
      chosen.onChange(new Set());
    }
  };
  return {
    at,
    setAt,
    choose,
    tabStop: [at, open].find((key) => key !== undefined && keys.includes(key)) ?? keys[0],
    heard: {
      onKeyDown: hear,
      onFocus: () => {
        had.current.keyboard = true;
      },
      onBlur: (e: FocusEvent<HTMLElement>) => {
        if (e.relatedTarget && !e.currentTarget.contains(e.relatedTarget)) had.current.keyboard = false;
      },
    },
  };
}
