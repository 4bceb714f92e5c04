import { CalendarDays } from 'lucide-react';
import { Popover as Parts } from 'radix-ui';
import { lazy, Suspense, useRef, useState } from 'react';
import { dateWords, readDay } from '../../core/calendar/index.ts';
import { useHydrated, useKeptFocus } from './choices';
import { useToday } from './now';

const Month = lazy(() => import('./month'));

/**
 * A day, typed or picked from a month. Typed it takes `26.11.2026`, `26 Nov`, `2026-11-26` and says the day it understood;
 * what it does not understand stays, and is posted as it was typed, for the server to refuse. Before scripts load it is the
 * browser's own field.
 */
export function DateField({
  value,
  name,
  onValue,
  ...ids
}: {
  /** `yyyy-mm-dd`, or empty. */
  value: string;
  name?: string;
  /** A day that exists, or nothing. */
  onValue: (day: string) => void;
  id?: string;
  'aria-label'?: string;
  'aria-describedby'?: string | undefined;
  'aria-invalid'?: true | undefined;
  'aria-required'?: boolean | undefined;
}) {
  const hydrated = useHydrated();
  const [native, box] = useKeptFocus<HTMLInputElement, HTMLInputElement>(hydrated);
  const today = useToday();
  const [typed, setTyped] = useState<string>();
  const [open, setOpen] = useState(false);
  const opener = useRef<HTMLButtonElement>(null);
  if (!hydrated)
    return <input {...ids} ref={native} name={name} type="date" className="input numbers" value={value} onChange={(e) => onValue(e.target.value)} />;
  const shown = typed ?? (value ? dateWords(value) : '');
  const wrong = typed !== undefined && typed.trim() !== '' && readDay(typed, today) === undefined;
  return (
    <span className="block">
      <span className="relative block">
        {name && <input type="hidden" name={name} value={wrong ? typed : value} />}
        <input
          {...ids}
          ref={box}
          className="input numbers pr-9!"
          autoComplete="off"
          placeholder="such as 26 Nov 2026"
          value={shown}
          aria-invalid={wrong || ids['aria-invalid'] ? true : undefined}
          onChange={(e) => {
            setTyped(e.target.value);
            const day = readDay(e.target.value, today);
            if (day !== undefined || e.target.value.trim() === '') onValue(day ?? '');
          }}
          // What was understood is said in the one form; what was not stays as it was typed.
          onBlur={() => !wrong && setTyped(undefined)}
          onKeyDown={(e) => {
            if (e.key !== 'ArrowDown' || !e.altKey) return;
            e.preventDefault();
            setOpen(true);
          }}
        />
        <Parts.Root open={open} onOpenChange={setOpen}>
          <Parts.Trigger
            ref={opener}
            type="button"
            aria-label="Pick a day"
            className="absolute inset-y-0 right-0 flex w-8 items-center justify-center text-faint hover:text-sea"
          >
            <CalendarDays size={15} aria-hidden />
          </Parts.Trigger>
          <Parts.Portal>
            <Parts.Content
              aria-label="Pick a day"
              align="end"
              sideOffset={4}
              collisionPadding={8}
              className="z-50 rounded border bg-sheet p-2 shadow-float"
              onCloseAutoFocus={(e) => {
                e.preventDefault();
                box.current?.focus();
              }}
            >
              <Suspense fallback={<p className="p-4 text-sm text-faint">A moment …</p>}>
                <Month
                  value={value}
                  today={today}
                  onPick={(day) => {
                    setTyped(undefined);
                    onValue(day);
                    setOpen(false);
                  }}
                />
              </Suspense>
            </Parts.Content>
          </Parts.Portal>
        </Parts.Root>
      </span>
      {wrong && (
        <span role="alert" className="mt-1 block text-sm text-coral">
          Type a day such as 26.11.2026 or 26 Nov.
        </span>
      )}
    </span>
  );
}
