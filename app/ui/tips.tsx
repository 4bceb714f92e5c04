import { lazy, Suspense, useEffect, useRef, useState } from 'react';
import { flushSync } from 'react-dom';

/** Fetched when the first one shows. */
const Tip = lazy(() => import('./tip'));

const tipped = '[data-tip]';
/** Before a tip shows under a pointer that rests, and before it goes when the pointer has left, perhaps for the tip itself; in ms. */
const rest = 450;
const leave = 200;

/**
 * The words that stand beside whatever carries a tip (`data-tip`), under the pointer or the keyboard: one for the whole page, so
 * that a table of thousands of cells pays nothing for it. A tip only says more of what is named already; one of a text that is cut
 * off (`truncate`) shows only where it is cut. It can be pointed at, and Escape takes it away together with what Escape means there.
 */
export function Tips() {
  const [shown, setShown] = useState<{ words: string; of: DOMRect }>();
  const content = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let wait: ReturnType<typeof setTimeout> | undefined;
    let going: ReturnType<typeof setTimeout> | undefined;
    let of: Element | undefined;
    const hide = () => {
      clearTimeout(wait);
      clearTimeout(going);
      of = undefined;
      setShown(undefined);
    };
    const show = (from: EventTarget | null, after: number) => {
      const element = from instanceof Element ? from.closest(tipped) : null;
      if (element === null || element === of) {
        clearTimeout(going);
        const stays = element !== null || (from instanceof Node && content.current?.contains(from));
        if (!stays) going = setTimeout(hide, of && leave);
        return;
      }
      hide();
      const whole = element.classList.contains('truncate') && element.scrollWidth <= element.clientWidth;
      const words = element.getAttribute('data-tip');
      if (whole || !words) return;
      of = element;
      wait = setTimeout(() => {
        if (element.isConnected) setShown({ words, of: element.getBoundingClientRect() });
      }, after);
    };
    const over = (e: PointerEvent) => e.pointerType !== 'touch' && show(e.target, rest);
    const focus = (e: FocusEvent) => e.target instanceof Element && e.target.matches(`${tipped}:focus-visible`) && show(e.target, 0);
    const key = (e: KeyboardEvent) => e.key === 'Escape' && flushSync(hide);
    const listening: [string, (e: never) => unknown][] = [
      ['pointerover', over],
      ['focusin', focus],
      ['focusout', hide],
      ['pointerdown', hide],
      ['keydown', key],
      ['scroll', hide],
    ];
    for (const [type, listener] of listening) window.addEventListener(type, listener as EventListener, true);
    return () => {
      clearTimeout(wait);
      clearTimeout(going);
      for (const [type, listener] of listening) window.removeEventListener(type, listener as EventListener, true);
    };
  }, []);
  return (
    shown && (
      <Suspense>
        <Tip words={shown.words} of={shown.of} content={content} />
      </Suspense>
    )
  );
}
