import { useEffect, type RefObject } from 'react';
import { useLatest } from './latest';

/**
 * Whether somebody has put the keyboard somewhere else while what had it was closing, which takes a moment: what closes gives it
 * back to what opened it only where nobody has.
 */
export const keyboardIsElsewhere = (): boolean => document.activeElement !== null && document.activeElement !== document.body;

/**
 * Something in a box that had the keyboard before scripts took over has it still, though nobody heard that it got it: what names it, by
 * this data attribute, is told once.
 */
export function useHeld(box: RefObject<HTMLElement | null>, by: string, take: (name: string) => void): void {
  const held = useLatest(() => {
    const on = document.activeElement;
    const name = on instanceof HTMLElement && box.current?.contains(on) ? on.dataset[by] : undefined;
    if (name) take(name);
  });
  useEffect(() => held.current(), [held]);
}
