import { clsx } from 'clsx';
import {
  Children,
  Fragment,
  isValidElement,
  useLayoutEffect,
  useRef,
  useSyncExternalStore,
  type ReactElement,
  type ReactNode,
  type RefObject,
} from 'react';

/** One of the things that can be chosen. */
export interface Choice {
  value: string;
  label: string;
  /** The heading it stands under. */
  group?: string;
}

type Props = { value?: string; label?: string; children?: ReactNode };

const wordsOf = (node: ReactNode): string => Children.toArray(node).join('');

/** The choices that are written as HTML writes them: options, in groups or not. */
export function choicesIn(children: ReactNode, group?: string): Choice[] {
  return Children.toArray(children).flatMap((child): Choice[] => {
    if (!isValidElement(child)) return [];
    const { type, props } = child as ReactElement<Props>;
    if (type === Fragment) return choicesIn(props.children, group);
    if (type === 'optgroup') return choicesIn(props.children, props.label);
    if (type !== 'option') throw new Error('A choice is an option or a group of options.');
    const label = wordsOf(props.children);
    return [{ value: props.value ?? label, label, ...(group !== undefined && { group }) }];
  });
}

/** The choices by the heading they stand under, in order. */
export function grouped(choices: Choice[]): { group: string | undefined; choices: Choice[] }[] {
  const found: { group: string | undefined; choices: Choice[] }[] = [];
  for (const c of choices) {
    const last = found.at(-1);
    if (last && last.group === c.group) last.choices.push(c);
    else found.push({ group: c.group, choices: [c] });
  }
  return found;
}

/** Whether the page is taken over; once it is, it stays so. */
let isTaken = false;
const takenOver = (): boolean => (isTaken ||= document.querySelector(':active') === null);
/** Longer than this nothing is pressed that is meant, in milliseconds. */
const longestPress = 2000;
function untilReleased(look: () => void): () => void {
  if (isTaken) return () => undefined;
  const soon = () => setTimeout(look);
  const releases = ['pointerup', 'pointercancel', 'keyup'] as const;
  for (const release of releases) addEventListener(release, soon);
  const last = setTimeout(() => {
    isTaken = true;
    look();
  }, longestPress);
  return () => {
    clearTimeout(last);
    for (const release of releases) removeEventListener(release, soon);
  };
}
/**
 * Whether scripts have taken the page over. Until then a control is what the browser itself offers, and posts as it is. While something is
 * pressed, by pointer or key, nothing is put in its place: what was pressed on the one and released on the other would be pressed on neither.
 */
export const useHydrated = (): boolean => useSyncExternalStore(untilReleased, takenOver, () => false);

/** The browser's own control and ours in its place: whoever had the keyboard on the one has it on the other. */
export function useKeptFocus<Native extends HTMLElement, Own extends HTMLElement>(
  hydrated: boolean,
): [RefObject<Native | null>, RefObject<Own | null>] {
  const native = useRef<Native>(null);
  const own = useRef<Own>(null);
  const had = useRef(false);
  useLayoutEffect(() => {
    if (!hydrated) had.current = document.activeElement === native.current;
    else if (had.current) own.current?.focus();
  }, [hydrated]);
  return [native, own];
}

/** What somebody chose in the browser's own control before scripts took it over: it is taken along, once. */
export function useTakenAlong<Native extends HTMLElement>(native: RefObject<Native | null>, take: (native: Native) => void): void {
  useLayoutEffect(() => {
    if (native.current) take(native.current);
  }, []); // eslint-disable-line react-hooks/exhaustive-deps -- only as it was when scripts came
}

/** The look of what opens a list: what is chosen, or faint what to do. */
export const opener = (value: string, className: string | undefined): string =>
  clsx('input flex items-center justify-between gap-2 text-left', value === '' && 'text-faint', className);
