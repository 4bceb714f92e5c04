import { useLayoutEffect, useRef, type ReactNode } from 'react';
import { X } from 'lucide-react';
import { Link, NavLink, useNavigate } from 'react-router';
import { clsx } from 'clsx';

/** A place's frame: lists in the left margin, the work on the sheet, details in a slip at the right. */
export function Frame({ margin, marginLabel, children, slip }: { margin?: ReactNode; marginLabel?: string; children: ReactNode; slip?: ReactNode }) {
  return (
    <div
      className={clsx(
        'grid min-h-[calc(100vh-49px)] grid-cols-1',
        margin && 'grid-rows-[auto_1fr] md:grid-cols-[216px_minmax(0,1fr)] md:grid-rows-1',
      )}
    >
      {margin && (
        <nav aria-label={marginLabel} className="border-b md:border-r md:border-b-0">
          {margin}
        </nav>
      )}
      <div className={clsx('grid min-w-0 bg-sheet', slip && 'lg:grid-cols-[minmax(0,1fr)_360px]')}>
        <main id="main" className="min-w-0 px-4 py-5 md:px-8">
          {children}
        </main>
        {slip}
      </div>
    </div>
  );
}

/** A place whose sheet fills the window and scrolls within it: its margin, and what the page puts beside that. */
export function Place({ margin, marginLabel, children }: { margin: ReactNode; marginLabel: string; children: ReactNode }) {
  return (
    <div className="grid min-h-[calc(100vh-49px)] grid-cols-1 grid-rows-[auto_1fr] md:h-[calc(100vh-49px)] md:grid-cols-[196px_minmax(0,1fr)] md:grid-rows-1">
      <nav aria-label={marginLabel} className="min-h-0 overflow-y-auto border-b max-md:overflow-x-auto md:border-r md:border-b-0">
        {margin}
      </nav>
      <div className="min-h-0 min-w-0 bg-sheet md:overflow-y-auto">{children}</div>
    </div>
  );
}

/** A page of such a place that is no list. */
export function Page({ children }: { children: ReactNode }) {
  return (
    <main id="main" className="px-4 py-5 md:px-8">
      {children}
    </main>
  );
}

/**
 * A list that has the whole sheet; what is open stands in a slip at its right, and in its place where the window is narrow.
 * What is opened takes the keyboard; Escape closes it, and the list has the keyboard again where it was.
 */
export function ListSheet({
  children,
  slip,
  closeTo = '',
  of,
}: {
  children: ReactNode;
  slip?: ReactNode;
  /** Where closing the slip leads. */
  closeTo?: string;
  /** What the slip shows. */
  of?: string;
}) {
  const navigate = useNavigate();
  const box = useRef<HTMLDivElement>(null);
  const shown = useRef<string>(undefined);
  useLayoutEffect(() => {
    const before = shown.current;
    shown.current = of;
    // A page that is opened with its slip leaves the keyboard where pages have it.
    if (of === undefined || of === before || !document.activeElement?.closest('[data-row]')) return;
    box.current?.focus({ preventScroll: true });
  }, [of]);
  return (
    <main id="main" className={clsx('grid h-full min-h-0 min-w-0', slip && 'lg:grid-cols-[minmax(0,1fr)_minmax(400px,40%)]')}>
      <div className={clsx('flex min-h-0 min-w-0 flex-col px-3 pt-4 md:px-4', slip && 'max-lg:hidden')}>{children}</div>
      {slip && (
        <div
          ref={box}
          data-slip
          tabIndex={-1}
          className="relative min-h-0 min-w-0 bg-paper px-4 py-4 lg:overflow-y-auto outline-none md:px-5 lg:border-l"
          onKeyDown={(e) => {
            if (e.key !== 'Escape' || e.defaultPrevented) return;
            e.preventDefault();
            void navigate(closeTo, { preventScrollReset: true });
          }}
        >
          <Link
            to={closeTo}
            preventScrollReset
            data-tip="Close (Esc)"
            className="absolute top-3 right-3 hidden size-8 items-center justify-center rounded text-sea hover:bg-sea-wash lg:flex"
          >
            <X size={15} aria-hidden />
            <span className="sr-only">Close</span>
          </Link>
          {slip}
        </div>
      )}
    </main>
  );
}

/** A line of a margin, with how many are there. */
export function MarginLine({ to, here, count, children }: { to: string; here: boolean; count?: string | undefined; children: ReactNode }) {
  return (
    <Link
      to={to}
      aria-current={here ? 'page' : undefined}
      className={clsx(
        'flex items-baseline gap-3 border-l-3 px-4 py-1.5 whitespace-nowrap hover:text-sea',
        here ? 'border-sea bg-sea-wash font-medium' : 'border-transparent',
      )}
    >
      {children}
      {count !== undefined && <span className="numbers ml-auto text-sm font-normal text-faint">{count}</span>}
    </Link>
  );
}

export function MarginLink({ to, end = false, children }: { to: string; end?: boolean; children: ReactNode }) {
  return (
    <NavLink
      to={to}
      end={end}
      className={({ isActive }) =>
        clsx('block border-l-3 px-4 py-1.5 hover:text-sea', isActive ? 'border-sea bg-sea-wash font-medium' : 'border-transparent')
      }
    >
      {children}
    </NavLink>
  );
}

/** An empty list says what belongs there and offers the first act. */
export function Empty({ children, act }: { children: ReactNode; act?: ReactNode }) {
  return (
    <div className="border-y py-10 text-center text-faint">
      <p className="mx-auto mb-4 max-w-md">{children}</p>
      {act}
    </div>
  );
}
